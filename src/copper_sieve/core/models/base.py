"""The common base of all exchanged data."""

from __future__ import annotations

from typing import Any

from pydantic import BaseModel, ConfigDict, WithJsonSchema


class Model(BaseModel):
    """Unknown fields are refused, so that a misspelt one is never silently ignored."""

    model_config = ConfigDict(extra="forbid", frozen=True)


def list_of(items: dict[str, Any], count: int) -> WithJsonSchema:
    """A tuple of one kind, as a list of so many in the schema: clients take it for what it is."""
    return WithJsonSchema({"type": "array", "items": items, "minItems": count, "maxItems": count})
