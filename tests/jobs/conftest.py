"""Contexts with the real queue, and real worker processes."""

from __future__ import annotations

import os
import signal
import subprocess
import sys
import time
from collections.abc import Callable, Iterator
from contextlib import ExitStack, contextmanager
from pathlib import Path

import pytest

from copper_sieve.jobs.queue import connect_queue
from copper_sieve.services import deliveries
from copper_sieve.services.context import Context
from copper_sieve.services.sources import import_source
from copper_sieve.store.delivery_rows import StoredDelivery

StartWorker = Callable[..., subprocess.Popen]


@pytest.fixture
def real(context: Context) -> Context:
    """A context whose deliveries and jobs really go to the queue."""
    connect_queue(context)
    return context


@contextmanager
def worker_process(dsn: str, home: Path, **settings: str) -> Iterator[subprocess.Popen]:
    """A worker process, which is ended with the `with` block."""
    environment = {**os.environ, "DATABASE_URL": dsn, "SIEVE_HOME": str(home), **settings}
    command = [sys.executable, "-m", "copper_sieve.cli", "work"]
    process = subprocess.Popen(command, env=environment)
    try:
        yield process
    finally:
        process.terminate()
        process.wait(20)


@pytest.fixture
def start_worker(context: Context, dsn: str) -> Iterator[StartWorker]:
    """Starts worker processes for the test's context, and ends them with it."""
    with ExitStack() as stack:
        home = context.settings.home
        yield lambda **settings: stack.enter_context(worker_process(dsn, home, **settings))


def set_of(context: Context, project: str, photo: Path, tmp_path: Path) -> int:
    """A set made from a copy of a photo."""
    copy = tmp_path / "sent" / photo.name
    copy.parent.mkdir(exist_ok=True)
    copy.write_bytes(photo.read_bytes())
    return import_source(context, project, copy, photo.name).set_id


def wait_for(
    context: Context, delivery_id: int, states: set[str], seconds: float = 60
) -> StoredDelivery:
    """The delivery once it is in one of the states."""
    end = time.monotonic() + seconds
    while time.monotonic() < end:
        row = deliveries.get(context, delivery_id)
        if row.state in states:
            return row
        time.sleep(0.05)
    raise AssertionError(f"still {row.state} ({row.step}) after {seconds} s")


def nothing_half_written(context: Context) -> bool:
    """Nothing hidden is left under the delivery root."""
    return not list(context.settings.delivery_root.rglob(".*"))


def kill_worker(worker: subprocess.Popen) -> None:
    """Kill a worker with its lanes, so that none of them can put anything back."""
    worker.send_signal(signal.SIGSTOP)  # it starts no lane anew
    for pid in lanes_of(worker).values():
        os.kill(pid, signal.SIGKILL)
    worker.kill()
    worker.wait(20)


def lanes_of(worker: subprocess.Popen) -> dict[str, int]:
    """The processes of a worker's lanes by their names."""
    listed = Path(f"/proc/{worker.pid}/task/{worker.pid}/children").read_text()
    found = {Path(f"/proc/{pid}/comm").read_text().strip(): int(pid) for pid in listed.split()}
    return {name.removeprefix("lane-"): pid for name, pid in found.items()}
