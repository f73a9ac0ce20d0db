"""The local PostgreSQL cluster: Debian's server with its own data folder, on loopback only.

Several processes can share a cluster; the last one stops it, and while there is one, a crashed
server is restarted on the same port. PostgreSQL refuses to run as root, so as root its programs run
as the user `postgres`. The application's role isn't a superuser.
"""

from __future__ import annotations

import contextlib
import fcntl
import logging
import os
import pwd
import secrets
import shutil
import socket
import subprocess
import sys
import threading
from collections.abc import Iterator
from pathlib import Path
from typing import IO, Any

import psycopg
from psycopg import sql

from copper_sieve.core.errors import SetupError

_DATABASE = "copper_sieve"
_SUPERUSER = "sieve"  # makes the database and the role, and does nothing else
_USER = "sieve_app"
_LOOK_EVERY = 1.0  # seconds, if the server still lives
_log = logging.getLogger(__name__)


def binaries(version: str | None = None) -> Path | None:
    """Return the newest folder with initdb and postgres (of a major version), or None."""
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
    """A cluster in `home`/postgres.

    `start` returns the connection string, `release` stops using it.
    """

    def __init__(self, home: Path, *, durable: bool = True) -> None:
        self._home = home.absolute()
        self._folder = self._home / "postgres"
        self._data = self._folder / "data"
        self._durable = durable
        self._held: IO[str] | None = None
        self._owner = pwd.getpwnam("postgres") if os.geteuid() == 0 else None

    def start(self) -> str:
        """Create the cluster if there is none, and start it if it is stopped. Raises SetupError."""
        self._make_folders()
        with self._starting():
            if not (self._data / "PG_VERSION").exists():
                self._initialise()
            self._held = (self._home / "cluster.users").open("w")
            fcntl.flock(self._held, fcntl.LOCK_SH)
            if not self._runs():
                self._launch(self._usual_port())
            self._prepare_database()
        return self._dsn(_DATABASE)

    @contextlib.contextmanager
    def kept_alive(self) -> Iterator[None]:
        """Restart a crashed server on the same port during a `with` block."""
        leaving = threading.Event()

        def look() -> None:
            failed = ""
            while not leaving.wait(_LOOK_EVERY):
                try:
                    if self._postmaster_lives():
                        failed = ""
                        continue
                    with self._starting():
                        if not leaving.is_set() and not self._runs():
                            _log.warning("the database server stopped; restarting it")
                            self._launch(self._port())
                except (SetupError, OSError) as error:  # a full disk; it is tried again
                    if str(error) != failed:
                        _log.warning("couldn't start the database server: %s", error)
                    failed = str(error)

        keeper = threading.Thread(target=look, name="cluster-keeper")
        keeper.start()
        try:
            yield
        finally:
            leaving.set()
            keeper.join()

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
                f"couldn't create {self._home} ({error.strerror}). Set SIEVE_HOME to another folder"
            ) from error
        if self._owner:
            self._home.chmod(self._home.stat().st_mode | 0o011)
            os.chown(self._folder, self._owner.pw_uid, self._owner.pw_gid)
            self._folder.chmod(0o700)
            probe = subprocess.run(
                self._by_owner("/bin/ls", str(self._folder)), **_QUIETLY, check=False
            )
            if probe.returncode:
                raise SetupError(
                    f"the user postgres has no access to {self._folder}. Set SIEVE_HOME to a "
                    "folder whose parents every user may enter, such as "
                    "/var/lib/copper-sieve"
                )

    @contextlib.contextmanager
    def _starting(self) -> Iterator[None]:
        with (self._home / "cluster.lock").open("w") as lock:
            fcntl.flock(lock, fcntl.LOCK_EX)
            yield

    def _initialise(self) -> None:
        shutil.rmtree(self._data, ignore_errors=True)  # a first start that was interrupted
        password = self._secret(_SUPERUSER)
        making = self._folder / "making"
        shutil.rmtree(making, ignore_errors=True)
        self._run(
            "initdb", "-D", str(making), "-U", _SUPERUSER, "--auth=scram-sha-256",
            f"--pwfile={password}", "--encoding=UTF8", "--locale=C.UTF-8",
        )  # fmt: skip
        making.rename(self._data)

    def _prepare_database(self) -> None:
        """Create the database, owned by a role without superuser rights; also migrates older
        clusters.
        """
        password = self._secret(_USER).read_text()
        words = [sql.Identifier(_USER), sql.Literal(password)]
        with psycopg.connect(self._dsn("postgres", _SUPERUSER), autocommit=True) as connection:
            if not connection.execute(_HAS_ROLE, [_USER]).fetchone():
                connection.execute(sql.SQL("create role {}").format(words[0]))
            connection.execute(sql.SQL("alter role {} login password {}").format(*words))
            if not connection.execute(_HAS_DATABASE, [_DATABASE]).fetchone():
                connection.execute(
                    sql.SQL("create database {} owner {}").format(
                        sql.Identifier(_DATABASE), words[0]
                    )
                )
        with psycopg.connect(self._dsn(_DATABASE, _SUPERUSER), autocommit=True) as connection:
            connection.execute(_GIVE_AWAY)

    def _runs(self) -> bool:
        return not self._run("pg_ctl", "status", "-D", str(self._data), check=False).returncode

    def _postmaster_lives(self) -> bool:
        """Return whether the server's process exists; a cheap check, called every second."""
        try:
            number = int((self._data / "postmaster.pid").read_text().splitlines()[0])
            os.kill(number, 0)
        except PermissionError:
            return True
        except (OSError, ValueError, IndexError):
            return False
        with contextlib.suppress(OSError):  # a zombie is dead; and the number may be another's now
            name, _, rest = Path(f"/proc/{number}/stat").read_text().rpartition(")")
            return rest.split()[0] != "Z" and name.endswith("(postgres")
        return False

    def _port(self) -> int:
        return int((self._folder / "port").read_text())

    def _usual_port(self) -> int:
        """Return the previous port if it is free, so that clients can reconnect."""
        with contextlib.suppress(OSError, ValueError), socket.socket() as probe:
            port = self._port()
            probe.setsockopt(socket.SOL_SOCKET, socket.SO_REUSEADDR, 1)
            probe.bind(("127.0.0.1", port))
            return port
        return _free_port()

    def _launch(self, port: int) -> None:
        options = [f"-p {port}", "-c listen_addresses=127.0.0.1"]
        options.append("-c unix_socket_directories=''")
        if not self._durable:
            options += ["-c fsync=off", "-c synchronous_commit=off", "-c full_page_writes=off"]
        log = self._folder / "server.log"
        self._run(
            "pg_ctl", "start", "-w", "-t", "60", "-D", str(self._data), "-l", str(log),
            "-o", " ".join(options),
        )  # fmt: skip
        (self._folder / "port").write_text(str(port))

    def _run(
        self, program: str, *words: str, check: bool = True
    ) -> subprocess.CompletedProcess[str]:
        version_file = self._data / "PG_VERSION"
        version = version_file.read_text().strip() if version_file.exists() else None
        folder = binaries(version)
        if folder is None:
            wanted = f"PostgreSQL server {version or ''}".strip()
            raise SetupError(f"install {wanted} and start again")
        how = dict(_QUIETLY)
        if words[0] != "start":  # the server would inherit the pipe, and we would wait for it
            how |= {"stdout": subprocess.PIPE, "stderr": subprocess.STDOUT}
        done = subprocess.run(self._by_owner(str(folder / program), *words), **how, check=False)
        if check and done.returncode:
            reason = (done.stdout or "").strip().splitlines()
            raise SetupError(
                f"PostgreSQL's {program} failed: {reason[-1] if reason else 'no reason given'}; "
                f"see {self._folder / 'server.log'}"
            )
        return done

    def _by_owner(self, program: str, *words: str) -> list[str]:
        """Return a command that runs a program as the cluster's owner.

        The new process changes its own user. With `subprocess` (`user=`), Python would fork, and
        the copy can wait forever for a lock that a library's thread held at that moment.
        """
        if self._owner is None:
            return [program, *words]
        owner = str(self._owner.pw_uid), str(self._owner.pw_gid)
        return [sys.executable, "-I", "-S", "-c", _BECOME, *owner, program, *words]

    def _secret(self, user: str) -> Path:
        """Return the file with a role's password, created if missing.

        Only its owner can read it.
        """
        path = self._folder / ("password" if user == _SUPERUSER else f"password-{user}")
        if not path.exists():
            path.touch(mode=0o600)
            path.write_text(secrets.token_urlsafe(24))
            if self._owner:
                os.chown(path, self._owner.pw_uid, self._owner.pw_gid)
        return path

    def _dsn(self, database: str, user: str = _USER) -> str:
        port = (self._data / "postmaster.pid").read_text().splitlines()[3].strip()
        return psycopg.conninfo.make_conninfo(
            host="127.0.0.1", port=int(port), user=user, dbname=database,
            password=self._secret(user).read_text(),
        )  # fmt: skip


