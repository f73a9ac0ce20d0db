"""Webhooks, the outbox of messages to them, and the calls that were made."""

from __future__ import annotations

from collections.abc import Collection
from dataclasses import dataclass
from datetime import datetime
from typing import Literal
from uuid import UUID

from copper_sieve.core.errors import NotFoundError
from copper_sieve.store.database import Transaction, statements

_SQL = statements("webhooks")
_KEPT_MESSAGES = 200  # of each webhook, besides those that wait
MessageState = Literal["waiting", "sent", "failed"]


@dataclass(frozen=True, slots=True)
class Webhook:
    """A receiver of messages about deliveries of a project.

    Attributes
    ----------
    secret : str
        Messages are signed with it.
    failing_since : datetime or None
        Since when every call has failed.
    paused_at : datetime or None
        Nothing is sent since then.
    last_called_at, last_error : datetime or None, str or None
        Of the last call; no error: it succeeded.
    waiting : int
        Number of messages that are still to be sent.
    """

    id: int
    project_id: int
    url: str
    secret: str
    created_at: datetime
    failing_since: datetime | None
    paused_at: datetime | None
    last_called_at: datetime | None
    last_error: str | None
    waiting: int


@dataclass(frozen=True, slots=True)
class OutboxMessage:
    """A message to be sent, with its receiver; `attempts` includes this one."""

    id: int
    webhook_id: int
    key: UUID
    event: str
    body: str
    attempts: int
    url: str
    secret: str


@dataclass(frozen=True, slots=True)
class WebhookResponse:
    """Result of a call.

    status : of the response; None without one
    error : why it failed; None if it didn't
    excerpt : beginning of the response
    """

    seconds: float
    status: int | None
    error: str | None
    excerpt: str = ""


@dataclass(frozen=True, slots=True)
class Call:
    """A call, and the current state of its message."""

    id: int
    message_id: int
    webhook_id: int
    event: str
    delivery_id: int | None
    key: UUID
    called_at: datetime
    seconds: float
    status: int | None
    error: str | None
    excerpt: str
    state: MessageState


@dataclass(frozen=True, slots=True)
class UnannouncedDelivery:
    """A delivery that has ended and has no messages yet."""

    id: int
    project_id: int


def add(connection: Transaction, project_id: int, url: str, secret: str) -> Webhook:
    """Add a receiver."""
    parameters = {"project_id": project_id, "url": url, "secret": secret}
    row = connection.execute(_SQL["insert"], parameters).fetchone()
    assert row is not None
    return get(connection, row["id"])


def of_project(connection: Transaction, project_id: int) -> list[Webhook]:
    """Return the receivers of a project, oldest first."""
    rows = connection.execute(_SQL["list"], {"id": None, "project_id": project_id})
    return [Webhook(**row) for row in rows]


def get(connection: Transaction, webhook_id: int) -> Webhook:
    """Return one receiver. Raises NotFoundError."""
    row = connection.execute(_SQL["list"], {"id": webhook_id, "project_id": None}).fetchone()
    if row is None:
        raise NotFoundError(f"there is no webhook {webhook_id}")
    return Webhook(**row)


def remove(connection: Transaction, webhook_id: int) -> None:
    """Remove a receiver with its messages. Raises NotFoundError."""
    if connection.execute(_SQL["remove"], {"id": webhook_id}).rowcount == 0:
        raise NotFoundError(f"there is no webhook {webhook_id}")


def set_paused(connection: Transaction, webhook_id: int, *, paused: bool) -> None:
    """Pause a receiver, or resume it and send what waits. Raises NotFoundError."""
    parameters = {"id": webhook_id, "paused": paused}
    if connection.execute(_SQL["set_paused"], parameters).rowcount == 0:
        raise NotFoundError(f"there is no webhook {webhook_id}")
    if not paused:
        connection.execute(_SQL["make_due"], parameters)


