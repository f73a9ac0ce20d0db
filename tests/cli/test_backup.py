"""docs/backup-and-restore.md, done as it says."""

from __future__ import annotations

import os
import subprocess
import sys
import tempfile
from collections.abc import Iterator
from pathlib import Path

import psycopg
import pytest

from copper_sieve.jobs.queue import migrate_all
from copper_sieve.services import delivered, deliveries, delivery_worker
from copper_sieve.services.context import Context
from copper_sieve.services.sources import import_source
from copper_sieve.settings import Settings
from copper_sieve.store.cluster import Cluster
from copper_sieve.store.database import Database
from copper_sieve.store.projects import ensure_project
from copper_sieve.store.sources import read_chunks
from tests.conftest import MakePhoto


@pytest.fixture
def homes() -> Iterator[list[Path]]:
    with tempfile.TemporaryDirectory(prefix="sieve-backup-", ignore_cleanup_errors=True) as name:
        Path(name).chmod(0o755)
        yield [Path(name, "first"), Path(name, "second")]


def sieve(home: Path, *words: str) -> subprocess.CompletedProcess[str]:
    environment = {k: v for k, v in os.environ.items() if k != "DATABASE_URL"}
    environment["SIEVE_HOME"] = str(home)
    return subprocess.run(
        [sys.executable, "-m", "copper_sieve.cli", *words],
        env=environment, capture_output=True, text=True, check=False,
    )  # fmt: skip


def test_a_backup_brings_everything_back(
    homes: list[Path], make_photo: MakePhoto, tmp_path: Path
) -> None:
    photo = make_photo(seed=61)
    original = photo.read_bytes()
    cluster = Cluster(homes[0], durable=False)
    database = Database(cluster.start())
    try:
        migrate_all(database)
        with database.transaction() as connection:
            ensure_project(connection, "kept", "Kept")
        context = Context(Settings(home=homes[0]), database, lambda *_: None)
        taken = import_source(context, "kept", photo, photo.name)
        file = tmp_path / "all.dump"
        done = sieve(homes[0], "backup", str(file))  # while it is in use
        assert done.returncode == 0, done.stderr
        assert file.stat().st_mode & 0o777 == 0o600
        again = sieve(homes[0], "backup", str(file))
        assert (again.returncode, "already exists" in again.stderr) == (2, True)
        refused = sieve(homes[0], "restore", str(file))
        assert refused.returncode == 2
        assert "the database isn't empty" in refused.stderr
    finally:
        database.close()
        cluster.release()
    damaged = tmp_path / "damaged.dump"
    damaged.write_bytes(file.read_bytes()[:-2000])
    assert sieve(homes[1], "restore", str(damaged)).returncode == 2
    done = sieve(homes[1], "restore", str(file))
    assert done.returncode == 0, done.stderr
    cluster = Cluster(homes[1], durable=False)
    database = Database(cluster.start())
    try:
        assert migrate_all(database) == []
        assert b"".join(read_chunks(database, taken.sha256)) == original
        with psycopg.connect(database.dsn) as connection:
            rows = connection.execute("select name from texture_set").fetchall()
        assert rows == [(taken.set_name,)]
    finally:
        database.close()
        cluster.release()


def test_a_backup_with_deliveries_is_proved_and_found_on_a_second_home(
    homes: list[Path], make_photo: MakePhoto, tmp_path: Path
) -> None:
    """The old home is still there, and nothing of it is read."""
    photo = make_photo(seed=62, size=(16, 16))
    cluster = Cluster(homes[0], durable=False)
    database = Database(cluster.start())
    file = tmp_path / "all.tar"
    try:
        migrate_all(database)
        with database.transaction() as connection:
            ensure_project(connection, "kept", "Kept")
        context = Context(Settings(home=homes[0]), database, lambda *_: None)
        taken = import_source(context, "kept", photo, photo.name)
        asked = deliveries.create_delivery(context, "kept", [(taken.set_id, "orm-y-down")])
        delivery_worker.run(context, asked.id)
        names = {one.name for one in asked.parts[0].folder.iterdir()}
        done = sieve(homes[0], "backup", str(file), "--with-deliveries")
        assert done.returncode == 0, done.stderr
        assert f"{len(names)} delivered files" in done.stdout
        assert file.stat().st_mode & 0o777 == 0o600
    finally:
        database.close()
        cluster.release()
    proved = sieve(homes[1], "restore", "--check", str(file))
    assert proved.returncode == 0, proved.stderr
    assert "1 projects, 1 sets, 1 originals" in proved.stdout
    assert f"{len(names)} delivered files" in proved.stdout
    assert not homes[1].exists()  # nothing was touched
    whole = file.read_bytes()
    at = whole.rindex(b"manifest.json") + 2048  # in the content of the manifest
    damaged = tmp_path / "damaged.tar"
    damaged.write_bytes(whole[:at] + bytes([whole[at] ^ 1]) + whole[at + 1 :])
    refused = sieve(homes[1], "restore", "--check", str(damaged))
    assert (refused.returncode, "modified since" in refused.stderr) == (2, True), refused
    done = sieve(homes[1], "restore", str(file))
    assert done.returncode == 0, done.stderr
    cluster = Cluster(homes[1], durable=False)
    database = Database(cluster.start())
    try:
        moved = Context(Settings(home=homes[1]), database, lambda *_: None)
        found = deliveries.get(moved, asked.id)
        assert found.parts[0].folder.is_relative_to(homes[1])
        assert {one.name for one in found.parts[0].folder.iterdir()} == names
        (standing,) = delivered.disk_states_of_parts(moved, [found], closely=True).values()
        assert standing.disk_state == "intact"
    finally:
        database.close()
        cluster.release()
