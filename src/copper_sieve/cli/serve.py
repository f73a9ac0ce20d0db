"""./sieve demo, serve and work: start and stop the cluster, the server and its workers."""

from __future__ import annotations

import argparse
import contextlib
import errno
import logging
import os
import signal
import socket
import subprocess
import sys
import threading
import time
from collections.abc import Iterator
from urllib.parse import quote

import uvicorn

from copper_sieve.api.access import Access, OpenOnLoopback, is_loopback
from copper_sieve.api.access_token import AccessToken
from copper_sieve.api.application import make_application, web_folder
from copper_sieve.api.credentials import Credentials
from copper_sieve.cli.stopping import stopping
from copper_sieve.core.errors import SetupError
from copper_sieve.demo.lantern_row import fill_demo
from copper_sieve.jobs.queue import connect_queue, migrate_all
from copper_sieve.jobs.supervisor import PARENT_PIPE, work
from copper_sieve.services.context import Context
from copper_sieve.services.warm_up import warm_up
from copper_sieve.settings import Settings, load_settings
from copper_sieve.store.cluster import Cluster
from copper_sieve.store.database import Database
from copper_sieve.store.delivery_locations import adopt

_log = logging.getLogger(__name__)


def run(arguments: argparse.Namespace) -> int:
    """Start the server or worker; returns when it was stopped."""
    stopping.begin()
    logging.basicConfig(level=logging.WARNING, format="sieve: %(name)s: %(message)s")
    logging.getLogger("procrastinate").setLevel(logging.ERROR)
    settings = load_settings()
    if arguments.command == "work":
        if not settings.database_url:
            raise SetupError("set DATABASE_URL to the database of this worker")
        stopping.point()
        work(settings, settings.database_url, stopping.tell)
        return 0
    return _serve(settings, arguments.command == "demo", arguments.port or settings.port)


def _serve(settings: Settings, demo: bool, port: int) -> int:
    if not (web_folder() / "index.html").is_file():
        raise SetupError("the front end isn't built. Start with ./sieve, which builds it")
    started = time.monotonic()
    token = _token(settings, demo)  # don't start a server without access control
    with contextlib.ExitStack() as stack:
        dsn = stack.enter_context(_database(settings))
        stopping.point()
        database = Database(dsn)
        stack.callback(database.close)
        migrate_all(database)
        context = Context(settings, database, lambda *_: None)
        connect_queue(context)
        stack.callback(context.close)
        context.clear_left_behind()
        with database.transaction() as connection:
            adopt(connection, context.places())
        stack.enter_context(_warming_up())
        fill_demo(context, with_pictures=demo, between=stopping.point)
        stopping.point()
        stack.enter_context(_worker(dsn, settings.workers))
        listener = stack.enter_context(_listen(settings.host, port))
        access = _access(settings, database, token, listener.getsockname()[0])
        config = uvicorn.Config(
            make_application(context, access),
            log_level="warning",
            timeout_graceful_shutdown=3,
            # A connection that is closed at the moment of its reuse raises an error.
            timeout_keep_alive=75,
        )
        server = uvicorn.Server(config)
        stopping.tell(lambda: setattr(server, "should_exit", True))
        print(_greeting(token, listener, time.monotonic() - started), flush=True)
        server.run(sockets=[listener])
        sys.stderr.write("sieve: shutting down\n")
    return 0


@contextlib.contextmanager
def _database(settings: Settings) -> Iterator[str]:
    """Return the server of DATABASE_URL, or else the local cluster, which runs as long as this
    process.
    """
    if settings.database_url:
        yield settings.database_url
        return
    cluster = Cluster(settings.home)
    try:
        dsn = cluster.start()
        with cluster.kept_alive():
            yield dsn
    finally:
        cluster.release()


@contextlib.contextmanager
def _warming_up() -> Iterator[None]:
    """Compile kernels in the background; the thread ends before the interpreter."""
    leaving = threading.Event()
    thread = threading.Thread(target=warm_up, args=[leaving.is_set], name="warm-up")
    thread.start()
    try:
        yield
    finally:
        leaving.set()
        thread.join()


