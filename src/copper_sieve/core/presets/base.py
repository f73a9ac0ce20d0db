"""The common base of all exchanged data."""

from __future__ import annotations

from pydantic import BaseModel, ConfigDict


class Model(BaseModel):
    """Unknown fields are refused, so that a misspelt one is never silently ignored."""

    model_config = ConfigDict(extra="forbid", frozen=True)
