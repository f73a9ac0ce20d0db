"""The connection pool, the named statements, and the translation of driver errors."""

from __future__ import annotations

import re
from collections.abc import Callable, Iterator
from contextlib import contextmanager, suppress
from functools import cache
from importlib import resources
from typing import Any, LiteralString

import psycopg
from psycopg import Connection, errors
from psycopg.rows import DictRow
from psycopg_pool import ConnectionPool, PoolClosed, PoolTimeout

from copper_sieve.core.errors import DatabaseUnavailableError, DiskFullError, NotStorableError
from copper_sieve.store.delivery_locations import DeliveryLocations, rows_with_paths, store_paths

Row = dict[str, Any]
Transaction = Connection[DictRow]
LOCK_SPACE = 8420  # of our advisory locks
_WAIT = 4.0  # seconds to wait for a connection before reporting an error
# A pool that can't connect retries with growing delays; it is replaced, so that it notices
# immediately when the database is back.
_TRY_FOR = 3.0
_AWAY = ("08", "57P", "53300")  # SQLSTATE: connection lost, shutting down or starting, too many


@cache
def statements(file: str) -> dict[str, LiteralString]:
    """Return the statements of queries/<file>.sql; each begins with a line `-- name: the_name`."""
    text = (resources.files("copper_sieve.store") / "queries" / f"{file}.sql").read_text("utf-8")
    parts = re.split(r"^-- name: *(\w+) *$", text, flags=re.MULTILINE)[1:]
    return {name: body.strip() for name, body in zip(parts[::2], parts[1::2], strict=True)}


@contextmanager
def translated_errors() -> Iterator[None]:
    """Translate driver errors that aren't bugs into errors with a remedy.

    Raises DatabaseUnavailableError, DiskFullError, NotStorableError.
    """
    try:
        yield
    except PoolClosed:  # we are stopping
        raise
    except (PoolTimeout, psycopg.InterfaceError) as error:
        raise DatabaseUnavailableError from error
    except (errors.DiskFull, errors.IoError) as error:
        raise DiskFullError(
            "The database's disk is full. Free space and try again. Nothing was changed"
        ) from error
    except psycopg.OperationalError as error:
        if error.sqlstate is None or error.sqlstate.startswith(_AWAY):
            raise DatabaseUnavailableError from error
        raise
    except psycopg.DataError as error:  # a NUL in a text, a number out of range, half a surrogate
        raise NotStorableError from error
    except UnicodeEncodeError as error:
        raise NotStorableError from error


class HeldLock:
    """An advisory lock on its own connection; the server releases it when the process dies."""

    def __init__(self, connection: Connection[Any], *, held: bool) -> None:
        self._connection, self.held = connection, held

    def __bool__(self) -> bool:
        return self.held

    def check(self) -> None:
        """Check that the lock is still held. Raises DatabaseUnavailableError."""
        with translated_errors():
            self._connection.execute("select 1")


class Locks:
    """A connection for advisory locks, one at a time; see `Database.locks`."""

    def __init__(self, connection: Connection[Any]) -> None:
        self._connection = connection

    @contextmanager
    def hold(self, number: int) -> Iterator[HeldLock]:
        """Try to hold an advisory lock during a block. Raises DatabaseUnavailableError."""
        with translated_errors():
            row = self._connection.execute(
                "select pg_try_advisory_lock(%s::int, %s::int)", [LOCK_SPACE, number]
            ).fetchone()
        held = bool(row and row[0])
        try:
            yield HeldLock(self._connection, held=held)
        finally:
            if held:
                with suppress(psycopg.Error):  # with its connection the lock is gone anyway
                    self._connection.execute(
                        "select pg_advisory_unlock(%s::int, %s::int)", [LOCK_SPACE, number]
                    )


class Database:
    """Connections to PostgreSQL; every use is one transaction."""

    def __init__(self, dsn: str, *, size: int = 8) -> None:
        self.dsn = dsn
        self._places: Callable[[], DeliveryLocations] = lambda: DeliveryLocations({})
        self._pool: ConnectionPool[Transaction] = ConnectionPool(
            dsn,
            min_size=1,
            max_size=size,
            open=True,
            timeout=_WAIT,
            reconnect_timeout=_TRY_FOR,
            check=ConnectionPool.check_connection,  # one that a restart has cut is not handed out
            kwargs={"row_factory": rows_with_paths(self.places), "connect_timeout": 3},
            configure=lambda connection: store_paths(connection, self.places),
            connection_class=Connection[DictRow],
        )

    def places(self) -> DeliveryLocations:
        """Return the folders of this server, by which paths are stored."""
        return self._places()

    def use_places(self, current: Callable[[], DeliveryLocations]) -> None:
        """Store and read paths by the folders that a function returns."""
        self._places = current

    def close(self) -> None:
        """Close all connections."""
        self._pool.close()

    @contextmanager
    def transaction(self) -> Iterator[Transaction]:
        """Open a transaction: committed at the end, rolled back on an error.

        Raises DatabaseUnavailableError if no connection is available within seconds, DiskFullError,
        NotStorableError. Run statements only; don't keep it open during file or network access.
        """
        with translated_errors(), self._pool.connection() as connection:
            yield connection

    @contextmanager
    def locks(self) -> Iterator[Locks]:
        """Open a connection for advisory locks. Raises DatabaseUnavailableError."""
        with translated_errors():
            connection = Connection.connect(self.dsn, autocommit=True, connect_timeout=3)
        try:
            yield Locks(connection)
        finally:
            connection.close()

    @contextmanager
    def held_lock(self, number: int) -> Iterator[HeldLock]:
        """Try to hold an advisory lock during a block. Raises DatabaseUnavailableError."""
        with self.locks() as locks, locks.hold(number) as lock:
            yield lock
