"""Deliveries through the queue and real workers: done, cancelled, killed, never doubled."""

from __future__ import annotations

import io
import signal
import time
import zipfile
from pathlib import Path

import numpy as np
from fastapi.testclient import TestClient
from PIL import Image

from copper_sieve.api.application import make_application
from copper_sieve.core.export.assay import assay_folder
from copper_sieve.core.export.placing import Place
from copper_sieve.services import deliveries, delivering
from copper_sieve.services.context import Context
from tests.conftest import MakePhoto
from tests.jobs.conftest import StartWorker, nothing_half_written, set_of, wait_for


def test_a_delivery_is_done_proven_and_fetched(
    real: Context, project: str, make_photo: MakePhoto, tmp_path: Path, start_worker: StartWorker
) -> None:
    set_id = set_of(real, project, make_photo(size=(128, 128), seed=31), tmp_path)
    targets = ["orm-y-down", "gltf-metal-rough"]
    start_worker()
    row = deliveries.ask(real, project, deliveries.each_to_each([set_id], targets))
    row = wait_for(real, row.id, {"done", "failed"})
    assert (row.state, row.error, row.progress) == ("done", None, 1.0)
    for part in row.parts:
        assert part.assay["ok"]
        assert assay_folder(part.folder).ok
    client = TestClient(make_application(real), base_url="http://127.0.0.1")
    answer = client.get(f"/api/deliveries/{row.id}/files.zip")
    with zipfile.ZipFile(io.BytesIO(answer.content)) as found:
        assert found.testzip() is None
        assert len(found.namelist()) == 10
        orm = found.read("orm-y-down/wall/T_wall_ORM.tga")
    codes = np.asarray(Image.open(io.BytesIO(orm)))
    assert codes.shape == (128, 128, 3)
    small = client.get(f"/api/deliveries/{row.id}/parts/0/files/T_wall_ORM.tga/picture.png")
    assert (small.status_code, small.headers["content-type"]) == (200, "image/png")
    assert Image.open(io.BytesIO(small.content)).size == (128, 128)
    (view,) = client.get(f"/api/projects/{project}/sets").json()
    to = ("gltf-metal-rough", "orm-y-down")
    assert {view["readiness"][target] for target in to} == {"delivered"}
    assert view["readiness"]["mra-y-down"] == "ready"
    body = {"version": 1, "surface": {**view["surface"], "depth": 0.5},
            "maps": {m["kind"]: m["definition"] for m in view["maps"]}}  # fmt: skip
    changed = client.put(f"/api/sets/{set_id}", json=body).json()
    assert {changed["readiness"][target] for target in to} == {"stale"}
    (folder,) = {p.folder for p in row.parts if p.target_id == "orm-y-down"}
    (folder / "T_wall_N.tga").unlink()
    gone = client.get(f"/api/deliveries/{row.id}/files.zip")
    assert (gone.status_code, gone.json()["code"]) == (409, "replaced")
    assert "T_wall_N.tga is no longer there" in gone.json()["message"]


def test_a_killed_worker_leaves_nothing_half_written_and_the_delivery_is_finished(
    real: Context, project: str, make_photo: MakePhoto, tmp_path: Path, start_worker: StartWorker
) -> None:
    set_id = set_of(real, project, make_photo(size=(1500, 1500), seed=32), tmp_path)
    worker = start_worker()
    row = deliveries.ask(real, project, deliveries.each_to_each([set_id], ["gltf-metal-rough"]))
    folder = row.parts[0].folder
    part_folder = Place(folder, str(row.id)).working
    end = time.monotonic() + 60
    while not part_folder.exists():  # in the middle of writing
        assert time.monotonic() < end
        time.sleep(0.01)
    worker.send_signal(signal.SIGKILL)
    worker.wait()
    assert deliveries.get(real, row.id).state == "running"
    assert not folder.exists()  # the hidden working folder is all there is
    start_worker()
    row = wait_for(real, row.id, {"done", "failed"})
    assert (row.state, row.attempts) == ("done", 2)
    assert assay_folder(folder).ok
    assert nothing_half_written(real)


