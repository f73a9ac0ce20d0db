"""Jobs in real worker processes: carried out, killed and resumed, cancelled, held to limits."""

from __future__ import annotations

import os
import subprocess
import threading
import time
from collections.abc import Callable, Iterator
from pathlib import Path

import numpy as np
import pytest
from benchmarks import recovery

from copper_sieve.core.codecs import write_picture
from copper_sieve.core.image.raster import Encoding, Picture
from copper_sieve.jobs.watchdog import watchdog
from copper_sieve.services import arrivals, environments
from copper_sieve.services.context import Context
from copper_sieve.services.jobs import listing
from copper_sieve.services.jobs.requests import ask_import
from copper_sieve.services.jobs.running import Running
from copper_sieve.store import jobs
from copper_sieve.store.jobs import StoredJob
from tests.conftest import MakePhoto
from tests.jobs.conftest import StartWorker, worker_process


def wait_until(is_so: Callable[[], object], seconds: float = 40) -> None:
    end = time.monotonic() + seconds
    while not is_so():
        assert time.monotonic() < end
        time.sleep(0.03)


def ended(context: Context, job: StoredJob, seconds: float = 120) -> StoredJob:
    wait_until(lambda: not listing.get(context, job.id).is_open, seconds)
    return listing.get(context, job.id)


