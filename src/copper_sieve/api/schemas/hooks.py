"""Webhooks."""

from __future__ import annotations

from datetime import datetime

from pydantic import Field

from copper_sieve.api.schemas.common import Answer, Request


class HookCreate(Request):
    """An address that is told when a delivery has ended."""

    url: str = Field(min_length=1, max_length=2000)
    secret: str | None = Field(
        default=None, min_length=8, max_length=200, description="default: a new one"
    )


class HookRead(Answer):
    """An address and how the last call to it went; its secret is only told when it is made."""

    id: int
    url: str
    last_called_at: datetime | None
    last_error: str | None
    created_at: datetime


class NewHookRead(HookRead):
    """The same with the secret by which what is told is signed."""

    secret: str
