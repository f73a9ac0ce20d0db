"""Our own cluster: made once, shared, stopped by the last, refused in words."""

from __future__ import annotations

import os
import signal
import subprocess
import sys
import tempfile
import time
from collections.abc import Iterator
from pathlib import Path

import psycopg
import pytest

from copper_sieve.core.errors import DatabaseUnavailableError, SetupError
from copper_sieve.store import cluster as module
from copper_sieve.store.cluster import Cluster
from copper_sieve.store.database import Database


@pytest.fixture
def home() -> Iterator[Path]:
    with tempfile.TemporaryDirectory(prefix="sieve-cluster-", ignore_cleanup_errors=True) as name:
        yield Path(name)  # made with mode 0700: the cluster must open the way itself


def test_start_share_stop_and_start_again(home: Path) -> None:
    first, second = Cluster(home, durable=False), Cluster(home, durable=False)
    dsn = first.start()
    with psycopg.connect(dsn) as connection:
        connection.execute("create table kept (n int)")
        listening = connection.execute("show listen_addresses").fetchone()
    assert listening == ("127.0.0.1",)
    assert second.start() == dsn
    first.release()
    with psycopg.connect(dsn) as connection:  # the second still uses it
        connection.execute("insert into kept values (1)")
    second.release()
    with pytest.raises(psycopg.OperationalError):
        psycopg.connect(dsn, connect_timeout=2)
    dsn = first.start()
    with psycopg.connect(dsn) as connection:
        assert connection.execute("select n from kept").fetchall() == [(1,)]
    first.release()
    first.release()  # letting go twice is no harm


def test_no_stranger_gets_in(home: Path) -> None:
    cluster = Cluster(home, durable=False)
    dsn = cluster.start()
    try:
        parts = psycopg.conninfo.conninfo_to_dict(dsn) | {"password": "guess"}
        with pytest.raises(psycopg.OperationalError, match="password authentication failed"):
            psycopg.connect(**parts)  # type: ignore[arg-type]
    finally:
        cluster.release()


def test_a_missing_server_is_named(home: Path, monkeypatch: pytest.MonkeyPatch) -> None:
    monkeypatch.setattr(module, "binaries", lambda version=None: None)
    with pytest.raises(SetupError, match="install PostgreSQL server"):
        Cluster(home).start()


@pytest.mark.skipif(os.geteuid() != 0, reason="only root runs PostgreSQL as another user")
def test_a_home_that_postgres_cannot_reach_is_refused(home: Path) -> None:
    closed = home / "closed"
    closed.mkdir(mode=0o700)
    with pytest.raises(SetupError, match="the user postgres has no access to"):
        Cluster(closed / "inside").start()


def patiently(database: Database, statement: str) -> list[dict]:
    """Execute until the database is back, within half a minute."""
    end = time.monotonic() + 30
    while True:
        try:
            with database.transaction() as connection:
                found = connection.execute(statement)  # type: ignore[arg-type]
                return found.fetchall() if found.description else []
        except DatabaseUnavailableError:
            assert time.monotonic() < end


def test_a_killed_server_comes_back_on_the_same_port(home: Path) -> None:
    cluster = Cluster(home)  # what was committed outlives the kill
    dsn = cluster.start()
    database = Database(dsn)
    try:
        patiently(database, "create table kept (n int)")
        with cluster.kept_alive():
            for n in range(2):
                number = int((home / "postgres/data/postmaster.pid").read_text().splitlines()[0])
                os.kill(number, signal.SIGKILL)
                patiently(database, f"insert into kept values ({n})")
                time.sleep(0.3)  # a backend may have outlived the postmaster for a moment
                rows = patiently(database, "select n from kept order by n")
                assert [row["n"] for row in rows] == list(range(n + 1))
        assert cluster._dsn("copper_sieve") == dsn
    finally:
        database.close()
        cluster.release()


def test_nobody_waits_long_for_a_database_that_is_away(home: Path) -> None:
    cluster = Cluster(home, durable=False)
    database = Database(cluster.start())
    with database.transaction() as connection:
        connection.execute("select 1")
    cluster.release()
    try:
        for _ in range(2):
            began = time.monotonic()
            with (
                pytest.raises(DatabaseUnavailableError, match="The database is restarting"),
                database.transaction() as connection,
            ):
                connection.execute("select 1")
            assert time.monotonic() - began < 6
    finally:
        database.close()


def test_the_role_is_no_superuser_also_in_a_cluster_of_the_first_versions(home: Path) -> None:
    cluster = Cluster(home, durable=False)
    dsn = cluster.start()
    try:
        with psycopg.connect(cluster._dsn("copper_sieve", "sieve"), autocommit=True) as connection:
            # As the first versions did: everything made and owned by the superuser.
            connection.execute("create type mood as enum ('calm')")
            connection.execute("create table old (id bigint generated always as identity, m mood)")
            connection.execute("create function f() returns int language sql as 'select 1'")
            connection.execute("alter database copper_sieve owner to sieve")
        assert cluster.start() == dsn
        with psycopg.connect(dsn, autocommit=True) as connection:
            role = connection.execute(
                "select rolsuper, rolcreaterole from pg_roles where rolname = current_user"
            ).fetchone()
            assert role == (False, False)
            connection.execute("alter table old add column more text")
            connection.execute("insert into old (m) values ('calm')")
            connection.execute("drop function f()")
            connection.execute("alter type mood add value 'wild'")
            with pytest.raises(psycopg.errors.InsufficientPrivilege):
                connection.execute("copy old to program 'cat'")
    finally:
        cluster.release()


_HOSTILE = """
import ctypes, sys
from pathlib import Path
c = ctypes.CDLL(None)
c.__register_atfork(None, None, c.pause, None)  # a copy of this process waits for ever
from copper_sieve.store.cluster import Cluster
cluster = Cluster(Path(sys.argv[1]), durable=False)
cluster.start()
cluster.release()
print("stopped")
"""


def test_no_copy_of_the_process_is_needed_to_start_and_stop_it(home: Path) -> None:
    """Libraries with threads hold locks that a forked copy would wait for."""
    words = [sys.executable, "-c", _HOSTILE, str(home)]
    done = subprocess.run(words, capture_output=True, text=True, timeout=90, check=False)
    assert (done.stdout.strip(), done.returncode) == ("stopped", 0), done.stderr
