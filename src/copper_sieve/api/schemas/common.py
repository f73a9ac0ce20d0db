"""Bases of requests and answers, and the shape of an error."""

from __future__ import annotations

import base64
from collections.abc import Iterable

from pydantic import BaseModel, ConfigDict


class Request(BaseModel):
    """Unknown fields are refused."""

    model_config = ConfigDict(extra="forbid")


class Answer(BaseModel):
    """Read from objects of the services; every field is always there."""

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
    """The length of a JSON text (four bytes, little endian), that text, and values behind it."""
    text = head.model_dump_json().encode()
    return b"".join([len(text).to_bytes(4, "little"), text, *values])


def png_url(png: bytes) -> str:
    """A PNG as a data URL, for small pictures that belong to an answer."""
    return "data:image/png;base64," + base64.b64encode(png).decode()
