"""Sessions of browsers that presented the access token."""

from __future__ import annotations

from copper_sieve.store.database import Transaction, statements

_SQL = statements("access_sessions")


def add(connection: Transaction, key: bytes, seconds: int) -> None:
    """Store a session that expires after so many seconds; delete expired ones."""
    connection.execute(_SQL["delete_expired"])
    connection.execute(_SQL["add"], {"key": key, "seconds": seconds})


def is_valid(connection: Transaction, key: bytes) -> bool:
    """Return whether a session exists and hasn't expired."""
    row = connection.execute(_SQL["is_valid"], {"key": key}).fetchone()
    return row is not None and bool(row["valid"])


def remove(connection: Transaction, key: bytes) -> None:
    """End a session."""
    connection.execute(_SQL["remove"], {"key": key})