def test_after_three_deaths_a_delivery_is_reported_failed(
    real: Context, project: str, make_photo: MakePhoto, tmp_path: Path
) -> None:
    set_id = set_of(real, project, make_photo(seed=33), tmp_path)
    row = deliveries.ask(real, project, deliveries.each_to_each([set_id], ["orm-y-down"]))
    with real.database.transaction() as connection:
        connection.execute(
            "update delivery set state = 'running', attempts = 3 where id = %s", [row.id]
        )
    assert row.id not in delivering.recover(real)
    row = deliveries.get(real, row.id)
    assert row.state == "failed"
    assert "died 3 times" in row.error


def test_a_living_worker_is_left_alone(
    context: Context, project: str, make_photo: MakePhoto, tmp_path: Path
) -> None:
    set_id = set_of(context, project, make_photo(seed=34), tmp_path)
    row = deliveries.ask(context, project, deliveries.each_to_each([set_id], ["orm-y-down"]))
    with context.database.held_lock(row.id) as held:  # as a worker holds it
        assert held
        with context.database.transaction() as connection:
            connection.execute("update delivery set state = 'running' where id = %s", [row.id])
        assert row.id not in delivering.recover(context)
        delivering.run(context, row.id)  # a second worker does nothing
        assert deliveries.get(context, row.id).state == "running"
    assert row.id in delivering.recover(context)
    delivering.run(context, row.id)
    delivering.run(context, row.id)  # a doubled job does nothing
    done = deliveries.get(context, row.id)
    assert (done.state, done.attempts) == ("done", 1)


def test_a_stopped_worker_puts_its_delivery_back(
    context: Context, project: str, make_photo: MakePhoto, tmp_path: Path
) -> None:
    set_id = set_of(context, project, make_photo(seed=35), tmp_path)
    row = deliveries.ask(context, project, deliveries.each_to_each([set_id], ["orm-y-down"]))
    delivering.run(context, row.id, lambda: True)
    assert deliveries.get(context, row.id).state == "queued"
    delivering.run(context, row.id)
    assert deliveries.get(context, row.id).state == "done"


def test_cancelling(context: Context, project: str, make_photo: MakePhoto, tmp_path: Path) -> None:
    set_id = set_of(context, project, make_photo(seed=36), tmp_path)
    waiting = deliveries.ask(context, project, deliveries.each_to_each([set_id], ["orm-y-down"]))
    assert deliveries.cancel(context, waiting.id).state == "cancelled"
    delivering.run(context, waiting.id)
    assert deliveries.get(context, waiting.id).state == "cancelled"
    client = TestClient(make_application(context), base_url="http://127.0.0.1")
    again = client.post(f"/api/deliveries/{waiting.id}/cancel")
    assert (again.status_code, again.json()["code"]) == (409, "conflict")
    running = deliveries.ask(context, project, deliveries.each_to_each([set_id], ["orm-y-down"]))
    with context.database.transaction() as connection:  # asked for while it runs
        connection.execute(
            "update delivery set cancel_requested = true where id = %s", [running.id]
        )
    delivering.run(context, running.id)
    assert deliveries.get(context, running.id).state == "cancelled"
    assert not list(context.settings.delivery_root.rglob("*.tga"))


def test_a_delivery_that_fails_says_why_and_keeps_the_previous_one(
    context: Context, project: str, make_photo: MakePhoto, tmp_path: Path
) -> None:
    set_id = set_of(context, project, make_photo(seed=37), tmp_path)
    first = deliveries.ask(context, project, deliveries.each_to_each([set_id], ["orm-y-down"]))
    delivering.run(context, first.id)
    folder = first.parts[0].folder
    second = deliveries.ask(context, project, deliveries.each_to_each([set_id], ["orm-y-down"]))
    (folder / "manifest.json").unlink()  # now the files there are nobody's
    delivering.run(context, second.id)
    row = deliveries.get(context, second.id)
    assert row.state == "failed"
    assert "was not written by a delivery" in row.error
    assert (folder / "T_wall_N.tga").exists()


def test_a_lost_job_is_found_again(
    real: Context, project: str, make_photo: MakePhoto, tmp_path: Path
) -> None:
    set_id = set_of(real, project, make_photo(seed=38), tmp_path)
    enqueue, real.enqueue = real.enqueue, lambda *_: None  # the process dies before this
    row = deliveries.ask(real, project, deliveries.each_to_each([set_id], ["orm-y-down"]))
    real.enqueue = enqueue
    assert row.id in delivering.recover(real)
    assert row.id not in delivering.recover(real)  # it waits in the queue now
    deliveries.cancel(real, row.id)
