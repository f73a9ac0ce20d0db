"""Webhooks: addresses of people's own are told, signed, when a delivery has ended."""

from __future__ import annotations

import hashlib
import hmac
import json
import logging
import secrets
import urllib.error
import urllib.request
from collections.abc import Callable
from datetime import UTC, datetime
from typing import Any
from urllib.parse import urlsplit

from copper_sieve.core.errors import ParameterError
from copper_sieve.services.context import Context
from copper_sieve.services.lookout import Lookout
from copper_sieve.store import deliveries, hooks
from copper_sieve.store.delivery_rows import KeptDelivery, LightPart, why_failed
from copper_sieve.store.hooks import Hook
from copper_sieve.store.projects import get_project, slug_of

_log = logging.getLogger(__name__)
SIGNATURE = "X-Sieve-Signature"  # sha256=, and the HMAC of the body by the hook's secret, in hex
EVENT = "X-Sieve-Event"
TRIED = "hook.tried"
_EVERY = 1.0  # seconds
_PATIENCE = 10.0  # seconds for an answer
_MOST_ATTEMPTS = 6  # over about ten minutes
_FIRST_WAIT = 10.0  # seconds; twice as long after each further attempt
_LOCK = -1  # of whoever tells; the keeper has 0
_MOST_PARTS = 200
Send = Callable[[str, bytes, dict[str, str]], None]


def add(context: Context, slug: str, url: str, secret: str | None = None) -> Hook:
    """Tell that address when a delivery of the project has ended.

    secret : what is told is signed with it; default: a new one
    Raises NotFoundError, ParameterError for what is no address of the web.
    """
    parts = urlsplit(url.strip())
    if parts.scheme not in ("http", "https") or not parts.hostname:
        raise ParameterError(f"{url} is no address: give one that begins with http:// or https://")
    with context.database.transaction() as connection:
        project = get_project(connection, slug)
        return hooks.add(connection, project.id, url.strip(), secret or secrets.token_urlsafe(32))


def list_all(context: Context, slug: str) -> list[Hook]:
    """The addresses of a project. Raises NotFoundError."""
    with context.database.transaction() as connection:
        return hooks.of_project(connection, get_project(connection, slug).id)


def forget(context: Context, hook_id: int) -> None:
    """Tell an address no more. Raises NotFoundError."""
    with context.database.transaction() as connection:
        hooks.remove(connection, hook_id)


def signature(body: bytes, secret: str) -> str:
    """How a body is signed.

    >>> signature(b"{}", "key")[:20]
    'sha256=a777724d943eb'
    """
    return "sha256=" + hmac.new(secret.encode(), body, hashlib.sha256).hexdigest()


def message(
    project: str, delivery: KeptDelivery, parts: list[LightPart], now: datetime
) -> dict[str, Any]:
    """What is told of a delivery that has ended; of its parts the first 200, failed ones first."""
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


class _NoRedirect(urllib.request.HTTPRedirectHandler):
    """An address is called as it was given, and no other."""

    def redirect_request(self, *_: Any, **__: Any) -> None:
        return None


def send(url: str, body: bytes, headers: dict[str, str]) -> None:
    """POST a body. Raises OSError (urllib's own among them) where it was not taken."""
    request = urllib.request.Request(url, body, headers, method="POST")
    with urllib.request.build_opener(_NoRedirect).open(request, timeout=_PATIENCE):
        pass


class Teller(Lookout):
    """One thread that tells."""

    def __init__(self, context: Context, every: float = _EVERY, send: Send = send) -> None:
        super().__init__(context, "teller", _LOCK, self.look, every)
        self._send = send

    def look(self) -> None:
        """Tell of every delivery that has ended since; what fails is tried again later."""
        with self._context.database.transaction() as connection:
            ended = hooks.to_tell(connection)
        for one in ended:
            with self._context.database.transaction() as connection:
                wanted = hooks.of_project(connection, one.project_id)
                slug = slug_of(connection, one.project_id)
                delivery, parts = deliveries.light_delivery(connection, one.id)
            told = message(slug, delivery, parts, datetime.now(UTC))
            body = json.dumps(told).encode()
            event = str(told["event"])
            failed = [
                hook for hook in wanted if not _call(self._context, hook, event, body, self._send)
            ]
            with self._context.database.transaction() as connection:
                if failed and one.tell_attempts + 1 < _MOST_ATTEMPTS:
                    wait = _FIRST_WAIT * 2**one.tell_attempts
                    hooks.tell_later(connection, one.id, wait)
                else:
                    hooks.told(connection, one.id)


def _call(context: Context, hook: Hook, event: str, body: bytes, send: Send) -> bool:
    """Tell one address and note how it went."""
    headers = {"Content-Type": "application/json", EVENT: event,
               SIGNATURE: signature(body, hook.secret)}  # fmt: skip
    error: str | None = None
    try:
        send(hook.url, body, headers)
    except urllib.error.HTTPError as problem:
        error = f"it answered {problem.code}"
    except (OSError, ValueError) as problem:
        reason = getattr(problem, "reason", problem)
        error = f"nobody answers there ({getattr(reason, 'strerror', None) or reason})"
    if error:
        _log.warning("hook %s was not told: %s", hook.id, error)
    with context.database.transaction() as connection:
        hooks.called(connection, hook.id, error)
    return error is None


def try_it(context: Context, hook_id: int, send: Send = send) -> Hook:
    """Call an address now, with nothing to tell, to see if it answers; how that went.

    Raises NotFoundError.
    """
    with context.database.transaction() as connection:
        hook = hooks.get(connection, hook_id)
        slug = slug_of(connection, hook.project_id)
    body = {"event": TRIED, "project": slug, "sent_at": datetime.now(UTC).isoformat()}
    _call(context, hook, TRIED, json.dumps(body).encode(), send)
    with context.database.transaction() as connection:
        return hooks.get(connection, hook_id)
