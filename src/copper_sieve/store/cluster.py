"""Our own PostgreSQL cluster: Debian's server, a data folder of ours, loopback only.

Several processes may use one cluster; the last one to leave stops it. PostgreSQL refuses to run
as root, so as root its programs run as the user `postgres`.
"""

from __future__ import annotations

import contextlib
import fcntl
import os
import pwd
import secrets
import shutil
import socket
import subprocess
import sys
from collections.abc import Iterator
from pathlib import Path
from typing import IO, Any

import psycopg
from psycopg import sql

from copper_sieve.core.errors import SetupError

_DATABASE = "copper_sieve"
_USER = "sieve"


def binaries(version: str | None = None) -> Path | None:
    """The folder with initdb and postgres (of a major version), newest first, or None."""
    found = sorted(
        Path("/usr/lib/postgresql").glob("*/bin"),
        key=lambda path: int(path.parent.name) if path.parent.name.isdigit() else 0,
        reverse=True,
    )
    if version:
        found = [path for path in found if path.parent.name == version]
    if not found and (program := shutil.which("initdb")):
        found = [Path(program).resolve().parent]
    return next((p for p in found if (p / "initdb").exists() and (p / "postgres").exists()), None)


class Cluster:
    """A cluster in `home`/postgres. `start` gives the connection string, `release` lets go."""

    def __init__(self, home: Path, *, durable: bool = True) -> None:
        self._home = home.absolute()
        self._folder = self._home / "postgres"
        self._data = self._folder / "data"
        self._durable = durable
        self._held: IO[str] | None = None
        self._owner = pwd.getpwnam("postgres") if os.geteuid() == 0 else None

    def start(self) -> str:
        """Make the cluster if there is none, start it if it is down. Raises SetupError."""
        self._make_folders()
        with self._starting():
            if not (self._data / "PG_VERSION").exists():
                self._initialise()
            self._held = (self._home / "cluster.users").open("w")
            fcntl.flock(self._held, fcntl.LOCK_SH)
            if self._run("pg_ctl", "status", "-D", str(self._data), check=False).returncode:
                self._launch()
            dsn = self._dsn("postgres")
            with psycopg.connect(dsn, autocommit=True) as connection:
                row = connection.execute(
                    "select 1 from pg_database where datname = %s", [_DATABASE]
                ).fetchone()
                if not row:
                    name = sql.Identifier(_DATABASE)
                    connection.execute(sql.SQL("create database {}").format(name))
        return self._dsn(_DATABASE)

    def release(self) -> None:
        """Stop the cluster unless another process still uses it."""
        if self._held is None:
            return
        with self._starting():
            try:
                fcntl.flock(self._held, fcntl.LOCK_EX | fcntl.LOCK_NB)
            except BlockingIOError:
                return
            else:
                self._run("pg_ctl", "stop", "-m", "fast", "-w", "-D", str(self._data), check=False)
            finally:
                self._held.close()
                self._held = None

    def _make_folders(self) -> None:
        try:
            self._folder.mkdir(parents=True, exist_ok=True)
        except OSError as error:
            raise SetupError(
                f"{self._home} cannot be made ({error.strerror}): set SIEVE_HOME to another folder"
            ) from error
        if self._owner:
            self._home.chmod(self._home.stat().st_mode | 0o011)
            os.chown(self._folder, self._owner.pw_uid, self._owner.pw_gid)
            self._folder.chmod(0o700)
            probe = subprocess.run(["/bin/ls", str(self._folder)], **self._as_owner(), check=False)
            if probe.returncode:
                raise SetupError(
                    f"the user postgres cannot reach {self._folder}: set SIEVE_HOME to a folder "
                    "that every user may pass through, such as /var/lib/copper-sieve"
                )

    @contextlib.contextmanager
    def _starting(self) -> Iterator[None]:
        with (self._home / "cluster.lock").open("w") as lock:
            fcntl.flock(lock, fcntl.LOCK_EX)
            yield

    def _initialise(self) -> None:
        shutil.rmtree(self._data, ignore_errors=True)  # a first start that was interrupted
        password = self._folder / "password"
        password.write_text(secrets.token_urlsafe(24))
        password.chmod(0o600)
        if self._owner:
            os.chown(password, self._owner.pw_uid, self._owner.pw_gid)
        making = self._folder / "making"
        shutil.rmtree(making, ignore_errors=True)
        self._run(
            "initdb", "-D", str(making), "-U", _USER, "--auth=scram-sha-256",
            f"--pwfile={password}", "--encoding=UTF8", "--locale=C.UTF-8",
        )  # fmt: skip
        making.rename(self._data)

    def _launch(self) -> None:
        options = [f"-p {_free_port()}", "-c listen_addresses=127.0.0.1"]
        options.append("-c unix_socket_directories=''")
        if not self._durable:
            options += ["-c fsync=off", "-c synchronous_commit=off", "-c full_page_writes=off"]
        log = self._folder / "server.log"
        self._run(
            "pg_ctl", "start", "-w", "-t", "60", "-D", str(self._data), "-l", str(log),
            "-o", " ".join(options),
        )  # fmt: skip

    def _run(
        self, program: str, *words: str, check: bool = True
    ) -> subprocess.CompletedProcess[str]:
        version_file = self._data / "PG_VERSION"
        version = version_file.read_text().strip() if version_file.exists() else None
        folder = binaries(version)
        if folder is None:
            wanted = f"PostgreSQL server {version or ''}".strip()
            raise SetupError(f"install the {wanted} and start again")
        how = self._as_owner()
        if words[0] != "start":  # the server would inherit the pipe, and we would wait for it
            how |= {"stdout": subprocess.PIPE, "stderr": subprocess.STDOUT}
        done = subprocess.run([str(folder / program), *words], **how, check=False)
        if check and done.returncode:
            reason = (done.stdout or "").strip().splitlines()
            raise SetupError(
                f"PostgreSQL's {program} failed: {reason[-1] if reason else 'no reason given'}; "
                f"see {self._folder / 'server.log'}"
            )
        return done

    def _as_owner(self) -> dict[str, Any]:
        how: dict[str, Any] = {
            "cwd": "/",
            "text": True,
            "stdin": subprocess.DEVNULL,
            "stdout": subprocess.DEVNULL,
            "stderr": subprocess.DEVNULL,
            "start_new_session": True,
            "env": {"PATH": os.environ.get("PATH", ""), "LC_ALL": "C.UTF-8"},
        }
        if self._owner:
            how |= {"user": self._owner.pw_uid, "group": self._owner.pw_gid, "extra_groups": []}
        return how

    def _dsn(self, database: str) -> str:
        port = (self._data / "postmaster.pid").read_text().splitlines()[3].strip()
        password = (self._folder / "password").read_text()
        return psycopg.conninfo.make_conninfo(
            host="127.0.0.1", port=int(port), user=_USER, password=password, dbname=database
        )


def _free_port() -> int:
    with socket.socket() as probe:
        probe.bind(("127.0.0.1", 0))
        return int(probe.getsockname()[1])


if __name__ == "__main__":  # `python -m copper_sieve.store.cluster where`, for the start script
    place = binaries()
    print(place or "")
    sys.exit(0 if place else 1)
