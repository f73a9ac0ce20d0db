"""Measure the time until work continues after a kill: parts of deliveries, and jobs.

Parts of deliveries are leased by advisory locks, jobs are tasks of the queue library, which detects
dead workers by heartbeats. For each kind, the executing process is killed with SIGKILL, and the
seconds until the next attempt starts are printed.
"""

from __future__ import annotations

import os
import signal
import statistics
import tempfile
import time
from collections.abc import Callable
from pathlib import Path

import numpy as np
from tests.conftest import photo_codes
from tests.jobs.conftest import lanes_of, worker_process

from copper_sieve.core.codecs import write_picture
from copper_sieve.core.image.raster import Encoding, Picture
from copper_sieve.jobs.queue import connect_queue, migrate_all
from copper_sieve.services import deliveries
from copper_sieve.services.context import Context
from copper_sieve.services.delivery_preview import cells_of
from copper_sieve.services.jobs import listing
from copper_sieve.services.jobs.requests import ask_import
from copper_sieve.services.sources import import_source
from copper_sieve.settings import Settings
from copper_sieve.store.cluster import Cluster
from copper_sieve.store.database import Database
from copper_sieve.store.projects import ensure_project

QUICK = (1, 600)

PATIENCE = 120.0  # seconds


def wait_until(is_so: Callable[[], bool]) -> None:
    """Until something is so."""
    end = time.monotonic() + PATIENCE
    while not is_so():
        assert time.monotonic() < end
        time.sleep(0.02)


def recovered(attempts: Callable[[], tuple[str, int]], kill: Callable[[], None]) -> float:
    """Seconds from a kill in the middle of the first attempt to the beginning of the second."""
    wait_until(lambda: attempts() == ("running", 1))
    time.sleep(0.3)
    kill()
    begun = time.monotonic()
    wait_until(lambda: attempts()[1] >= 2)
    return time.monotonic() - begun


def main(kills: int = 12, side: int = 1500) -> None:
    """Print the seconds of both kinds, for pictures of that size."""
    for title, seconds in measure(kills, side).items():
        print(f"{title}: median {statistics.median(seconds):.1f} s, at most {max(seconds):.1f} s")


def measure(kills: int, side: int) -> dict[str, list[float]]:
    """Return the seconds from each kill to the next attempt, of parts of deliveries and of jobs."""
    with tempfile.TemporaryDirectory(ignore_cleanup_errors=True) as name:
        home = Path(name)
        home.chmod(0o755)
        cluster = Cluster(home / "cluster", durable=False)
        dsn = cluster.start()
        try:
            database = Database(dsn)
            migrate_all(database)
            with database.transaction() as connection:
                ensure_project(connection, "quay", "Quay")
            settings = Settings(home=home / "home", database_url=dsn)
            context = Context(settings, database, lambda *_: None)
            connect_queue(context)
            with worker_process(dsn, settings.home) as worker:

                def kill(lane: str) -> None:
                    os.kill(lanes_of(worker)[lane], signal.SIGKILL)

                parts = [_part(context, home, n, kill, side) for n in range(kills)]
                jobs = [_job(context, home, n, kill, side) for n in range(kills)]
            database.close()
        finally:
            cluster.release()
    return {"parts of deliveries": parts, "jobs": jobs}


def _part(context: Context, home: Path, n: int, kill: Callable[[str], None], side: int) -> float:
    path = home / f"photo-{n}.png"
    codes = photo_codes((side, side), n)
    write_picture(path, Picture(codes, ("R", "G", "B"), Encoding.SRGB), "png")
    set_id = import_source(context, "quay", path, path.name).set_id
    cells = cells_of([set_id], ["gltf-metal-rough"])
    number = deliveries.create_delivery(context, "quay", cells).id

    def attempts() -> tuple[str, int]:
        part = deliveries.get(context, number).parts[0]
        return part.state, part.attempts

    seconds = recovered(attempts, lambda: kill("deliveries"))
    wait_until(lambda: attempts()[0] == "done")
    return seconds


def _job(context: Context, home: Path, n: int, kill: Callable[[str], None], side: int) -> float:
    path = home / f"sky-{n}.hdr"
    light = np.random.default_rng(n).random((2 * side, 4 * side, 3), np.float32)
    write_picture(path, Picture(light, ("R", "G", "B"), Encoding.LINEAR), "hdr")
    asked = ask_import(context, "environment_import", path, path.name, "quay", {"kind": "panorama"})

    def attempts() -> tuple[str, int]:
        job = listing.get(context, asked.id)
        return job.state, job.attempts

    seconds = recovered(attempts, lambda: kill("large"))
    wait_until(lambda: attempts()[0] == "done")
    return seconds