def sky(folder: Path, width: int = 64) -> Path:
    path = folder / f"sky-{width}.hdr"
    light = np.random.default_rng(width).random((width // 2, width, 3), np.float32)
    write_picture(path, Picture(light, ("R", "G", "B"), Encoding.LINEAR), "hdr")
    return path


def ask_sky(context: Context, project: str, path: Path) -> StoredJob:
    more = {"kind": "panorama"}
    return ask_import(context, "environment_import", path, path.name, project, more)


@pytest.fixture
def slow(tmp_path: Path) -> Path:
    """An environment whose import takes seconds."""
    return sky(tmp_path, 3600)


def test_a_job_that_takes_too_long_fails(
    context: Context, project: str, tmp_path: Path, monkeypatch: pytest.MonkeyPatch
) -> None:
    left = threading.Event()
    monkeypatch.setattr(os, "_exit", lambda _: left.set())
    context.start_job = lambda *_: None
    job = ask_sky(context, project, sky(tmp_path))
    context.settings.job_seconds = 0.2
    with context.database.transaction() as connection:
        begun = jobs.begin(connection, job.id, "here")
    assert begun is not None
    with watchdog(context, Running(context, begun)):
        assert left.wait(20)
    failed = listing.get(context, job.id)
    assert (failed.state, failed.error_code) == ("failed", "too_slow")
    assert "sky-64.hdr took longer than" in (failed.error or "")


# Tests with workers of their own come before the one that the others share.
def test_a_job_that_needs_too_much_memory_fails_alone(
    real: Context, project: str, tmp_path: Path, start_worker: StartWorker
) -> None:
    start_worker(SIEVE_JOB_MEMORY=str(220 << 20))
    large = sky(tmp_path, 6000)
    job, small = ask_sky(real, project, large), ask_sky(real, project, sky(tmp_path))
    failed = ended(real, job)
    assert (failed.state, failed.error_code) == ("failed", "no_memory")
    assert "sky-6000.hdr requires more than 0.2 GB of memory" in (failed.error or "")
    assert ended(real, small).state == "done"
    assert [one.name for one in environments.of_project(real, project)] == ["sky-64.hdr"]


def test_a_worker_that_is_told_to_stop_puts_its_job_back(
    real: Context, project: str, slow: Path, start_worker: StartWorker,
    request: pytest.FixtureRequest,
) -> None:  # fmt: skip
    left = real.settings.home / "passing" / "left"  # by a worker that was killed
    left.mkdir(parents=True)
    own = start_worker()
    job = ask_sky(real, project, slow)
    wait_until(lambda: listing.get(real, job.id).state == "running")
    wait_until(lambda: not left.exists())
    own.terminate()
    assert own.wait(20) == 0
    found = listing.get(real, job.id)
    assert (found.state, found.attempts) in (("queued", 0), ("done", 1))
    request.getfixturevalue("worker")  # it serves the other tests as well
    assert ended(real, job).state == "done"


@pytest.fixture(scope="module")
def worker(dsn: str, tmp_path_factory: pytest.TempPathFactory) -> Iterator[subprocess.Popen]:
    """One worker for most of these tests: what it needs is in the database."""
    with worker_process(dsn, tmp_path_factory.mktemp("worker")) as process:
        yield process


def test_a_worker_carries_out_what_is_asked_for_while_it_waits_and_before(
    real: Context, project: str, tmp_path: Path, make_photo: MakePhoto, worker: subprocess.Popen
) -> None:
    first = ask_sky(real, project, sky(tmp_path))
    assert ended(real, first).state == "done"
    second = ended(real, ask_sky(real, project, sky(tmp_path, 32)))
    assert (second.state, second.progress, second.error) == ("done", 1.0, None)
    there = environments.of_project(real, project)
    assert {one.name for one in there} == {"sky-64.hdr", "sky-32.hdr"}
    assert second.result == {"environment_id": next(o.id for o in there if "32" in o.name)}
    folder = tmp_path / "in"
    folder.mkdir()
    (folder / "incoming").write_bytes(make_photo("wall_color.png").read_bytes())
    arrivals.add(real, project, folder / "incoming", "wall_color.png")
    wait_until(lambda: not arrivals.table(real, project).waiting)
    assert arrivals.table(real, project).rows[0].state == "recognized"


def test_work_is_resumed_after_its_process_was_killed() -> None:
    found = recovery.measure(*recovery.QUICK)
    assert all(0 < seconds < 30 for each in found.values() for seconds in each), found


def test_a_job_that_was_cancelled_ends_and_others_go_on(
    real: Context, project: str, slow: Path, tmp_path: Path, worker: subprocess.Popen
) -> None:
    job = ask_sky(real, project, slow)
    wait_until(lambda: listing.get(real, job.id).state == "running")
    assert listing.cancel(real, job.id).state == "cancelled"
    assert ended(real, ask_sky(real, project, sky(tmp_path))).state == "done"
    assert [one.name for one in environments.of_project(real, project)] == ["sky-64.hdr"]
    assert listing.get(real, job.id).state == "cancelled"
    listing.retry(real, job.id)
    assert ended(real, job).state == "done"


def test_small_jobs_run_beside_a_large_one_and_in_their_order(
    real: Context, project: str, slow: Path, tmp_path: Path, worker: subprocess.Popen
) -> None:
    large = ask_sky(real, project, slow)
    assert ask_sky(real, project, slow).id == large.id  # equal work is one job
    small = [ask_sky(real, project, sky(tmp_path, 64 + 2 * n)) for n in range(3)]
    assert (large.lane, small[0].lane) == ("large", "small")
    done = [ended(real, one) for one in (*small, large)]
    ends = [one.ended_at for one in done if one.ended_at]
    assert ends == sorted(ends)
    assert len(ends) == 4


def test_a_file_that_kills_every_worker_is_given_up(
    real: Context, project: str, slow: Path, worker: subprocess.Popen
) -> None:
    real.start_job = lambda *_: None  # the worker finds it
    job = ask_sky(real, project, slow)
    with real.database.transaction() as connection:  # it was begun three times
        connection.execute("update job set attempts = 3, state = 'running' where id = %s", [job.id])
    failed = ended(real, job)
    assert (failed.state, failed.error_code) == ("failed", "worker_lost")
    assert "was interrupted 3 times" in (failed.error or "")


def test_what_waits_is_listed_in_the_order_of_the_queue(
    context: Context, project: str, tmp_path: Path
) -> None:
    context.start_job = lambda *_: None
    small = [ask_sky(context, project, sky(tmp_path, 64 + 2 * n)) for n in range(3)]
    with context.database.transaction() as connection:
        connection.execute("update job set priority = 99 where id = %s", [small[2].id])
    ahead = {one.id: one.ahead for one in listing.of_project(context, project)}
    assert [ahead[one.id] - ahead[small[2].id] for one in small] == [1, 2, 0]


def test_a_lost_task_is_queued_again(
    real: Context, project: str, tmp_path: Path, worker: subprocess.Popen
) -> None:
    real.start_job = lambda *_: None
    job = ask_sky(real, project, sky(tmp_path))
    assert ended(real, job).state == "done"


def test_a_failed_import_keeps_its_file_for_a_retry(
    context: Context, project: str, tmp_path: Path
) -> None:
    path = tmp_path / "street.png"
    picture = Picture(np.zeros((40, 60, 3), np.uint8), ("R", "G", "B"), Encoding.SRGB)
    write_picture(path, picture, "png")
    job = ended(context, ask_sky(context, project, path))
    assert job.state == "failed"
    listing.retry(context, job.id)
    again = ended(context, job)
    assert (again.state, again.error) == ("failed", job.error)
    listing.dismiss(context, job.id)
    with context.database.transaction() as connection:
        rows = connection.execute("select from job_file_chunk where job_id = %s", [job.id])
        assert rows.rowcount == 0
