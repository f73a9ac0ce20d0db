"""Addresses that are told when a delivery of a project has ended."""

from __future__ import annotations

from dataclasses import dataclass
from datetime import datetime

from copper_sieve.core.errors import NotFoundError
from copper_sieve.store.database import Transaction, statements

_SQL = statements("hooks")


@dataclass(frozen=True, slots=True)
class Hook:
    """An address and how the last call to it went.

    secret : what is told is signed with it
    last_error : why the last call came to nothing; None where it did not
    """

    id: int
    project_id: int
    url: str
    secret: str
    last_called_at: datetime | None
    last_error: str | None
    created_at: datetime


@dataclass(frozen=True, slots=True)
class ToTell:
    """A delivery that has ended; how often somebody could not be told of it."""

    id: int
    project_id: int
    tell_attempts: int


def add(connection: Transaction, project_id: int, url: str, secret: str) -> Hook:
    """A new address."""
    asked = {"project_id": project_id, "url": url, "secret": secret}
    row = connection.execute(_SQL["insert"], asked).fetchone()
    assert row is not None
    return Hook(**row)


def of_project(connection: Transaction, project_id: int) -> list[Hook]:
    """The addresses of a project, in the order in which they came."""
    rows = connection.execute(_SQL["of_project"], {"project_id": project_id})
    return [Hook(**row) for row in rows]


def get(connection: Transaction, hook_id: int) -> Hook:
    """One address. Raises NotFoundError."""
    row = connection.execute(_SQL["get"], {"id": hook_id}).fetchone()
    if row is None:
        raise NotFoundError(f"there is no hook {hook_id}")
    return Hook(**row)


def remove(connection: Transaction, hook_id: int) -> None:
    """Forget an address. Raises NotFoundError."""
    if connection.execute(_SQL["remove"], {"id": hook_id}).rowcount == 0:
        raise NotFoundError(f"there is no hook {hook_id}")


def called(connection: Transaction, hook_id: int, error: str | None) -> None:
    """Note how a call went."""
    connection.execute(_SQL["called"], {"id": hook_id, "error": error})


def to_tell(connection: Transaction) -> list[ToTell]:
    """Deliveries that have ended and are to be told of now."""
    return [ToTell(**row) for row in connection.execute(_SQL["to_tell"])]


def told(connection: Transaction, delivery_id: int) -> None:
    """Nobody is to be told of a delivery any more."""
    connection.execute(_SQL["told"], {"id": delivery_id})


def tell_again(connection: Transaction, delivery_id: int) -> None:
    """A delivery goes on: its end is told anew."""
    connection.execute(_SQL["tell_again"], {"id": delivery_id})


def tell_later(connection: Transaction, delivery_id: int, seconds: float) -> None:
    """Try again after so many seconds."""
    connection.execute(_SQL["tell_later"], {"id": delivery_id, "seconds": seconds})
