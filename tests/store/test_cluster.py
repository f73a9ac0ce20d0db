"""Our own cluster: made once, shared, stopped by the last, refused in words."""

from __future__ import annotations

import os
import tempfile
from collections.abc import Iterator
from pathlib import Path

import psycopg
import pytest

from copper_sieve.core.errors import SetupError
from copper_sieve.store import cluster as module
from copper_sieve.store.cluster import Cluster


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
    with pytest.raises(SetupError, match="install the PostgreSQL server"):
        Cluster(home).start()


@pytest.mark.skipif(os.geteuid() != 0, reason="only root runs PostgreSQL as another user")
def test_a_home_that_postgres_cannot_reach_is_refused(home: Path) -> None:
    closed = home / "closed"
    closed.mkdir(mode=0o700)
    with pytest.raises(SetupError, match="the user postgres cannot reach"):
        Cluster(closed / "inside").start()
