"""Databases of other versions: older ones are brought up to date, newer ones refused in words."""

from __future__ import annotations

from collections.abc import Iterator

import psycopg
import pytest

from copper_sieve.core.errors import SetupError
from copper_sieve.jobs.queue import migrate_all
from copper_sieve.store.database import Database


@pytest.fixture
def empty(dsn: str) -> Iterator[Database]:
    """A database with nothing in it: a schema of its own."""
    with psycopg.connect(dsn, autocommit=True) as connection:
        connection.execute("create schema empty")
    database = Database(psycopg.conninfo.make_conninfo(dsn, options="-c search_path=empty"))
    yield database
    database.close()
    with psycopg.connect(dsn, autocommit=True) as connection:
        connection.execute("drop schema empty cascade")


def execute(database: Database, *statements: str) -> None:
    with database.transaction() as connection:
        for statement in statements:
            connection.execute(statement)  # type: ignore[arg-type]


def test_an_empty_database_gets_everything_once(empty: Database) -> None:
    assert migrate_all(empty)[0] == "0001_start.sql"
    assert migrate_all(empty) == []


def test_a_queue_of_an_older_version_gets_its_own_migrations(empty: Database) -> None:
    migrate_all(empty)
    names = ["03.04.00_01_pre_add_retry_failed_job_procedure.sql",
             "03.04.00_50_post_add_retry_failed_job_procedure.sql"]  # fmt: skip
    notes = ", ".join(f"'queue/{name}'" for name in names)
    execute(
        empty,
        f"delete from schema_migration where name in ({notes})",
        "drop function procrastinate_retry_job_v2",
    )
    with pytest.raises(psycopg.errors.DuplicateObject, match="retried"):
        migrate_all(empty)  # it is really run: the value that it adds is there already
    execute(empty, "alter type procrastinate_job_event_type rename value 'retried' to 'as_before'")
    assert migrate_all(empty) == [f"queue/{name}" for name in names]


def test_tables_from_before_the_queue_was_noted_are_as_they_are(empty: Database) -> None:
    migrate_all(empty)
    execute(empty, "delete from schema_migration where name like 'queue/%'")
    assert migrate_all(empty) == []


@pytest.mark.parametrize("name", ["0099_from_the_future.sql", "queue/99.00.00_01_pre_x.sql"])
def test_a_database_of_a_newer_version_is_refused_in_one_sentence(
    empty: Database, name: str
) -> None:
    migrate_all(empty)
    execute(empty, f"insert into schema_migration (name) values ('{name}')")
    with pytest.raises(SetupError) as caught:
        migrate_all(empty)
    assert "belongs to a newer version of Copper Sieve" in caught.value.message
    assert name in caught.value.message
    assert "\n" not in caught.value.message
