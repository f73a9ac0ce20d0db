"""Deliveries through the queue and real workers: done, cancelled, killed, never doubled."""

from __future__ import annotations

import io
import os
import signal
import subprocess
import sys
import time
import zipfile
from collections.abc import Callable, Iterator
from pathlib import Path

import numpy as np
import pytest
from fastapi.testclient import TestClient
from PIL import Image

from copper_sieve.api.application import make_application
from copper_sieve.core.pipeline.assay import assay_folder
from copper_sieve.core.pipeline.deliver import working_folder
from copper_sieve.jobs.queue import enqueuer
from copper_sieve.services import deliveries
from copper_sieve.services.context import Context
from copper_sieve.services.intake import take_in
from tests.conftest import MakePhoto


@pytest.fixture
def real(context: Context, dsn: str) -> Iterator[Context]:
    """A context whose deliveries really go to the queue."""
    app, context.enqueue = enqueuer(dsn)
    yield context
    app.close()


StartWorker = Callable[[], subprocess.Popen]


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
    copy = tmp_path / "sent" / photo.name
    copy.parent.mkdir(exist_ok=True)
    copy.write_bytes(photo.read_bytes())
    return take_in(context, project, copy, photo.name).set_id


def wait_for(context: Context, delivery_id: int, states: set[str], seconds: float = 60) -> dict:
    end = time.monotonic() + seconds
    while time.monotonic() < end:
        row = deliveries.get(context, delivery_id)
        if row["state"] in states:
            return row
        time.sleep(0.05)
    raise AssertionError(f"still {row['state']} ({row['step']}) after {seconds} s")


def nothing_half_written(context: Context) -> bool:
    return not [path for path in context.settings.delivery_root.rglob(".*") if path.is_dir()]


def test_a_delivery_is_done_proven_and_fetched(
    real: Context, project: str, make_photo: MakePhoto, tmp_path: Path, start_worker: StartWorker
) -> None:
    set_id = set_of(real, project, make_photo(size=(128, 128), seed=31), tmp_path)
    targets = ["orm-y-down", "gltf-metal-rough"]
    start_worker()
    row = deliveries.ask(real, project, [set_id], targets)
    row = wait_for(real, row["id"], {"done", "failed"})
    assert (row["state"], row["error"], row["progress"]) == ("done", None, 1.0)
    for part in row["parts"]:
        assert part["assay"]["ok"]
        assert assay_folder(Path(part["folder"])).ok
    client = TestClient(make_application(real))
    answer = client.get(f"/api/deliveries/{row['id']}/files.zip")
    with zipfile.ZipFile(io.BytesIO(answer.content)) as found:
        assert found.testzip() is None
        assert len(found.namelist()) == 10
        orm = found.read("orm-y-down/wall/T_wall_ORM.tga")
    codes = np.asarray(Image.open(io.BytesIO(orm)))
    assert codes.shape == (128, 128, 3)
    small = client.get(f"/api/deliveries/{row['id']}/parts/0/files/T_wall_ORM.tga/picture.png")
    assert small.status_code == 200
    (view,) = client.get(f"/api/projects/{project}/sets").json()
    to = ("gltf-metal-rough", "orm-y-down")
    assert {view["readiness"][target] for target in to} == {"delivered"}
    assert view["readiness"]["mra-y-down"] == "ready"
    body = {"version": 1, "surface": {**view["surface"], "depth": 0.5},
            "maps": {m["kind"]: m["definition"] for m in view["maps"]}}  # fmt: skip
    changed = client.put(f"/api/sets/{set_id}", json=body).json()
    assert {changed["readiness"][target] for target in to} == {"stale"}
    (folder,) = {Path(p["folder"]) for p in row["parts"] if p["target_id"] == "orm-y-down"}
    (folder / "T_wall_N.tga").unlink()
    gone = client.get(f"/api/deliveries/{row['id']}/files.zip")
    assert (gone.status_code, gone.json()["code"]) == (409, "conflict")


def test_a_killed_worker_leaves_nothing_half_written_and_the_delivery_is_finished(
    real: Context, project: str, make_photo: MakePhoto, tmp_path: Path, start_worker: StartWorker
) -> None:
    set_id = set_of(real, project, make_photo(size=(1500, 1500), seed=32), tmp_path)
    worker = start_worker()
    row = deliveries.ask(real, project, [set_id], ["gltf-metal-rough"])
    folder = Path(row["parts"][0]["folder"])
    part_folder = working_folder(folder, str(row["id"]))
    end = time.monotonic() + 60
    while not part_folder.exists():  # in the middle of writing
        assert time.monotonic() < end
        time.sleep(0.01)
    worker.send_signal(signal.SIGKILL)
    worker.wait()
    assert deliveries.get(real, row["id"])["state"] == "running"
    assert not folder.exists()  # the hidden working folder is all there is
    start_worker()
    row = wait_for(real, row["id"], {"done", "failed"})
    assert (row["state"], row["attempts"]) == ("done", 2)
    assert assay_folder(folder).ok
    assert nothing_half_written(real)


