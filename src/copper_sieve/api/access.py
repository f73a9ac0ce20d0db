"""Access control: only pages of this server, and clients with its token.

Pages of other origins in the same browser can send requests to this server, and their host names
can be pointed at this machine (DNS rebinding). Therefore the `Host` header must be known, and the
origin of a request must be the address that it was sent to.
"""

from __future__ import annotations

import ipaddress
import math
from dataclasses import dataclass, field
from http.cookies import CookieError, SimpleCookie
from urllib.parse import parse_qs, parse_qsl, urlencode, urlsplit

from starlette.concurrency import run_in_threadpool
from starlette.datastructures import Headers, MutableHeaders
from starlette.responses import RedirectResponse, Response
from starlette.types import ASGIApp, Message, Receive, Scope, Send

from copper_sieve.api.credentials import SESSION_SECONDS, Credentials
from copper_sieve.api.problems import problem
from copper_sieve.api.sign_in_page import STYLE_PATH, continue_page, sign_in_page, style_sheet
from copper_sieve.core.errors import DatabaseUnavailableError

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
# API responses are private to one client; cacheable routes set the header themselves.
_API_HEADERS = {"Cache-Control": "no-store", "Vary": "Authorization, Cookie"}
# The pages of the manual are static files; their theme uses inline scripts.
_HELP_POLICY = (
    _HEADERS["Content-Security-Policy"]
    .replace("script-src 'self'", "script-src 'self' 'unsafe-inline'")
    .replace("frame-ancestors 'none'", "frame-ancestors 'self'")
)


@dataclass(frozen=True, slots=True)
class OpenOnLoopback:
    """Access policy of `./sieve demo` on a loopback address: no token is required."""


@dataclass(frozen=True, slots=True)
class Access:
    """Access control of a server.

    Parameters
    ----------
    policy : Credentials or OpenOnLoopback, optional
        Default: every request is rejected.
    hosts : frozenset of str
        Host names of this server in addition to loopback names.
    """

    policy: Credentials | OpenOnLoopback | None = None
    hosts: frozenset[str] = field(default_factory=frozenset)

    @property
    def is_open(self) -> bool:
        """Return whether no token is required."""
        return isinstance(self.policy, OpenOnLoopback)

    def knows(self, host: str) -> bool:
        """Return whether a `Host` header names this server, with any port.

        IP addresses always do, because only names can be used for DNS rebinding.
        """
        try:
            name = urlsplit(f"//{host}").hostname or ""
        except ValueError:
            return False
        return name in _LOOPBACK or name in self.hosts or _is_address(name)


def is_loopback(host: str) -> bool:
    """Return whether only this machine reaches an address or name."""
    return host in _LOOPBACK or (_is_address(host) and ipaddress.ip_address(host).is_loopback)


def _is_address(name: str) -> bool:
    try:
        ipaddress.ip_address(name)
    except ValueError:
        return False
    return True


class Guard:
    """Middleware that checks host, origin and access of every request and adds security headers."""

    def __init__(self, app: ASGIApp, access: Access) -> None:
        self._app, self._access = app, access

    async def __call__(self, scope: Scope, receive: Receive, send: Send) -> None:
        """Pass a request on or reject it."""
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
                own = _HEADERS | (_API_HEADERS if scope["path"].startswith("/api/") else {})
                for name, value in own.items():
                    headers.setdefault(name, value)
            await send(message)

        answer = self._refusal(scope) or await self._access_answer(scope, receive)
        await (answer or self._app)(scope, receive, with_headers)

    def _refusal(self, scope: Scope) -> Response | None:
        """Return an error response for requests to other hosts or from other origins, else None."""
        headers = Headers(scope=scope)
        host = headers.get("host", "")
        if not self._access.knows(host):
            return problem(
                421, "unknown_host",
                f"This server doesn't use the host name {host[:100]!r}. Open its own "
                    "address, or add the name to SIEVE_HOSTS.",
            )  # fmt: skip
        origin = headers.get("origin")
        if origin is not None and urlsplit(origin).netloc.lower() != host.lower():
            return _foreign()
        site = headers.get("sec-fetch-site", "same-origin")
        if site in ("same-origin", "none"):
            return None
        # Links from other pages are allowed; requests made by other pages aren't.
        if _is_navigation(headers, scope) and not scope["path"].startswith("/api/"):
            return None
        return _foreign()

    async def _access_answer(self, scope: Scope, receive: Receive) -> Response | None:
        """Return None for a client with access, else the response that it gets."""
        client = (scope.get("client") or ("",))[0]
        match self._access.policy:
            case OpenOnLoopback():
                return None if is_loopback(client) else _no_access()
            case Credentials() as credentials:
                try:
                    return await _Visit(credentials, scope, receive, client).answer()
                except DatabaseUnavailableError as error:
                    return problem(503, error.code, error.message, {"Retry-After": "1"})
            case None:
                return _no_access()


