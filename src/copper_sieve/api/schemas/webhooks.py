"""Webhooks and their calls."""

from __future__ import annotations

from datetime import datetime
from uuid import UUID

from pydantic import Field

from copper_sieve.api.schemas.common import Answer, Request
from copper_sieve.store.webhooks import MessageState


class WebhookCreate(Request):
    """An address that gets a signed message when a delivery has ended."""

    url: str = Field(min_length=1, max_length=2000)
    secret: str | None = Field(
        default=None, min_length=16, max_length=200, description="default: a new one"
    )


class WebhookChange(Request):
    """Pause a webhook, or resume it and send what waits."""

    paused: bool


class WebhookRead(Answer):
    """A webhook; its secret is only in the answer that creates it."""

    id: int
    url: str
    created_at: datetime
    last_called_at: datetime | None
    last_error: str | None = Field(description="null: the last call succeeded")
    failing_since: datetime | None = Field(description="since when every call has failed")
    paused_at: datetime | None = Field(description="paused by hand, or after a day of failures")
    waiting: int = Field(description="messages that are still to be sent")


class NewWebhookRead(WebhookRead):
    """A webhook with the secret that its messages are signed with."""

    secret: str


class WebhookCallRead(Answer):
    """A call that was made. `state` is that of its message now."""

    id: int
    message_id: int
    event: str
    delivery_id: int | None
    key: UUID = Field(description="Idempotency-Key of the message")
    called_at: datetime
    seconds: float
    status: int | None = Field(description="of the answer; null: there was none")
    error: str | None
    excerpt: str = Field(description="the beginning of the answer, up to 2,000 bytes")
    state: MessageState
