"""Limits on the size and speed of requests, so that stalled requests don't block the server."""

from __future__ import annotations

import asyncio
import json
import re
from collections.abc import Sequence

from starlette.exceptions import HTTPException
from starlette.types import ASGIApp, Message, Receive, Scope, Send

from copper_sieve.api.problems import problem

MOST_JSON = 8 << 20  # bytes
UPLOAD_STALLS_AFTER = 30.0  # seconds without a byte
DOWNLOAD_STALLS_AFTER = 600.0
# Characters that JSON can encode but a text column can't store: NUL and unpaired surrogates.
# an escaped NUL, not an escaped backslash followed by "u0000"
_NUL = re.compile(r"(?<!\\)(?:\\\\)*\\u0000")
_SUSPICIOUS = re.compile(rb"\\u(0000|[dD][89a-fA-F])")


class Pace:
    """Middleware that limits the size of JSON bodies and the time without progress.

    raw : path patterns of operations with a raw request body, which have their own limit
    """

    def __init__(
        self,
        app: ASGIApp,
        raw: Sequence[re.Pattern[str]] = (),
        upload_stalls_after: float = UPLOAD_STALLS_AFTER,
        download_stalls_after: float = DOWNLOAD_STALLS_AFTER,
    ) -> None:
        self._app, self._raw = app, raw
        self._up, self._down = upload_stalls_after, download_stalls_after

    async def __call__(self, scope: Scope, receive: Receive, send: Send) -> None:
        """Pass a request on, or reject it."""
        if scope["type"] != "http":
            await self._app(scope, receive, send)
            return
        paced = self._paced(receive)

        async def sending(message: Message) -> None:
            await asyncio.wait_for(send(message), self._down)

        try:
            if b"%00" in scope["query_string"] or "\0" in scope["path"]:
                raise HTTPException(422, "The URL contains a NUL character. Remove it.")
            if scope["method"] == "POST" and any(one.match(scope["path"]) for one in self._raw):
                await self._app(scope, paced, sending)
            else:
                await self._app(scope, _given(await _whole(paced), receive), sending)
        except HTTPException as error:
            code = _CODES.get(error.status_code, "invalid")
            answer = problem(error.status_code, code, error.detail, {"Connection": "close"})
            await answer(scope, receive, send)

    def _paced(self, receive: Receive) -> Receive:
        """Return a receive function that raises status 408 if the body makes no progress."""
        done = False

        async def paced() -> Message:
            nonlocal done
            if done:  # after the body, the only message is a disconnect
                return await receive()
            try:
                message = await asyncio.wait_for(receive(), self._up)
            except TimeoutError:
                raise HTTPException(
                    408,
                    f"The upload timed out after {self._up:.0f} s. Nothing was saved; try again.",
                ) from None
            done = not message.get("more_body", False)
            return message

        return paced


_CODES = {408: "timeout", 413: "too_large"}


async def _whole(receive: Receive) -> bytes:
    """Read a JSON body completely. Raises HTTPException if it is too large or invalid."""
    pieces: list[bytes] = []
    size = 0
    while True:
        message = await receive()
        if message["type"] == "http.disconnect":
            raise HTTPException(408, "The client closed the connection.")
        pieces.append(message.get("body", b""))
        size += len(pieces[-1])
        if size > MOST_JSON:
            raise HTTPException(
                413, f"The request body is larger than the limit of {MOST_JSON / 1e6:.0f} MB."
            )
        if not message.get("more_body"):
            break
    body = b"".join(pieces)
    if _SUSPICIOUS.search(body):
        try:
            text = json.dumps(json.loads(body), ensure_ascii=False)
            text.encode()
        except (ValueError, RecursionError) as error:
            if isinstance(error, UnicodeEncodeError):
                raise HTTPException(
                    422, "A text contains an unpaired surrogate character. Remove it."
                ) from None
            return body  # invalid JSON: reported by the operation
        if _NUL.search(text):
            raise HTTPException(422, "A text contains a NUL character. Remove it.")
    return body


def _given(body: bytes, receive: Receive) -> Receive:
    """Return a receive function that yields the body that was read, then the original messages."""
    given = False

    async def again() -> Message:
        nonlocal given
        if given:
            return await receive()
        given = True
        return {"type": "http.request", "body": body, "more_body": False}

    return again
