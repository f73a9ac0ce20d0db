"""Send one message: signed, to a checked address, within ten seconds in total."""

from __future__ import annotations

import asyncio
import hashlib
import hmac
import random
import time
from collections.abc import Awaitable, Callable

import httpx2

from copper_sieve import __version__
from copper_sieve.core.errors import ParameterError
from copper_sieve.services.webhooks.addresses import AddressError, AddressPolicy
from copper_sieve.store.webhooks import OutboxMessage, WebhookResponse

SIGNATURE = "X-Sieve-Signature"  # sha256=, and the HMAC of the body by the secret, in hex
EVENT = "X-Sieve-Event"
KEY = "Idempotency-Key"
DEADLINE = 10.0  # seconds for one call, from the name to the last byte that is read
PATIENCE = 86400.0  # seconds that all calls of a receiver may fail before it is paused
_FIRST_WAIT = 10.0  # seconds; twice as long after each further attempt
_LONGEST_WAIT = 3600.0
_EXCERPT = 2000  # bytes of an answer
Send = Callable[[OutboxMessage, AddressPolicy], Awaitable[WebhookResponse]]


def signature(body: bytes, secret: str) -> str:
    """Return the signature of a message body.

    >>> signature(b"{}", "key")[:20]
    'sha256=a777724d943eb'
    """
    return "sha256=" + hmac.new(secret.encode(), body, hashlib.sha256).hexdigest()


def seconds_until_next(attempts: int, jitter: float | None = None) -> float:
    """Return how long to wait after a failed attempt.

    Parameters
    ----------
    attempts : int
        Number of failures, at least 1.
    jitter : float, optional
        From 0 to 1. Default: random, so that receivers aren't called simultaneously.
    """
    share = random.random() if jitter is None else jitter
    return min(_FIRST_WAIT * 2.0 ** min(attempts - 1, 30), _LONGEST_WAIT) * (0.75 + 0.5 * share)


async def send(message: OutboxMessage, policy: AddressPolicy) -> WebhookResponse:
    """Call a receiver once. Errors are part of the returned answer."""
    started = time.monotonic()
    status: int | None = None
    excerpt, error = "", None
    try:
        async with asyncio.timeout(DEADLINE):
            status, excerpt = await _posted(message, await policy.resolve(message.url))
        if not 200 <= status < 300:
            error = f"the receiver returned status {status}"
    except TimeoutError:
        error = f"no complete response within {DEADLINE:.0f} s"
    except AddressError as problem:
        error = str(problem)
    except ParameterError as problem:  # stored by a version that didn't check addresses
        error = problem.message
    except (httpx2.ConnectError, httpx2.ConnectTimeout) as problem:
        error = f"couldn't connect ({_reason(problem)})"
    except (httpx2.HTTPError, httpx2.InvalidURL, OSError, ValueError) as problem:
        error = f"the call failed ({_reason(problem)})"
    return WebhookResponse(time.monotonic() - started, status, error, excerpt)


async def _posted(message: OutboxMessage, addresses: list[str]) -> tuple[int, str]:
    """Return status and beginning of the response of the first address that can be reached."""
    url = httpx2.URL(message.url)
    body = message.body.encode()
    headers = {
        "Host": url.netloc.decode("ascii"),
        "Content-Type": "application/json",
        "User-Agent": f"copper-sieve/{__version__}",
        EVENT: message.event,
        KEY: str(message.key),
        SIGNATURE: signature(body, message.secret),
    }
    # Not through a proxy of the environment, which would resolve the name once more.
    async with httpx2.AsyncClient(trust_env=False, timeout=DEADLINE) as client:
        for n, address in enumerate(addresses):
            request = client.build_request(
                "POST", url.copy_with(host=address), content=body, headers=headers,
                extensions={"sni_hostname": url.host},
            )  # fmt: skip
            try:
                response = await client.send(request, stream=True)
            except (httpx2.ConnectError, httpx2.ConnectTimeout):
                if n + 1 < len(addresses):
                    continue
                raise
            try:
                return response.status_code, await _beginning(response)
            finally:
                await response.aclose()
    raise AddressError("the host has no address")


async def _beginning(response: httpx2.Response) -> str:
    read = b""
    async for piece in response.aiter_raw():
        read += piece
        if len(read) >= _EXCERPT:
            break
    text = read[:_EXCERPT].decode("utf-8", "replace")
    return "".join(one if one.isprintable() or one == "\n" else "·" for one in text)


def _reason(problem: Exception) -> str:
    cause: BaseException | None = problem
    while cause is not None:
        if isinstance(cause, OSError) and cause.strerror:
            return cause.strerror
        cause = cause.__cause__ or cause.__context__
    return str(problem) or type(problem).__name__