class _Visit:
    """A request to a server that requires its token."""

    def __init__(
        self, credentials: Credentials, scope: Scope, receive: Receive, client: str
    ) -> None:
        self._credentials, self._scope, self._receive = credentials, scope, receive
        self._client, self._headers = client, Headers(scope=scope)
        self._path, self._method = str(scope["path"]), str(scope["method"])
        self._query = scope["query_string"].decode("latin-1")

    async def answer(self) -> Response | None:
        """Return None for a client that is signed in. Raises DatabaseUnavailableError."""
        if self._path == STYLE_PATH:
            return style_sheet()
        if self._path == "/access" and self._method == "POST":
            return await self._form_answer()
        scheme, _, given = self._headers.get("authorization", "").partition(" ")
        if scheme.lower() == "bearer" and given.strip():
            if wait := self._seconds_to_wait():
                return _too_many(wait)
            if self._credentials.is_token(self._client, given.strip()):
                return None
        session = _cookie(self._headers)
        if self._credentials.is_known(session) or (
            session and await run_in_threadpool(self._credentials.is_session, session)
        ):
            return await self._signed_in_answer(session)
        if self._path.startswith("/api/"):
            return _no_access()
        return await self._page_answer()

    async def _form_answer(self) -> Response:
        to = parse_qs(self._query).get("to", ["/"])[0]
        form = parse_qs((await _body(self._receive)).decode("utf-8", "replace"))
        return await self._token_answer(form.get("token", [""])[0].strip(), to)

    async def _signed_in_answer(self, session: str) -> Response | None:
        if self._path == "/access/end":
            return await self._sign_out(session)
        to, given = self._page_address()
        if given and self._method == "GET" and not self._path.startswith("/api/"):
            return RedirectResponse(_own_path(to), 303, {"Cache-Control": "no-store"})
        return None

    def _page_address(self) -> tuple[str, str]:
        """Return the address of the request without the token, and the token."""
        pairs = parse_qsl(self._query)
        rest = urlencode([(name, value) for name, value in pairs if name != "token"])
        return self._path + (f"?{rest}" if rest else ""), dict(pairs).get("token", "")

    async def _page_answer(self) -> Response:
        to, given = self._page_address()
        if given and self._method == "GET":
            return await self._token_answer(given, to)
        if self._headers.get("sec-fetch-site") == "cross-site":
            return continue_page(_own_path(to))
        return sign_in_page(to)

    async def _token_answer(self, given: str, to: str) -> Response:
        """Check a token from the page or the address; start a session for the right one."""
        if wait := self._seconds_to_wait():
            return sign_in_page(to, f"Too many wrong tokens. Try again in {wait} s.", 429)
        session = await run_in_threadpool(self._credentials.sign_in, self._client, given)
        if session is None:
            return sign_in_page(to, "Wrong token. Check it and try again.")
        from_elsewhere = self._headers.get("sec-fetch-site") == "cross-site"
        to = _own_path(to)
        response = continue_page(to) if from_elsewhere else RedirectResponse(to, 303)
        response.set_cookie(
            _COOKIE, session, max_age=SESSION_SECONDS, httponly=True, samesite="strict",
            secure=self._scope.get("scheme") == "https",
        )  # fmt: skip
        response.headers["Cache-Control"] = "no-store"
        return response

    async def _sign_out(self, session: str) -> Response:
        if self._method != "POST":
            return problem(405, "not_allowed", "Sign out with POST.", {"Allow": "POST"})
        await run_in_threadpool(self._credentials.end_session, session)
        response = RedirectResponse("/", 303, {"Cache-Control": "no-store"})
        response.delete_cookie(_COOKIE, httponly=True, samesite="strict")
        return response

    def _seconds_to_wait(self) -> int:
        return math.ceil(self._credentials.attempts.seconds_to_wait(self._client))


def _own_path(path: str) -> str:
    """Return a path of this server; paths that lead to another host are replaced by "/"."""
    return path if path.startswith("/") and not path.startswith(("//", "/\\")) else "/"


def _is_navigation(headers: Headers, scope: Scope) -> bool:
    return headers.get("sec-fetch-mode") == "navigate" and scope["method"] == "GET"


def _cookie(headers: Headers) -> str:
    try:
        found = SimpleCookie(headers.get("cookie", "")).get(_COOKIE)
    except CookieError:
        return ""
    return found.value if found else ""


async def _body(receive: Receive) -> bytes:
    body = b""
    while len(body) <= _MOST_FORM:
        message = await receive()
        body += message.get("body", b"")
        if message["type"] != "http.request" or not message.get("more_body"):
            break
    return body[:_MOST_FORM]


def _foreign() -> Response:
    return problem(
        403, "foreign_page", "This server only accepts requests from its own pages."
    )  # fmt: skip


def _no_access() -> Response:
    return problem(
        401, "access_needed",
        "This server requires an access token. Open the "
        "address that it printed at the start, or send the "
        "header Authorization: Bearer TOKEN.", {"WWW-Authenticate": "Bearer"},
    )  # fmt: skip


def _too_many(seconds: int) -> Response:
    return problem(
        429, "too_many_attempts",
        f"Too many wrong tokens. Try again in {seconds} s.", {"Retry-After": str(seconds)},
    )  # fmt: skip
