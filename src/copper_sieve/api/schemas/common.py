"""Base classes of requests and responses, and errors."""

from __future__ import annotations

import base64
from collections.abc import Iterable

from pydantic import BaseModel, ConfigDict


class RequestModel(BaseModel):
    """Base class of requests; unknown fields are rejected."""

    model_config = ConfigDict(extra="forbid")


class ResponseModel(BaseModel):
    """Base class of responses, created from service objects; every field is always present."""

    model_config = ConfigDict(
        from_attributes=True, json_schema_serialization_defaults_required=True
    )


class Problem(BaseModel):
    """Problem details of an error (RFC 9457)."""

    type: str  # stable identifier of the kind of error, such as /problems/not-found
    title: str
    status: int
    detail: str  # cause and remedy


def framed(head: BaseModel, values: Iterable[bytes | memoryview]) -> bytes:
    """Return the length of a JSON text (four bytes, little endian), the text, and binary values."""
    text = head.model_dump_json().encode()
    return b"".join([len(text).to_bytes(4, "little"), text, *values])


def png_url(png: bytes) -> str:
    """Return a PNG as a data URL, for small pictures inside a response."""
    return "data:image/png;base64," + base64.b64encode(png).decode()