def test_after_three_deaths_a_delivery_is_reported_failed(
    real: Context, project: str, make_photo: MakePhoto, tmp_path: Path
) -> None:
    set_id = set_of(real, project, make_photo(seed=33), tmp_path)
    row = deliveries.ask(real, project, [set_id], ["orm-y-down"])
    with real.database.transaction() as connection:
        connection.execute(
            "update delivery set state = 'running', attempts = 3 where id = %s", [row["id"]]
        )
    assert deliveries.recover(real) == []
    row = deliveries.get(real, row["id"])
    assert row["state"] == "failed"
    assert "died 3 times" in row["error"]


def test_a_living_worker_is_left_alone(
    context: Context, project: str, make_photo: MakePhoto, tmp_path: Path
) -> None:
    set_id = set_of(context, project, make_photo(seed=34), tmp_path)
    row = deliveries.ask(context, project, [set_id], ["orm-y-down"])
    with context.database.held_lock(row["id"]) as held:  # as a worker holds it
        assert held
        with context.database.transaction() as connection:
            connection.execute("update delivery set state = 'running' where id = %s", [row["id"]])
        assert row["id"] not in deliveries.recover(context)
        deliveries.run(context, row["id"])  # a second worker does nothing
        assert deliveries.get(context, row["id"])["state"] == "running"
    assert row["id"] in deliveries.recover(context)
    deliveries.run(context, row["id"])
    deliveries.run(context, row["id"])  # a doubled job does nothing
    done = deliveries.get(context, row["id"])
    assert (done["state"], done["attempts"]) == ("done", 1)


def test_a_stopped_worker_puts_its_delivery_back(
    context: Context, project: str, make_photo: MakePhoto, tmp_path: Path
) -> None:
    set_id = set_of(context, project, make_photo(seed=35), tmp_path)
    row = deliveries.ask(context, project, [set_id], ["orm-y-down"])
    deliveries.run(context, row["id"], lambda: True)
    assert deliveries.get(context, row["id"])["state"] == "queued"
    deliveries.run(context, row["id"])
    assert deliveries.get(context, row["id"])["state"] == "done"


def test_cancelling(context: Context, project: str, make_photo: MakePhoto, tmp_path: Path) -> None:
    set_id = set_of(context, project, make_photo(seed=36), tmp_path)
    waiting = deliveries.ask(context, project, [set_id], ["orm-y-down"])
    assert deliveries.cancel(context, waiting["id"])["state"] == "cancelled"
    deliveries.run(context, waiting["id"])
    assert deliveries.get(context, waiting["id"])["state"] == "cancelled"
    client = TestClient(make_application(context))
    again = client.post(f"/api/deliveries/{waiting['id']}/cancel")
    assert (again.status_code, again.json()["code"]) == (409, "conflict")
    running = deliveries.ask(context, project, [set_id], ["orm-y-down"])
    with context.database.transaction() as connection:  # asked for while it runs
        connection.execute(
            "update delivery set cancel_requested = true where id = %s", [running["id"]]
        )
    deliveries.run(context, running["id"])
    assert deliveries.get(context, running["id"])["state"] == "cancelled"
    assert not list(context.settings.delivery_root.rglob("*.tga"))


def test_a_delivery_that_fails_says_why_and_keeps_the_previous_one(
    context: Context, project: str, make_photo: MakePhoto, tmp_path: Path
) -> None:
    set_id = set_of(context, project, make_photo(seed=37), tmp_path)
    first = deliveries.ask(context, project, [set_id], ["orm-y-down"])
    deliveries.run(context, first["id"])
    folder = Path(first["parts"][0]["folder"])
    second = deliveries.ask(context, project, [set_id], ["orm-y-down"])
    (folder / "manifest.json").unlink()  # now the files there are nobody's
    deliveries.run(context, second["id"])
    row = deliveries.get(context, second["id"])
    assert row["state"] == "failed"
    assert "was not written by a delivery" in row["error"]
    assert (folder / "T_wall_N.tga").exists()


def test_a_lost_job_is_found_again(
    real: Context, project: str, make_photo: MakePhoto, tmp_path: Path
) -> None:
    set_id = set_of(real, project, make_photo(seed=38), tmp_path)
    enqueue, real.enqueue = real.enqueue, lambda delivery_id: None  # the process dies before this
    row = deliveries.ask(real, project, [set_id], ["orm-y-down"])
    real.enqueue = enqueue
    assert row["id"] in deliveries.recover(real)
    assert row["id"] not in deliveries.recover(real)  # it waits in the queue now
    deliveries.cancel(real, row["id"])
