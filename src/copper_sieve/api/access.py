"""Who may use the server: only pages that it served itself, and whoever knows its token.

A page of another origin in the same browser can send requests here, and a host name of its own can
be pointed at this machine after the page was loaded. So the `Host` must be one of ours, and what
the browser says of a request's origin must be the address that it went to.
"""

from __future__ import annotations

import hashlib
import hmac
import html
import ipaddress
import secrets
from dataclasses import dataclass, field
from http.cookies import CookieError, SimpleCookie
from pathlib import Path
from urllib.parse import parse_qs, parse_qsl, urlencode, urlsplit

from starlette.datastructures import Headers, MutableHeaders
from starlette.responses import HTMLResponse, JSONResponse, RedirectResponse, Response
from starlette.types import ASGIApp, Message, Receive, Scope, Send

_COOKIE = "sieve_access"
_LOOPBACK = frozenset({"localhost", "127.0.0.1", "::1"})
_MOST_FORM = 4096  # bytes
_HEADERS = {
    "Content-Security-Policy": "default-src 'self'; script-src 'self'; "
    "style-src 'self' 'unsafe-inline'; img-src 'self' data: blob:; worker-src 'self' blob:; "
    "connect-src 'self' data: blob:; font-src 'self' data:; object-src 'none'; "
    "base-uri 'none'; form-action 'self'; frame-ancestors 'none'",
    "X-Content-Type-Options": "nosniff",
    "Cross-Origin-Resource-Policy": "same-origin",
    "Cross-Origin-Opener-Policy": "same-origin",
    "Referrer-Policy": "same-origin",
}
# The manual's pages are files of ours that nobody can write to; their theme has scripts in them.
_HELP_POLICY = (
    _HEADERS["Content-Security-Policy"]
    .replace("script-src 'self'", "script-src 'self' 'unsafe-inline'")
    .replace("frame-ancestors 'none'", "frame-ancestors 'self'")
)
_PAGE = """<!doctype html><html lang="en"><meta charset="utf-8"><title>Copper Sieve</title>
<meta name="viewport" content="width=device-width">
<link rel="stylesheet" href="/access.css">
<main><h1>Copper Sieve</h1>
<form method="post" action="/access?to={to}">
<label for="token">Access token</label>
<input id="token" name="token" type="password" autocomplete="current-password" autofocus required>
<button>Open</button></form>
<p role="alert">{wrong}</p>
<p>The server prints the address with its token when it starts, and keeps the token in
<code>access-token</code> in its data folder.</p></main></html>"""
_STYLE = """body{background:#ECE7DF;color:#25211C;font:16px/1.5 sans-serif;margin:0}
main{max-width:26rem;margin:18vh auto 0;padding:1.75rem 2rem;background:#F7F4EF;
border:1px solid #D6CEC2;border-radius:6px}h1{font-size:1.2rem;margin:0 0 1rem}
form{display:grid;grid-template-columns:1fr auto;gap:.35rem .6rem}label{grid-column:1/-1}
input,button{font:inherit;padding:.4rem .6rem;border:1px solid #6A6259;border-radius:4px}
button{background:#A4512A;border-color:#A4512A;color:#fff}
input:focus-visible,button:focus-visible{outline:2px solid #A4512A;outline-offset:2px}
p{color:#6A6259;font-size:.875rem;margin:1rem 0 0}p[role=alert]{color:#A12B2B}p:empty{display:none}
"""


@dataclass(frozen=True, slots=True)
class Access:
    """What is let in.

    token : what everybody must know; None: everybody on this machine is let in (the demo)
    hosts : host names by which the server is called, besides loopback's
    """

    token: str | None = None
    hosts: frozenset[str] = field(default_factory=frozenset)

    def knows(self, host: str) -> bool:
        """A `Host` header names us, with whichever port.

        An address in figures always does: what was pointed here by a stranger is a name.
        """
        try:
            name = urlsplit(f"//{host}").hostname or ""
        except ValueError:
            return False
        return name in _LOOPBACK or name in self.hosts or _is_address(name)

    def is_token(self, given: str) -> bool:
        """The token itself."""
        return self.token is not None and hmac.compare_digest(
            given.encode("utf-8", "replace"), self.token.encode()
        )

    @property
    def cookie(self) -> str:
        """What the browser keeps: it opens this server, and does not tell the token."""
        return hashlib.sha256(f"cookie of {self.token}".encode()).hexdigest()

    def is_cookie(self, given: str) -> bool:
        """A cookie that we gave for the present token."""
        return self.token is not None and hmac.compare_digest(given.encode(), self.cookie.encode())


def is_loopback(host: str) -> bool:
    """An address or name that only this machine reaches."""
    return host in _LOOPBACK or (_is_address(host) and ipaddress.ip_address(host).is_loopback)


def _is_address(name: str) -> bool:
    try:
        ipaddress.ip_address(name)
    except ValueError:
        return False
    return True


