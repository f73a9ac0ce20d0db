"""Webhooks and their calls."""

from __future__ import annotations

from datetime import datetime
from uuid import UUID

from pydantic import Field

from copper_sieve.api.schemas.common import RequestModel, ResponseModel
from copper_sieve.store.webhooks import MessageState


class WebhookCreate(RequestModel):
    """A URL that receives a signed message when a delivery ends."""

    url: str = Field(min_length=1, max_length=2000)
    secret: str | None = Field(
        default=None, min_length=16, max_length=200, description="default: generated"
    )


class WebhookChange(RequestModel):
    """Pause a webhook, or resume it and send waiting messages."""

    paused: bool


class WebhookRead(ResponseModel):
    """A webhook; its secret is only returned when it is created."""

    id: int
    url: str
    created_at: datetime
    last_called_at: datetime | None
    last_error: str | None = Field(description="null: the last call succeeded")
    failing_since: datetime | None = Field(description="start of the current series of failures")
    paused_at: datetime | None = Field(description="paused by the user, or after a day of failures")
    waiting: int = Field(description="messages waiting to be sent")


class NewWebhookRead(WebhookRead):
    """A webhook with the secret that its messages are signed with."""

    secret: str


class WebhookCallRead(ResponseModel):
    """A call. `state` is the current state of its message."""

    id: int
    message_id: int
    event: str
    delivery_id: int | None
    key: UUID = Field(description="Idempotency-Key header of the message")
    called_at: datetime
    seconds: float
    status: int | None = Field(description="HTTP status; null: no response")
    error: str | None
    excerpt: str = Field(description="first 2,000 bytes of the response")
    state: MessageState