def _token(settings: Settings, demo: bool) -> AccessToken | None:
    """Return the access token; None only for the demo on a loopback address."""
    if settings.token:
        return AccessToken.chosen(settings.token)
    if demo and is_loopback(settings.host):
        return None
    return AccessToken.of_home(settings.home)


def _access(
    settings: Settings, database: Database, token: AccessToken | None, address: str
) -> Access:
    """Return the access control of a server that listens on an address."""
    names = {name.strip().lower() for name in settings.hosts.split(",")} | {settings.host.lower()}
    hosts = frozenset(names - {""})
    if token is not None:
        return Access(Credentials(token, database), hosts)
    if not is_loopback(address):  # a name such as localhost may resolve to another address
        raise SetupError(
            f"SIEVE_HOST: {settings.host} is {address}, which other machines may reach. The demo "
            "is open only on a loopback address: set SIEVE_HOST=127.0.0.1 or set SIEVE_TOKEN"
        )
    return Access(OpenOnLoopback(), hosts)


def _greeting(token: AccessToken | None, listener: socket.socket, seconds: float) -> str:
    host, port = listener.getsockname()[:2]
    shown = f"[{host}]" if ":" in host else host
    address = f"http://{shown}:{port}"
    note = " Demo: every program on this computer can use this server without an access token."
    if token is not None:
        address, note = f"{address}/?token={quote(token.current() or '')}", ""
    return (
        f"Copper Sieve is running at {address} (started in {seconds:.1f} s). Press Ctrl+C to "
        f"stop.{note}"
    )


@contextlib.contextmanager
def _listen(host: str, port: int) -> Iterator[socket.socket]:
    """Return a socket bound to the port, or to the next free one."""
    try:
        family, _, _, _, place = socket.getaddrinfo(host, port, type=socket.SOCK_STREAM)[0]
    except OSError as error:
        raise SetupError(f"SIEVE_HOST: {host} isn't an address of this machine") from error
    for candidate in range(port, min(port + 100, 65536)):
        listener = socket.socket(family)
        listener.setsockopt(socket.SOL_SOCKET, socket.SO_REUSEADDR, 1)
        # Without TCP_NODELAY, short responses wait 40 ms for an acknowledgement.
        listener.setsockopt(socket.IPPROTO_TCP, socket.TCP_NODELAY, 1)
        try:
            listener.bind((place[0], candidate))
            listener.listen(128)
        except OSError as error:
            listener.close()
            if error.errno == errno.EADDRNOTAVAIL:
                message = f"SIEVE_HOST: {host} isn't an address of this machine"
                raise SetupError(message) from error
            continue
        with listener:
            yield listener
        return
    raise SetupError(f"no free port from {port} on. Give another one with --port")


@contextlib.contextmanager
def _worker(dsn: str, lanes: int = 1) -> Iterator[None]:
    """Run a worker and restart it when it exits.

    lanes : number of delivery lanes; they share the cores
    The worker holds the reading end of a pipe whose writing end belongs to this process. When this
    process dies, the worker reads the end of the file and stops.
    """
    leaving = threading.Event()
    reading, writing = os.pipe()
    environment = {**os.environ, "DATABASE_URL": dsn, PARENT_PIPE: str(reading)}
    if lanes > 1:
        threads = str(max(1, (os.cpu_count() or 1) // lanes))
        environment = {"NUMBA_NUM_THREADS": threads, **environment}
    command = [sys.executable, "-m", "copper_sieve.cli", "work"]

    def start() -> subprocess.Popen[bytes]:
        # In a separate session, so that Ctrl+C reaches only this process, which stops the worker.
        return subprocess.Popen(
            command, env=environment, start_new_session=True, pass_fds=[reading]
        )

    process = start()

    def watch() -> None:
        nonlocal process
        while not leaving.wait(0.5):
            if process.poll() is not None:
                _log.warning("the worker ended (%s); starting another", process.returncode)
                process = start()

    watcher = threading.Thread(target=watch, name="worker-watch")
    watcher.start()
    try:
        yield
    finally:
        leaving.set()
        watcher.join()
        os.close(writing)
        process.send_signal(signal.SIGTERM)
        try:
            process.wait(15)
        except subprocess.TimeoutExpired:
            process.kill()
            process.wait()
        os.close(reading)
