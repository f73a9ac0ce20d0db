"""The webhook outbox: writes one message per ended delivery, and sends them.

Each receiver has at most one call at a time and its own attempts, so that a failing or slow one
doesn't delay others.
"""

from __future__ import annotations

import asyncio
import json
import logging
from contextlib import suppress
from datetime import UTC, datetime
from typing import Any

from psycopg_pool import PoolClosed

from copper_sieve.core.errors import DatabaseUnavailableError
from copper_sieve.services.context import Context
from copper_sieve.services.elected_poller import ElectedPoller
from copper_sieve.services.webhooks.addresses import AddressPolicy
from copper_sieve.services.webhooks.sending import (
    DEADLINE,
    PATIENCE,
    Send,
    seconds_until_next,
    send,
)
from copper_sieve.store import deliveries, webhooks
from copper_sieve.store.delivery_rows import LightPart, StoredDelivery, why_failed
from copper_sieve.store.projects import slug_of
from copper_sieve.store.webhooks import OutboxMessage, UnannouncedDelivery

_log = logging.getLogger(__name__)
_EVERY = 0.5  # seconds
_LOCK = -1  # of the server that sends; the keeper has 0
_MOST_PARTS = 200
_AT_ONCE = 32  # calls
_LEASE = DEADLINE + 20  # seconds


def message(
    project: str, delivery: StoredDelivery, parts: list[LightPart], now: datetime
) -> dict[str, Any]:
    """Return the message about an ended delivery, with its first 200 parts, failed ones first."""
    shown = sorted(parts, key=lambda part: (part.state != "failed", part.n))[:_MOST_PARTS]
    return {
        "event": f"delivery.{delivery.state}",
        "project": project,
        "delivery": delivery.id,
        "state": delivery.state,
        "error": why_failed(parts),
        "parts": len(parts),
        "done": delivery.counts.done,
        "failed": delivery.counts.failed,
        "cancelled": delivery.counts.cancelled,
        "finished_at": delivery.finished_at.isoformat() if delivery.finished_at else None,
        "sent_at": now.isoformat(),
        "shown": [
            {"set": part.set_name, "target": part.target_id, "state": part.state,
             "folder": str(part.folder), "written": part.written, "kept": part.kept,
             "error": part.error}
            for part in shown
        ],
    }  # fmt: skip


class Dispatcher(ElectedPoller):
    """A thread with an event loop that sends the messages of the outbox."""

    def __init__(self, context: Context, every: float = _EVERY, send: Send = send) -> None:
        super().__init__(context, "webhooks", _LOCK, self.look, every)
        self._send = send
        self._loop = asyncio.new_event_loop()
        self._under_way: dict[int, asyncio.Task[None]] = {}

    def stop(self) -> None:
        """End the thread; calls under way are made again by the next server."""
        super().stop()
        if not self._loop.is_closed():
            self._loop.run_until_complete(self._cancelled())
            self._loop.close()

    def look(self) -> None:
        """Write new messages, start due calls, and wait a moment for responses."""
        self._write_messages()
        policy = AddressPolicy.of(self._context.settings)
        with self._context.database.transaction() as connection:
            due = webhooks.take_due(
                connection, self._under_way, lease=_LEASE, most=_AT_ONCE - len(self._under_way)
            )
        self._loop.run_until_complete(self._round(due, policy))

    def finish(self) -> None:
        """Wait until no call is under way."""
        while self._under_way:
            self._loop.run_until_complete(asyncio.wait(self._under_way.values()))
            self._under_way = {}

    def _write_messages(self) -> None:
        with self._context.database.transaction() as connection:
            ended = webhooks.unreported(connection)
        for one in ended:
            self._report(one)

    def _report(self, ended: UnannouncedDelivery) -> None:
        """Write one message per receiver, in the transaction that records that they are written."""
        with self._context.database.transaction() as connection:
            if not webhooks.set_reported(connection, ended.id, reported=True):
                return
            receivers = webhooks.of_project(connection, ended.project_id)
            if not receivers:
                return
            slug = slug_of(connection, ended.project_id)
            delivery, parts = deliveries.delivery_summary(connection, ended.id)
            content = message(slug, delivery, parts, datetime.now(UTC))
            text, event = json.dumps(content), str(content["event"])
            for receiver in receivers:
                webhooks.add_message(connection, receiver.id, event, text, ended.id)

    async def _round(self, due: list[OutboxMessage], policy: AddressPolicy) -> None:
        for one in due:
            task = asyncio.get_running_loop().create_task(self._call(one, policy))
            self._under_way[one.webhook_id] = task
        if self._under_way:
            await asyncio.wait(self._under_way.values(), timeout=_EVERY)
            self._under_way = {
                number: task for number, task in self._under_way.items() if not task.done()
            }

    async def _call(self, outgoing: OutboxMessage, policy: AddressPolicy) -> None:
        answer = await self._send(outgoing, policy)
        if answer.error:
            _log.warning(
                "webhook call failed webhook=%s message=%s attempt=%s reason=%r",
                outgoing.webhook_id, outgoing.id, outgoing.attempts, answer.error,
            )  # fmt: skip
        wait = seconds_until_next(outgoing.attempts)
        try:
            with self._context.database.transaction() as connection:
                paused = webhooks.record_attempt(
                    connection, outgoing, answer, wait=wait, patience=PATIENCE
                )
        except (DatabaseUnavailableError, PoolClosed):
            return  # it is due again when its lease ends
        if paused:
            _log.warning("webhook paused webhook=%s reason=%r", outgoing.webhook_id, answer.error)

    async def _cancelled(self) -> None:
        for task in self._under_way.values():
            task.cancel()
        with suppress(asyncio.CancelledError):
            await asyncio.gather(*self._under_way.values(), return_exceptions=True)
