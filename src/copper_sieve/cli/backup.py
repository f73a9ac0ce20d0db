"""./sieve backup and restore: all data in one file."""

from __future__ import annotations

import argparse
import contextlib
import os
import shutil
import subprocess
import tarfile
import tempfile
from collections.abc import Iterator, Mapping
from pathlib import Path
from typing import IO

import psycopg

from copper_sieve.core.errors import SetupError
from copper_sieve.jobs.queue import migrate_all
from copper_sieve.services import backups
from copper_sieve.settings import Settings, load_settings
from copper_sieve.store.cluster import Cluster, binaries
from copper_sieve.store.database import Database


def run(arguments: argparse.Namespace) -> int:
    """Write a backup, restore one into an empty database, or check one. Raises SetupError."""
    settings = load_settings()
    if arguments.command == "restore" and arguments.check:
        _check(arguments.file)
        return 0
    with _database(settings) as dsn:
        if arguments.command == "restore":
            _restore(dsn, arguments.file, settings.open_folders)
        else:
            folders = settings.open_folders if arguments.with_deliveries else None
            _backup(dsn, arguments.file, folders)
    return 0


@contextlib.contextmanager
def _database(settings: Settings) -> Iterator[str]:
    """Return the configured database; the local cluster runs while the context is open."""
    if settings.database_url:
        yield settings.database_url
        return
    cluster = Cluster(settings.home)
    try:
        yield cluster.start()
    finally:
        cluster.release()


def _backup(dsn: str, file: Path, folders: Mapping[str, Path] | None) -> None:
    """Write the database to a file; with folders, a tar file that includes delivered files."""
    if file.exists():
        raise SetupError(f"{file} already exists. Choose another name or move the file")
    partial, dump = file.with_name(f".{file.name}.part"), file.with_name(f".{file.name}.dump")
    note = ""
    try:
        with _private(partial if folders is None else dump) as out:
            _postgres(
                dsn, "pg_dump", "--format=custom", "--no-owner",
                "--exclude-table-data=access_session", stdout=out.fileno(),
            )  # fmt: skip
        if folders is not None:
            with (
                _private(partial) as out,
                tarfile.open(fileobj=out, mode="w") as archive,
                psycopg.connect(dsn) as connection,
            ):
                archive.add(dump, backups.DUMP)
                files = backups.delivered_files(connection)
                note = f", {backups.add_files(archive, files, folders).words()}"
        partial.rename(file)
    except OSError as error:
        raise SetupError(f"couldn't write {file} ({error.strerror})") from error
    finally:
        partial.unlink(missing_ok=True)
        dump.unlink(missing_ok=True)
    print(f"{file}: {file.stat().st_size / 1e6:.1f} MB{note}")


@contextlib.contextmanager
def _private(path: Path) -> Iterator[IO[bytes]]:
    """Create a file that only its owner can read, because it contains secrets."""
    path.unlink(missing_ok=True)
    with os.fdopen(os.open(path, os.O_RDWR | os.O_CREAT | os.O_EXCL, 0o600), "w+b") as out:
        yield out
        out.flush()
        os.fsync(out.fileno())


@contextlib.contextmanager
def _opened(file: Path) -> Iterator[tuple[Path, tarfile.TarFile | None]]:
    """Return the dump of a backup, and its tar file if there is one. Raises SetupError."""
    if not file.is_file():
        raise SetupError(f"{file} doesn't exist. Give a file created by ./sieve backup")
    if not tarfile.is_tarfile(file):
        yield file, None
        return
    try:
        with (
            tarfile.open(file) as archive,
            tempfile.TemporaryDirectory(prefix="sieve-restore-") as folder,
        ):
            dump = Path(folder, backups.DUMP)
            source = archive.extractfile(backups.DUMP)
            if source is None:
                raise SetupError(
                    f"{file} doesn't contain a database. Give a file created by ./sieve backup"
                )
            with _private(dump) as out:
                shutil.copyfileobj(source, out, 1 << 20)
            yield dump, archive
    except (tarfile.TarError, KeyError, EOFError) as error:
        raise SetupError(f"{file} is corrupt or not a backup ({error})") from error


def _restore(dsn: str, file: Path, folders: Mapping[str, Path]) -> None:
    with _opened(file) as (dump, archive):
        with psycopg.connect(dsn) as connection:
            row = connection.execute("select to_regclass('project') is null").fetchone()
        if not (row and row[0]):
            raise SetupError(
                "the database isn't empty. Set SIEVE_HOME to a new folder, or DATABASE_URL "
                "to an empty database, and restore there"
            )
        _load(dsn, dump)
        note = ""
        if archive is not None:
            note = f" with {backups.restore_files(archive, folders).words()}"
    print(f"{file} was restored{note}. Start the server with ./sieve serve")


def _load(dsn: str, dump: Path) -> None:
    _postgres(
        dsn, "pg_restore", "--no-owner", "--exit-on-error", "--single-transaction",
        "--dbname", _parts(dsn)["dbname"], str(dump),
    )  # fmt: skip


def _check(file: Path) -> None:
    """Restore a backup into a temporary database, check all of it, and delete the database."""
    with (
        _opened(file) as (dump, archive),
        tempfile.TemporaryDirectory(prefix="sieve-check-", ignore_cleanup_errors=True) as home,
    ):
        Path(home).chmod(0o755)  # PostgreSQL may run as another user
        cluster = Cluster(Path(home), durable=False)
        try:
            dsn = cluster.start()
            _load(dsn, dump)
            database = Database(dsn)
            try:
                migrate_all(database)
            finally:
                database.close()
            with psycopg.connect(dsn) as connection:
                row = connection.execute(
                    "select (select count(*) from project), (select count(*) from texture_set)"
                ).fetchone()
                originals = backups.check_originals(connection)
                files = backups.BackupCounts()
                if archive is not None:
                    files = backups.check_files(archive, backups.delivered_files(connection))
        finally:
            cluster.release()
    assert row is not None
    if files.changed:
        raise SetupError(f"{file}: {files.words()}")
    print(f"{file} is valid: {row[0]} projects, {row[1]} sets, {originals} originals"
          + (f", {files.words()}" if archive is not None else ""))  # fmt: skip


def _parts(dsn: str) -> dict[str, str]:
    return {name: str(value) for name, value in psycopg.conninfo.conninfo_to_dict(dsn).items()}


def _postgres(dsn: str, program: str, *words: str, stdout: int | None = None) -> None:
    """Run a PostgreSQL client program; the password isn't passed on its command line."""
    folder = binaries()
    if folder is None or not (folder / program).exists():
        raise SetupError(f"{program} isn't installed. Install PostgreSQL's client programs")
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