_BECOME = (
    "import os, sys; user, group, *words = sys.argv[1:]; "
    "os.setgroups([]); os.setgid(int(group)); os.setuid(int(user)); os.execv(words[0], words)"
)
_QUIETLY: dict[str, Any] = {
    "cwd": "/",
    "text": True,
    "stdin": subprocess.DEVNULL,
    "stdout": subprocess.DEVNULL,
    "stderr": subprocess.DEVNULL,
    "start_new_session": True,
    "env": {"PATH": os.environ.get("PATH", ""), "LC_ALL": "C.UTF-8"},
}
_HAS_ROLE = "select 1 from pg_roles where rolname = %s"
_HAS_DATABASE = "select 1 from pg_database where datname = %s"
# Everything of ours that the superuser still owns, as the first versions made it.
_GIVE_AWAY = sql.SQL(
    """
do $$
declare one record;
begin
  if '{user}' <> (
    select pg_get_userbyid(datdba) from pg_database where datname = current_database()
  ) then
    execute format('alter database %I owner to {user}', current_database());
  end if;
  for one in
    select case c.relkind when 'S' then 'sequence' when 'v' then 'view' else 'table' end as what,
      c.oid::regclass::text as name
    from pg_class c
    where c.relnamespace = 'public'::regnamespace and c.relkind in ('r', 'p', 'v', 'S')
      and pg_get_userbyid(c.relowner) <> '{user}'
      and not exists (select from pg_depend d where d.objid = c.oid and d.deptype in ('a', 'i'))
    union all
    select 'routine', p.oid::regprocedure::text from pg_proc p
    where p.pronamespace = 'public'::regnamespace and pg_get_userbyid(p.proowner) <> '{user}'
    union all
    select 'type', t.oid::regtype::text from pg_type t
    where t.typnamespace = 'public'::regnamespace and pg_get_userbyid(t.typowner) <> '{user}'
      and (t.typtype in ('e', 'd') or (t.typtype = 'c' and exists (
        select from pg_class c where c.oid = t.typrelid and c.relkind = 'c')))
  loop
    execute format('alter %s %s owner to {user}', one.what, one.name);
  end loop;
end $$
""".replace("{user}", _USER)
)


def _free_port() -> int:
    with socket.socket() as probe:
        probe.bind(("127.0.0.1", 0))
        return int(probe.getsockname()[1])


if __name__ == "__main__":  # `python -m copper_sieve.store.cluster where`, for the start script
    place = binaries()
    print(place or "")
    sys.exit(0 if place else 1)
