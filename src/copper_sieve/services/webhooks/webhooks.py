"""Add and remove webhooks, see their calls, and send a message again."""

from __future__ import annotations

import asyncio
import json
import secrets
from datetime import UTC, datetime

from copper_sieve.services.context import Context
from copper_sieve.services.webhooks.addresses import AddressPolicy, checked_url
from copper_sieve.services.webhooks.sending import PATIENCE, send
from copper_sieve.store import webhooks
from copper_sieve.store.projects import get_project, slug_of
from copper_sieve.store.webhooks import Call, Webhook

TEST_EVENT = "webhook.test"
_PAGE = 50


def add(context: Context, slug: str, url: str, secret: str | None = None) -> Webhook:
    """Add a webhook that receives messages about a project's deliveries.

    Parameters
    ----------
    context : Context
    slug : str
        Of the project.
    url : str
        http:// or https://, without a user name or password.
    secret : str, optional
        Messages are signed with it. Default: a new one.

    Raises
    ------
    NotFoundError
    ParameterError
        The address is invalid or not allowed.
    """
    url = checked_url(url)
    AddressPolicy.of(context.settings).check_literal(url)
    with context.database.transaction() as connection:
        project = get_project(connection, slug)
        return webhooks.add(connection, project.id, url, secret or secrets.token_urlsafe(32))


def list_all(context: Context, slug: str) -> list[Webhook]:
    """Return the webhooks of a project, oldest first. Raises NotFoundError."""
    with context.database.transaction() as connection:
        return webhooks.of_project(connection, get_project(connection, slug).id)


def remove(context: Context, webhook_id: int) -> None:
    """Remove a webhook with its messages. Raises NotFoundError."""
    with context.database.transaction() as connection:
        webhooks.remove(connection, webhook_id)


def set_paused(context: Context, webhook_id: int, *, paused: bool) -> Webhook:
    """Pause a webhook, or resume it and send waiting messages. Raises NotFoundError."""
    with context.database.transaction() as connection:
        webhooks.set_paused(connection, webhook_id, paused=paused)
        return webhooks.get(connection, webhook_id)


def calls(context: Context, webhook_id: int, before: int | None = None) -> list[Call]:
    """Return up to 50 calls, the newest first; before : only older ones. Raises NotFoundError."""
    with context.database.transaction() as connection:
        webhooks.get(connection, webhook_id)
        return webhooks.calls(connection, webhook_id, before=before, most=_PAGE)


def send_again(context: Context, webhook_id: int, message_id: int) -> None:
    """Send a message again with its idempotency key. Raises NotFoundError."""
    with context.database.transaction() as connection:
        webhooks.send_again(connection, webhook_id, message_id)


def send_test(context: Context, webhook_id: int) -> Webhook:
    """Send a test message now and return how that went. Raises NotFoundError."""
    with context.database.transaction() as connection:
        webhook = webhooks.get(connection, webhook_id)
        body = {"event": TEST_EVENT, "project": slug_of(connection, webhook.project_id),
                "sent_at": datetime.now(UTC).isoformat()}  # fmt: skip
        number = webhooks.add_message(connection, webhook_id, TEST_EVENT, json.dumps(body))
        # Other transactions can't take it before this one ends, because it isn't visible to them.
        outgoing = webhooks.take(connection, number)
        webhooks.set_failed(connection, number)
    answer = asyncio.run(send(outgoing, AddressPolicy.of(context.settings)))
    with context.database.transaction() as connection:
        webhooks.record_attempt(connection, outgoing, answer, wait=None, patience=PATIENCE)
        return webhooks.get(connection, webhook_id)
