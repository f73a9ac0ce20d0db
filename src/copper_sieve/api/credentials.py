"""Credentials of a client: the access token, or the session that was created with it."""

from __future__ import annotations

import hashlib
import hmac
import ipaddress
import math
import secrets
import time
from collections import OrderedDict
from collections.abc import Callable

from cachetools import TTLCache

from copper_sieve.api.access_token import AccessToken
from copper_sieve.core.errors import DatabaseUnavailableError
from copper_sieve.store import access_sessions
from copper_sieve.store.database import Database

SESSION_SECONDS = 90 * 86400
_VALUE_BYTES = 32
_VALUE_LENGTH = len(secrets.token_urlsafe(_VALUE_BYTES))
_CHECK_AGAIN_AFTER = 10.0  # seconds: how long a session ended elsewhere may stay valid
_WITHOUT_DATABASE = 600.0  # seconds: how long a session stays valid while it can't be checked


class Attempts:
    """Delay clients that send wrong tokens, longer with each wrong one.

    The first three attempts aren't delayed; then a client waits 1 s, 2 s, 4 s … up to a minute. A
    client is forgotten 15 minutes after its last wrong token.
    """

    _FREE, _FIRST, _LONGEST, _FORGET, _CLIENTS = 3, 1.0, 60.0, 900.0, 10_000

    def __init__(self, clock: Callable[[], float] = time.monotonic) -> None:
        self._clock = clock
        self._wrong: OrderedDict[str, tuple[int, float]] = OrderedDict()

    def seconds_to_wait(self, client: str) -> float:
        """Return how long the client must wait before its next token is checked, in seconds."""
        count, last = self._wrong.get(_network(client), (0, 0.0))
        since = self._clock() - last
        if count < self._FREE or since > self._FORGET:
            return 0.0
        delay = min(self._FIRST * 2.0 ** min(count - self._FREE, 30), self._LONGEST)
        return max(0.0, delay - since)

    def wrong(self, client: str) -> None:
        """Count a wrong token."""
        key, now = _network(client), self._clock()
        count, last = self._wrong.pop(key, (0, now))
        self._wrong[key] = (1 if now - last > self._FORGET else count + 1, now)
        while len(self._wrong) > self._CLIENTS:
            self._wrong.popitem(last=False)

    def right(self, client: str) -> None:
        """Forget the wrong tokens of a client."""
        self._wrong.pop(_network(client), None)


def _network(client: str) -> str:
    """Return the network of an address: attempts are counted per /64 for IPv6."""
    try:
        address = ipaddress.ip_address(client)
    except ValueError:
        return client
    if address.version == 6:
        return str(ipaddress.ip_network((address, 64), strict=False))
    return client


class Credentials:
    """The token and the sessions of one server."""

    def __init__(self, token: AccessToken, database: Database) -> None:
        self.token = token
        self.attempts = Attempts()
        self._database = database
        # When each session was last checked, to avoid a query per request.
        self._checked: TTLCache[bytes, float] = TTLCache(10_000, _WITHOUT_DATABASE)

    def is_token(self, client: str, given: str) -> bool:
        """Return whether a token is right, and count a wrong one."""
        if self.token.matches(given):
            self.attempts.right(client)
            return True
        self.attempts.wrong(client)
        return False

    def sign_in(self, client: str, given: str) -> str | None:
        """Start a session and return its value, which only the client keeps; None: wrong token.

        Raises
        ------
        DatabaseUnavailableError
            The database isn't available.
        """
        if not self.is_token(client, given):
            return None
        value = secrets.token_urlsafe(_VALUE_BYTES)
        with self._database.transaction() as connection:
            access_sessions.add(connection, _key(given, value), SESSION_SECONDS)
        return value

    def is_known(self, session: str) -> bool:
        """Return whether a session was found valid within the last 10 s."""
        key = self._key_of(session)
        return key is not None and self._age(key) < _CHECK_AGAIN_AFTER

    def is_session(self, session: str) -> bool:
        """Return whether a session is valid now.

        Raises
        ------
        DatabaseUnavailableError
            The database isn't available, and the session wasn't valid in the last 10 minutes.
        """
        key = self._key_of(session)
        if key is None:
            return False
        try:
            with self._database.transaction() as connection:
                valid = access_sessions.is_valid(connection, key)
        except DatabaseUnavailableError:
            if key in self._checked:
                return True
            raise
        if valid:
            self._checked[key] = time.monotonic()
        else:
            self._checked.pop(key, None)
        return valid

    def end_session(self, session: str) -> None:
        """End a session. Raises DatabaseUnavailableError."""
        if (key := self._key_of(session)) is not None:
            self._checked.pop(key, None)
            with self._database.transaction() as connection:
                access_sessions.remove(connection, key)

    def _age(self, key: bytes) -> float:
        return time.monotonic() - self._checked.get(key, -math.inf)

    def _key_of(self, session: str) -> bytes | None:
        """Return the stored key of a session, or None for an invalid value."""
        token = self.token.current()
        return _key(token, session) if token and len(session) == _VALUE_LENGTH else None


def _key(token: str, session: str) -> bytes:
    return hmac.digest(token.encode(), session.encode("utf-8", "replace"), hashlib.sha256)
