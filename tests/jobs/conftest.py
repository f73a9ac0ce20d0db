"""Contexts with the real queue, and real worker processes."""

from __future__ import annotations

import os
import subprocess
import sys
import time
from collections.abc import Callable, Iterator
from pathlib import Path

import pytest

from copper_sieve.jobs.queue import enqueuer
from copper_sieve.services import deliveries
from copper_sieve.services.context import Context
from copper_sieve.services.sources import take_in
from copper_sieve.store.delivery_rows import KeptDelivery

StartWorker = Callable[[], subprocess.Popen]


@pytest.fixture
def real(context: Context) -> Context:
    """A context whose deliveries really go to the queue."""
    context.enqueue = enqueuer()
    return context


@pytest.fixture
def start_worker(context: Context, dsn: str) -> Iterator[StartWorker]:
    """Starts worker processes for the test's context, and ends them with it."""
    started: list[subprocess.Popen] = []
    environment = {**os.environ, "DATABASE_URL": dsn, "SIEVE_HOME": str(context.settings.home)}

    def start() -> subprocess.Popen:
        command = [sys.executable, "-m", "copper_sieve.cli", "work"]
        started.append(subprocess.Popen(command, env=environment))
        return started[-1]

    yield start
    for process in started:
        process.terminate()
    for process in started:
        process.wait(20)


def set_of(context: Context, project: str, photo: Path, tmp_path: Path) -> int:
    """A set made from a copy of a photo."""
    copy = tmp_path / "sent" / photo.name
    copy.parent.mkdir(exist_ok=True)
    copy.write_bytes(photo.read_bytes())
    return take_in(context, project, copy, photo.name).set_id


def wait_for(
    context: Context, delivery_id: int, states: set[str], seconds: float = 60
) -> KeptDelivery:
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
