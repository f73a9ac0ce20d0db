"""./sieve backup and restore: everything that must not be lost, in one file of pg_dump's."""

from __future__ import annotations

import argparse
import contextlib
import os
import subprocess
from collections.abc import Iterator
from pathlib import Path

import psycopg

from copper_sieve.core.errors import SetupError
from copper_sieve.settings import load_settings
from copper_sieve.store.cluster import Cluster, binaries


def run(arguments: argparse.Namespace) -> int:
    """Write a backup, or bring one back into an empty database. Raises SetupError."""
    with _database() as dsn:
        if arguments.command == "backup":
            _backup(dsn, arguments.file)
        else:
            _restore(dsn, arguments.file)
    return 0


@contextlib.contextmanager
def _database() -> Iterator[str]:
    """The database of the settings; our own cluster runs at least as long as it is needed."""
    settings = load_settings()
    if settings.database_url:
        yield settings.database_url
        return
    cluster = Cluster(settings.home)
    try:
        yield cluster.start()
    finally:
        cluster.release()


def _backup(dsn: str, file: Path) -> None:
    if file.exists():
        raise SetupError(f"{file} is there already: give another name, or move it away")
    partial = file.with_name(f".{file.name}.part")
    try:
        partial.unlink(missing_ok=True)
        # It contains webhook secrets: only its owner may read it, from its first byte on.
        descriptor = os.open(partial, os.O_WRONLY | os.O_CREAT | os.O_EXCL, 0o600)
        with os.fdopen(descriptor, "wb") as out:
            _postgres(
                dsn, "pg_dump", "--format=custom", "--no-owner",
                "--exclude-table-data=access_session", stdout=descriptor,
            )  # fmt: skip
            os.fsync(out.fileno())
        partial.rename(file)
    except OSError as error:
        raise SetupError(f"{file} could not be written ({error.strerror})") from error
    finally:
        partial.unlink(missing_ok=True)
    print(f"{file}: {file.stat().st_size / 1e6:.1f} MB")


def _restore(dsn: str, file: Path) -> None:
    if not file.is_file():
        raise SetupError(f"{file} is not there: give the file that ./sieve backup wrote")
    with psycopg.connect(dsn) as connection:
        row = connection.execute("select to_regclass('project') is null").fetchone()
    if not (row and row[0]):
        raise SetupError(
            "there is something in this database already: set SIEVE_HOME to a new folder (or "
            "DATABASE_URL to an empty database) and restore there"
        )
    _postgres(
        dsn, "pg_restore", "--no-owner", "--exit-on-error", "--single-transaction",
        "--dbname", _parts(dsn)["dbname"], str(file),
    )  # fmt: skip
    print(f"{file} is restored: ./sieve serve starts with it")


def _parts(dsn: str) -> dict[str, str]:
    return {name: str(value) for name, value in psycopg.conninfo.conninfo_to_dict(dsn).items()}


def _postgres(dsn: str, program: str, *words: str, stdout: int | None = None) -> None:
    """Run one of PostgreSQL's own programs; the password is not on its command line."""
    folder = binaries()
    if folder is None or not (folder / program).exists():
        raise SetupError(f"{program} is not there: install PostgreSQL's client programs")
    parts = _parts(dsn)
    names = {"host": "PGHOST", "port": "PGPORT", "user": "PGUSER", "password": "PGPASSWORD",
             "dbname": "PGDATABASE"}  # fmt: skip
    environment = {**os.environ, **{names[k]: v for k, v in parts.items() if k in names}}
    done = subprocess.run(
        [str(folder / program), *words],
        env=environment,
        stdout=stdout if stdout is not None else subprocess.DEVNULL,
        stderr=subprocess.PIPE,
        text=True,
        check=False,
    )
    if done.returncode:
        reason = done.stderr.strip().splitlines()
        raise SetupError(f"{program} failed: {reason[0] if reason else 'no reason given'}")
