"""Databases as released versions left them, with rows in them, are migrated and go on working."""

from __future__ import annotations

import gzip
import hashlib
from collections.abc import Iterator
from importlib import resources
from pathlib import Path

import psycopg
import pytest

from copper_sieve.jobs.queue import enqueuer, migrate_all
from copper_sieve.services import deliveries, delivery_worker, recovery
from copper_sieve.services.context import Context
from copper_sieve.settings import Settings
from copper_sieve.store.database import Database
from copper_sieve.store.delivery_locations import adopt
from tests.serving import open_client

RELEASED = Path(__file__).parent / "released"
DUMPS = sorted(RELEASED.glob("*.sql.gz"))


@pytest.fixture(params=DUMPS, ids=[path.name[:4] for path in DUMPS])
def released(request: pytest.FixtureRequest, dsn: str, tmp_path: Path) -> Iterator[Context]:
    """A context on the database of an older version, whose home is now another one."""
    text = gzip.decompress(request.param.read_bytes()).decode("utf-8")
    lines = [line for line in text.splitlines() if line[:1] != "\\"]  # commands of psql
    schema = f"released_{request.param.name[:4]}"
    text = "\n".join(lines).replace("public.", f"{schema}.").replace("/released", str(tmp_path))
    with psycopg.connect(dsn, autocommit=True) as connection:
        connection.execute(f"create schema {schema}")  # type: ignore[arg-type]
        connection.execute(text)  # type: ignore[arg-type]
    database = Database(psycopg.conninfo.make_conninfo(dsn, options=f"-c search_path={schema}"))
    settings = Settings(home=tmp_path / "home", database_url=database.dsn)
    yield Context(settings, database, enqueuer())
    database.close()
    with psycopg.connect(dsn, autocommit=True) as connection:
        connection.execute(f"drop schema {schema} cascade")  # type: ignore[arg-type]


def test_every_released_schema_is_kept() -> None:
    """From 0006 on, version 0.1.0; a schema is added when the next one is made."""
    numbers = [int(path.name[:4]) for path in DUMPS]
    assert numbers == list(range(6, numbers[-1] + 1))
    assert numbers[-1] >= 16


def test_a_released_migration_is_never_changed() -> None:
    """Databases that have run it would lack the change."""
    folder = resources.files("copper_sieve.store") / "migrations"
    for line in (RELEASED / "checksums.txt").read_text().splitlines():
        sha256, name = line.split()
        assert hashlib.sha256((folder / name).read_bytes()).hexdigest() == sha256, name


def test_what_was_there_is_there_and_a_cut_off_delivery_is_finished(released: Context) -> None:
    first = migrate_all(released.database)[0]
    assert first.endswith(".sql")
    assert migrate_all(released.database) == []
    with released.database.transaction() as connection:  # as a server does when it starts
        adopt(connection, released.places())
        folders = connection.execute("select folder as place from delivery_part").fetchall()
    assert all(one["place"].startswith("deliveries:quay/") for one in folders)
    client = open_client(released)
    (project,) = client.get("/api/v1/projects").json()
    assert (project["slug"], project["sets"]) == ("quay", 2)
    rows = client.get("/api/v1/projects/quay/tray").json()["rows"]
    assert [row["name"] for row in rows] == ["deck", "wall"]
    if int(first[:4]) > 7:  # before it there were no tags
        assert (rows[1]["tags"], rows[1]["notes"]) == (["wet"], "By the water")
    sets = client.get("/api/v1/projects/quay/sets").json()
    assert all(one["maps"] for one in sets)
    assert client.get("/api/v1/projects/quay/unreadable-sets").json() == []
    undo = {"version": sets[0]["version"]}
    assert client.post(f"/api/v1/sets/{sets[0]['id']}/undo", json=undo).status_code in (200, 409)
    assert [one["name"] for one in client.get("/api/v1/recipes").json()] == ["wall"]
    assert "our-own" in [one["id"] for one in client.get("/api/v1/targets").json()]
    if int(first[:4]) > 11:
        (webhook,) = client.get("/api/v1/projects/quay/webhooks").json()
        assert (webhook["url"], webhook["waiting"]) == ("http://192.0.2.1/x", 0)
    second, done = client.get("/api/v1/projects/quay/deliveries").json()
    assert done["state"] == "done"
    assert second["state"] in ("queued", "running")
    recovery.recover(released)
    delivery_worker.run(released)
    finished = deliveries.get(released, second["id"])
    assert [(part.state, part.error) for part in finished.parts] == [("done", None)] * 2
    archive = client.get("/api/v1/projects/quay/archive.zip")
    assert archive.is_success


def test_every_foreign_key_has_an_index(database: Database) -> None:
    """Else a delete reads the whole table that refers to the row."""
    with database.transaction() as connection:
        rows = connection.execute(
            "select conrelid::regclass::text as place, conname from pg_constraint c"
            " where contype = 'f' and conrelid::regclass::text not like 'procrastinate%%'"
            " and not exists (select from pg_index i where i.indrelid = c.conrelid"
            " and i.indpred is null"
            " and (i.indkey::int2[])[0:cardinality(c.conkey) - 1] @> c.conkey)"
        ).fetchall()
    assert rows == []