def unreported(connection: Transaction) -> list[UnannouncedDelivery]:
    """Return deliveries that have ended and have no messages yet."""
    return [UnannouncedDelivery(**row) for row in connection.execute(_SQL["unreported"])]


def set_reported(connection: Transaction, delivery_id: int, *, reported: bool) -> bool:
    """Record whether the messages about a delivery's end are written; return False if unchanged."""
    parameters = {"id": delivery_id, "reported": reported}
    return connection.execute(_SQL["set_reported"], parameters).rowcount == 1


def add_message(
    connection: Transaction, webhook_id: int, event: str, body: str, delivery_id: int | None = None
) -> int:
    """Put a message into the outbox and return its number."""
    parameters = {
        "webhook_id": webhook_id,
        "event": event,
        "body": body,
        "delivery_id": delivery_id,
    }
    row = connection.execute(_SQL["add_message"], parameters).fetchone()
    assert row is not None
    return int(row["id"])


def take_due(
    connection: Transaction, busy: Collection[int], *, lease: float, most: int
) -> list[OutboxMessage]:
    """Take the oldest message that is due of each receiver that isn't busy or paused.

    lease : seconds after which a message is due again if nothing is noted about it
    """
    parameters = {"busy": list(busy), "lease": lease, "most": most}
    return [OutboxMessage(**row) for row in connection.execute(_SQL["take_due"], parameters)]


def take(connection: Transaction, message_id: int) -> OutboxMessage:
    """Take one message. Raises NotFoundError."""
    row = connection.execute(_SQL["take"], {"id": message_id}).fetchone()
    if row is None:
        raise NotFoundError(f"there is no message {message_id}")
    return OutboxMessage(**row)


def set_failed(connection: Transaction, message_id: int) -> None:
    """Mark a message as failed; it isn't sent automatically any more."""
    connection.execute(_SQL["set_failed"], {"id": message_id})


def record_attempt(
    connection: Transaction,
    sent: OutboxMessage,
    answer: WebhookResponse,
    *,
    wait: float | None,
    patience: float,
) -> bool:
    """Record the result of a call; return whether the receiver is paused now.

    Parameters
    ----------
    connection : Transaction
    sent : OutboxMessage
    answer : WebhookResponse
    wait : float or None
        Seconds until a failed message is sent again; None: it isn't.
    patience : float
        Seconds of only failed calls after which a receiver is paused.
    """
    call = {"message_id": sent.id, "seconds": answer.seconds, "status": answer.status,
            "error": answer.error, "excerpt": answer.excerpt}  # fmt: skip
    if connection.execute(_SQL["add_call"], call).rowcount == 0:  # removed in the meantime
        return False
    state: MessageState = "sent" if answer.error is None else "failed"
    if answer.error is not None and wait is not None:
        state = "waiting"
    connection.execute(_SQL["set_message"], {"id": sent.id, "state": state, "wait": wait or 0})
    connection.execute(_SQL["prune"], {"id": sent.webhook_id, "most": _KEPT_MESSAGES})
    if answer.error is None:
        connection.execute(_SQL["note_success"], {"id": sent.webhook_id})
        return False
    parameters = {"id": sent.webhook_id, "patience": patience}
    row = connection.execute(_SQL["note_failure"], parameters).fetchone()
    return bool(row and row["paused"])


def calls(connection: Transaction, webhook_id: int, *, before: int | None, most: int) -> list[Call]:
    """Return calls of a receiver, the newest first; before : only those before this call."""
    parameters = {"id": webhook_id, "before": before, "most": most}
    return [Call(**row) for row in connection.execute(_SQL["calls"], parameters)]


def send_again(connection: Transaction, webhook_id: int, message_id: int) -> None:
    """Make a message due again, in any state. Raises NotFoundError."""
    parameters = {"id": webhook_id, "message_id": message_id}
    if connection.execute(_SQL["send_again"], parameters).rowcount == 0:
        raise NotFoundError(f"webhook {webhook_id} has no message {message_id}")
