"""Migration of the database, our tables and the queue's, to this version of the program."""

from __future__ import annotations

from collections.abc import Iterator, Mapping
from contextlib import contextmanager
from importlib import resources
from typing import LiteralString

from copper_sieve.core.errors import SetupError
from copper_sieve.store.database import LOCK_SPACE, Database, Transaction

_NOTES = (
    "create table if not exists schema_migration ("
    "name text primary key, applied_at timestamptz not null default now())"
)
_QUEUE = "queue/"  # before the names of the queue's own migrations


def migrate(
    database: Database,
    queue_schema: LiteralString,
    queue_migrations: Mapping[str, LiteralString],
) -> list[str]:
    """Apply missing migrations in order, each in a transaction; returns their names.

    queue_schema : the task queue's current tables, for a database without them
    queue_migrations : the queue's own migrations by name, in order, for older tables
    Raises SetupError if the database was changed by a newer version.
    """
    folder = resources.files("copper_sieve.store") / "migrations"
    ours = {
        file.name: file.read_text("utf-8")
        for file in sorted(folder.iterdir(), key=lambda file: file.name)
        if file.name.endswith(".sql")
    }
    queue = {_QUEUE + name: text for name, text in queue_migrations.items()}
    with _alone(database) as connection:
        connection.execute(_NOTES)
        done = _noted(connection)
        if unknown := done - set(ours) - set(queue):
            raise SetupError(
                "this database belongs to a newer version of Copper Sieve (schema "
                f"{max(unknown)}). Start that version, or restore a backup made before the "
                "upgrade"
            )
        if not done & set(queue):
            row = connection.execute("select to_regclass('procrastinate_jobs') as t").fetchone()
            if row and row["t"] is None:
                connection.execute(queue_schema)
            # Else the tables are from before the queue's migrations were noted, when its version
            # never changed: they are as this one's are.
            _note(connection, list(queue))
    applied = []
    for name, text in {**queue, **ours}.items():
        with _alone(database) as connection:
            if name not in _noted(connection):
                connection.execute(text)
                _note(connection, [name])
                applied.append(name)
    return applied


@contextmanager
def _alone(database: Database) -> Iterator[Transaction]:
    """Open a transaction that excludes other processes that migrate."""
    with database.transaction() as connection:
        connection.execute("select pg_advisory_xact_lock(%s)", [LOCK_SPACE])
        yield connection


def _noted(connection: Transaction) -> set[str]:
    return {str(row["name"]) for row in connection.execute("select name from schema_migration")}


def _note(connection: Transaction, names: list[str]) -> None:
    with connection.cursor() as cursor:
        cursor.executemany(
            "insert into schema_migration (name) values (%s)", [[name] for name in names]
        )