def kept_token(home: Path) -> str:
    """The token in the data folder, made at the first start; only its owner can read it."""
    path = home / "access-token"
    if not path.exists():
        path.touch(mode=0o600)
        path.write_text(secrets.token_urlsafe(24) + "\n")
    return path.read_text().strip()


class Guard:
    """Middleware: refuses what is not for us or not from us, asks for the token, adds headers."""

    def __init__(self, app: ASGIApp, access: Access) -> None:
        self._app, self._access = app, access

    async def __call__(self, scope: Scope, receive: Receive, send: Send) -> None:
        """Let a request through, or answer it."""
        if scope["type"] == "websocket":
            await send({"type": "websocket.close", "code": 1008})
            return
        if scope["type"] != "http":
            await self._app(scope, receive, send)
            return

        async def with_headers(message: Message) -> None:
            if message["type"] == "http.response.start":
                headers = MutableHeaders(scope=message)
                if scope["path"].startswith("/help/"):
                    headers.setdefault("Content-Security-Policy", _HELP_POLICY)
                for name, value in _HEADERS.items():
                    headers.setdefault(name, value)
            await send(message)

        answer = self._refusal(scope) or await self._asked_for_access(scope, receive)
        await (answer or self._app)(scope, receive, with_headers)

    def _refusal(self, scope: Scope) -> Response | None:
        headers = Headers(scope=scope)
        host = headers.get("host", "")
        if not self._access.knows(host):
            return _error(
                421, "unknown_host",
                f"This server is not called {host[:100]!r}: use its own address, or name the host "
                "in SIEVE_HOSTS.",
            )  # fmt: skip
        origin = headers.get("origin")
        if origin is not None and urlsplit(origin).netloc.lower() != host.lower():
            return _foreign()
        site = headers.get("sec-fetch-site", "same-origin")
        if site in ("same-origin", "none"):
            return None
        # A link on another page may lead here; what it loads by itself, or changes, may not.
        is_link = headers.get("sec-fetch-mode") == "navigate" and scope["method"] == "GET"
        if is_link and not scope["path"].startswith("/api/"):
            return None
        return _foreign()

    async def _asked_for_access(self, scope: Scope, receive: Receive) -> Response | None:
        """None for whoever may come in."""
        access = self._access
        if access.token is None:
            return None
        if scope["path"] == "/access.css":
            return Response(_STYLE, media_type="text/css")
        query = parse_qs(scope["query_string"].decode("latin-1"))
        if scope["path"] == "/access" and scope["method"] == "POST":
            given = parse_qs((await _form(receive)).decode("utf-8", "replace"))
            back = query.get("to", ["/"])[0]
            if access.is_token(given.get("token", [""])[0].strip()):
                return self._let_in(back)
            return _page(back, "That is not the token of this server.")
        headers = Headers(scope=scope)
        way, _, given_token = headers.get("authorization", "").partition(" ")
        if way.lower() == "bearer" and access.is_token(given_token.strip()):
            return None
        if access.is_cookie(_cookie(headers)):
            return None
        if scope["path"].startswith("/api/"):
            return _error(
                401, "access_needed",
                "This server asks for its access token: open the address that it printed, or send "
                "Authorization: Bearer TOKEN.",
            )  # fmt: skip
        if scope["method"] == "GET" and access.is_token(query.get("token", [""])[0]):
            rest = parse_qsl(scope["query_string"].decode("latin-1"))
            kept = urlencode([(name, value) for name, value in rest if name != "token"])
            return self._let_in(scope["path"] + (f"?{kept}" if kept else ""))
        return _page(scope["path"], "")

    def _let_in(self, back: str) -> Response:
        # Only to a place of ours: two slashes, or a backslash, would lead to another host.
        safe = back if back.startswith("/") and not back.startswith(("//", "/\\")) else "/"
        answer = RedirectResponse(safe, 303)
        answer.set_cookie(
            _COOKIE, self._access.cookie, max_age=365 * 86400, httponly=True, samesite="lax"
        )
        return answer


def _cookie(headers: Headers) -> str:
    try:
        found = SimpleCookie(headers.get("cookie", "")).get(_COOKIE)
    except CookieError:
        return ""
    return found.value if found else ""


async def _form(receive: Receive) -> bytes:
    body = b""
    while len(body) <= _MOST_FORM:
        message = await receive()
        body += message.get("body", b"")
        if message["type"] != "http.request" or not message.get("more_body"):
            break
    return body[:_MOST_FORM]


def _page(back: str, wrong: str) -> Response:
    text = _PAGE.format(to=html.escape(urlencode({"": back})[1:]), wrong=html.escape(wrong))
    return HTMLResponse(text, 401, {"Cache-Control": "no-store"})


def _foreign() -> Response:
    return _error(
        403, "foreign_page", "This server answers only the pages that it served itself."
    )  # fmt: skip


def _error(status: int, code: str, message: str) -> Response:
    headers = {"WWW-Authenticate": "Bearer"} if status == 401 else None
    return JSONResponse({"code": code, "message": message}, status, headers)
