"""The pool of connections, the named statements, and the migrations."""

from __future__ import annotations

import re
from collections.abc import Iterator
from contextlib import contextmanager
from functools import cache
from importlib import resources
from typing import Any, LiteralString

from psycopg import Connection
from psycopg.rows import DictRow, dict_row
from psycopg_pool import ConnectionPool

Row = dict[str, Any]
Transaction = Connection[DictRow]
_MIGRATION_LOCK = 8420


@cache
def statements(file: str) -> dict[str, LiteralString]:
    """Named statements of queries/<file>.sql; each begins with a line `-- name: the_name`."""
    text = (resources.files("copper_sieve.store") / "queries" / f"{file}.sql").read_text("utf-8")
    parts = re.split(r"^-- name: *(\w+) *$", text, flags=re.MULTILINE)[1:]
    return {name: body.strip() for name, body in zip(parts[::2], parts[1::2], strict=True)}


class Database:
    """Connections to PostgreSQL; every use is one transaction."""

    def __init__(self, dsn: str, *, size: int = 8) -> None:
        self.dsn = dsn
        self._pool: ConnectionPool[Transaction] = ConnectionPool(
            dsn,
            min_size=1,
            max_size=size,
            open=True,
            kwargs={"row_factory": dict_row},
            connection_class=Connection[DictRow],
        )

    def close(self) -> None:
        """Close all connections."""
        self._pool.close()

    @contextmanager
    def transaction(self) -> Iterator[Transaction]:
        """A connection in a transaction: committed at the end, rolled back on an error."""
        with self._pool.connection() as connection:
            yield connection

    @contextmanager
    def held_lock(self, number: int) -> Iterator[bool]:
        """Try to hold an advisory lock on a connection of its own; says if it was got.

        The server drops it the moment the process dies.
        """
        connection = Connection.connect(self.dsn, autocommit=True)
        try:
            row = connection.execute(
                "select pg_try_advisory_lock(%s::int, %s::int)", [_MIGRATION_LOCK, number]
            ).fetchone()
            yield bool(row and row[0])
        finally:
            connection.close()

    def migrate(self, queue_schema: LiteralString) -> list[str]:
        """Apply what is missing, in order, each in a transaction; returns the names applied.

        queue_schema : the task queue's own schema, applied when its tables are not there
        """
        folder = resources.files("copper_sieve.store") / "migrations"
        files = sorted(
            (f for f in folder.iterdir() if f.name.endswith(".sql")), key=lambda f: f.name
        )
        applied = []
        with self.transaction() as connection:
            connection.execute("select pg_advisory_xact_lock(%s)", [_MIGRATION_LOCK])
            connection.execute(
                "create table if not exists schema_migration ("
                "name text primary key, applied_at timestamptz not null default now())"
            )
            row = connection.execute("select to_regclass('procrastinate_jobs') as found").fetchone()
            if row and row["found"] is None:
                connection.execute(queue_schema)
            done = {r["name"] for r in connection.execute("select name from schema_migration")}
            for file in files:
                if file.name not in done:
                    connection.execute(file.read_text("utf-8"))
                    connection.execute(
                        "insert into schema_migration (name) values (%s)", [file.name]
                    )
                    applied.append(file.name)
        return applied
