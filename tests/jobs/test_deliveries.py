"""Deliveries through the queue and real workers: done, cancelled, killed, never doubled."""

from __future__ import annotations

import hashlib
import io
import os
import time
import zipfile
from concurrent.futures import ThreadPoolExecutor
from pathlib import Path

import numpy as np
import pytest
from PIL import Image

from copper_sieve.core.codecs import checksums
from copper_sieve.core.export.assay import assay_folder
from copper_sieve.core.export.atomic_swap import StagedFolder
from copper_sieve.core.targets.catalog import builtin_targets
from copper_sieve.services import deliveries, delivery_worker, recovery
from copper_sieve.services.context import Context
from copper_sieve.services.delivery_preview import cells_of
from copper_sieve.services.machine import this_machine
from copper_sieve.store import delivery_parts
from tests.conftest import MakePhoto
from tests.jobs.conftest import StartWorker, kill_worker, nothing_half_written, set_of, wait_for
from tests.serving import open_client


def test_a_delivery_is_done_proven_and_fetched(
    real: Context, project: str, make_photo: MakePhoto, tmp_path: Path, start_worker: StartWorker
) -> None:
    set_id = set_of(real, project, make_photo(size=(128, 128), seed=31), tmp_path)
    targets = ["orm-y-down", "gltf-metal-rough"]
    start_worker()
    row = deliveries.create_delivery(real, project, cells_of([set_id], targets))
    row = wait_for(real, row.id, {"done", "failed"})
    assert (row.state, row.error, row.progress) == ("done", None, 1.0)
    for part in row.parts:
        assert part.assay["ok"]
        assert assay_folder(part.folder).ok
    client = open_client(real)
    answer = client.get(f"/api/v1/deliveries/{row.id}/files.zip")
    with zipfile.ZipFile(io.BytesIO(answer.content)) as found:
        assert found.testzip() is None
        assert len(found.namelist()) == 10
        orm = found.read("orm-y-down/wall/T_wall_ORM.tga")
    codes = np.asarray(Image.open(io.BytesIO(orm)))
    assert codes.shape == (128, 128, 3)
    small = client.get(f"/api/v1/deliveries/{row.id}/parts/0/files/T_wall_ORM.tga/picture.png")
    assert (small.status_code, small.headers["content-type"]) == (200, "image/png")
    assert Image.open(io.BytesIO(small.content)).size == (128, 128)
    (view,) = client.get(f"/api/v1/projects/{project}/sets").json()
    to = ("gltf-metal-rough", "orm-y-down")
    assert {view["readiness"][target] for target in to} == {"delivered"}
    assert view["readiness"]["mra-y-down"] == "ready"
    body = {"version": 1, "surface": {**view["surface"], "depth": 0.5},
            "maps": {m["kind"]: m["definition"] for m in view["maps"]}}  # fmt: skip
    changed = client.put(f"/api/v1/sets/{set_id}", json=body).json()
    assert {changed["readiness"][target] for target in to} == {"stale"}
    (folder,) = {p.folder for p in row.parts if p.target_id == "orm-y-down"}
    (folder / "T_wall_N.tga").unlink()
    rest = client.get(f"/api/v1/deliveries/{row.id}/files.zip")
    with zipfile.ZipFile(io.BytesIO(rest.content)) as found:
        assert {name.partition("/")[0] for name in found.namelist()} == {
            "MISSING.txt", "gltf-metal-rough",
        }  # fmt: skip
        assert "T_wall_N.tga no longer exists" in found.read("MISSING.txt").decode()


def test_a_killed_worker_leaves_nothing_half_written_and_the_delivery_is_finished(
    real: Context, project: str, make_photo: MakePhoto, tmp_path: Path, start_worker: StartWorker
) -> None:
    set_id = set_of(real, project, make_photo(size=(1500, 1500), seed=32), tmp_path)
    worker = start_worker()
    row = deliveries.create_delivery(real, project, cells_of([set_id], ["gltf-metal-rough"]))
    folder = row.parts[0].folder
    part_folder = StagedFolder(folder, str(row.parts[0].number)).working
    end = time.monotonic() + 60
    while not part_folder.exists():  # in the middle of writing
        assert time.monotonic() < end
        time.sleep(0.01)
    kill_worker(worker)
    assert deliveries.get(real, row.id).state == "running"
    assert not folder.exists()  # the hidden working folder is all there is
    start_worker()
    row = wait_for(real, row.id, {"done", "failed"})
    assert (row.state, row.parts[0].attempts) == ("done", 2)
    assert assay_folder(folder).ok
    assert nothing_half_written(real)


def test_after_three_deaths_a_delivery_is_reported_failed(
    real: Context, project: str, make_photo: MakePhoto, tmp_path: Path
) -> None:
    set_id = set_of(real, project, make_photo(seed=33), tmp_path)
    row = deliveries.create_delivery(real, project, cells_of([set_id], ["orm-y-down"]))
    with real.database.transaction() as connection:
        connection.execute(
            "update delivery_part set state = 'running', attempts = 3 where delivery_id = %s",
            [row.id],
        )
    assert row.id not in recovery.recover(real)
    row = deliveries.get(real, row.id)
    assert row.state == "failed"
    assert "crashed 3 times" in row.error


def test_a_living_worker_is_left_alone(
    context: Context, project: str, make_photo: MakePhoto, tmp_path: Path
) -> None:
    set_id = set_of(context, project, make_photo(seed=34), tmp_path)
    row = deliveries.create_delivery(context, project, cells_of([set_id], ["orm-y-down"]))
    with context.database.held_lock(row.parts[0].number) as held:  # as a worker holds it
        assert held
        with context.database.transaction() as connection:
            connection.execute(
                "update delivery_part set state = 'running' where delivery_id = %s", [row.id]
            )
        assert row.id not in recovery.recover(context)
        delivery_worker.run(context, row.id)  # a second worker does nothing
        assert deliveries.get(context, row.id).state == "running"
    assert row.id in recovery.recover(context)
    delivery_worker.run(context, row.id)
    delivery_worker.run(context, row.id)  # a doubled job does nothing
    done = deliveries.get(context, row.id)
    assert (done.state, done.parts[0].attempts) == ("done", 1)


def test_a_stopped_worker_puts_its_delivery_back(
    context: Context, project: str, make_photo: MakePhoto, tmp_path: Path
) -> None:
    set_id = set_of(context, project, make_photo(seed=35), tmp_path)
    row = deliveries.create_delivery(context, project, cells_of([set_id], ["orm-y-down"]))
    delivery_worker.run(context, row.id, lambda: True)
    assert deliveries.get(context, row.id).state == "queued"
    delivery_worker.run(context, row.id)
    assert deliveries.get(context, row.id).state == "done"


def test_cancelling(context: Context, project: str, make_photo: MakePhoto, tmp_path: Path) -> None:
    set_id = set_of(context, project, make_photo(seed=36), tmp_path)
    waiting = deliveries.create_delivery(context, project, cells_of([set_id], ["orm-y-down"]))
    assert deliveries.cancel(context, waiting.id).state == "cancelled"
    delivery_worker.run(context, waiting.id)
    assert deliveries.get(context, waiting.id).state == "cancelled"
    client = open_client(context)
    again = client.post(f"/api/v1/deliveries/{waiting.id}/cancel")
    assert (again.status_code, again.json()["type"]) == (409, "/problems/conflict")


def test_what_runs_is_given_up_at_once_and_clears_up(
    context: Context, project: str, make_photo: MakePhoto, tmp_path: Path,
    monkeypatch: pytest.MonkeyPatch,
) -> None:  # fmt: skip
    set_id = set_of(context, project, make_photo(seed=36), tmp_path)
    row = deliveries.create_delivery(
        context, project, cells_of([set_id], ["orm-y-down", "separate-png"])
    )
    seen: list[str] = []

    def load(sha256: str) -> object:
        seen.append(deliveries.cancel(context, row.id).state)  # while it runs
        return Context.load_source(context, sha256)

    monkeypatch.setattr(context, "load_source", load)
    delivery_worker.run(context, row.id)
    assert seen == ["cancelled"]
    assert [one.state for one in deliveries.get(context, row.id).parts] == ["cancelled"] * 2
    assert not list(context.settings.delivery_root.rglob("*.tga"))
    assert nothing_half_written(context)
    with context.database.transaction() as connection:
        assert delivery_parts.open_parts(connection) == []  # it has cleared up
    monkeypatch.undo()
    assert deliveries.retry(context, row.id).state == "queued"
    delivery_worker.run(context, row.id)
    assert deliveries.get(context, row.id).state == "done"


def test_what_a_dead_worker_left_of_a_cancelled_part_is_cleared_up(
    context: Context, project: str, make_photo: MakePhoto, tmp_path: Path
) -> None:
    set_id = set_of(context, project, make_photo(seed=36), tmp_path)
    row = deliveries.create_delivery(context, project, cells_of([set_id], ["orm-y-down"]))
    (part,) = row.parts
    machine = this_machine(context.settings)
    with context.database.transaction() as connection:
        assert delivery_parts.begin(connection, part.number, machine)
    left = StagedFolder(part.folder, str(part.number)).working
    left.mkdir(parents=True)  # and here the worker dies
    (left / "half.tga").write_bytes(b"half")
    deliveries.cancel(context, row.id)
    recovery.recover(context)
    assert nothing_half_written(context)
    with context.database.transaction() as connection:
        assert delivery_parts.open_parts(connection) == []


def test_a_delivery_that_fails_says_why_and_keeps_the_previous_one(
    context: Context, project: str, make_photo: MakePhoto, tmp_path: Path
) -> None:
    set_id = set_of(context, project, make_photo(seed=37), tmp_path)
    first = deliveries.create_delivery(context, project, cells_of([set_id], ["orm-y-down"]))
    delivery_worker.run(context, first.id)
    folder = first.parts[0].folder
    second = deliveries.create_delivery(
        context, project, cells_of([set_id], ["orm-y-down"]),
        deliveries.DeliveryRequest(rewrite=True),
    )  # fmt: skip
    (folder / "manifest.json").unlink()  # now the files there are nobody's
    delivery_worker.run(context, second.id)
    row = deliveries.get(context, second.id)
    assert row.state == "failed"
    assert "wasn't written by a delivery" in row.error
    assert (folder / "T_wall_N.tga").exists()


def test_a_lost_job_is_found_again(
    real: Context, project: str, make_photo: MakePhoto, tmp_path: Path
) -> None:
    set_id = set_of(real, project, make_photo(seed=38), tmp_path)
    enqueue, real.enqueue = real.enqueue, lambda *_: None  # the process dies before this
    row = deliveries.create_delivery(real, project, cells_of([set_id], ["orm-y-down"]))
    real.enqueue = enqueue
    assert row.id in recovery.recover(real)
    assert row.id not in recovery.recover(real)  # it waits in the queue now
    deliveries.cancel(real, row.id)


def files_with_times(folder: Path) -> dict[str, tuple[int, int]]:
    return {one.name: (one.stat().st_ino, one.stat().st_mtime_ns) for one in folder.iterdir()}


def test_what_lies_there_already_is_done_at_once_and_not_touched(
    context: Context, project: str, make_photo: MakePhoto, tmp_path: Path
) -> None:
    set_id = set_of(context, project, make_photo(seed=39), tmp_path)
    cells = cells_of([set_id], ["orm-y-down", "gltf-metal-rough"])
    first = deliveries.create_delivery(context, project, cells)
    delivery_worker.run(context, first.id)
    before = [files_with_times(part.folder) for part in first.parts]
    again = deliveries.create_delivery(context, project, cells)  # no worker is asked
    assert again.state == "done"
    assert [(part.written, part.kept) for part in again.parts] == [(0, 3), (0, 5)]
    done = deliveries.get(context, first.id)
    assert [part.manifest for part in again.parts] == [part.manifest for part in done.parts]
    assert [part.assay for part in again.parts] == [part.assay for part in done.parts]
    assert [files_with_times(part.folder) for part in first.parts] == before
    (first.parts[0].folder / "T_wall_N.tga").unlink()  # then there is something to do
    third = deliveries.create_delivery(context, project, cells)
    assert [(part.state, part.written, part.kept) for part in third.parts] == [
        ("queued", 0, 0), ("done", 0, 5),
    ]  # fmt: skip
    delivery_worker.run(context, third.id)
    (part, _) = deliveries.get(context, third.id).parts
    assert (part.written, part.kept) == (1, 2)
    after = files_with_times(part.folder)
    kept = {"T_wall_BC.tga", "T_wall_ORM.tga"}
    assert {name: after[name] for name in kept} == {name: before[0][name] for name in kept}
    rewrite = deliveries.create_delivery(
        context, project, cells, deliveries.DeliveryRequest(rewrite=True)
    )
    assert [part.state for part in rewrite.parts] == ["queued", "queued"]
    delivery_worker.run(context, rewrite.id)
    assert [part.written for part in deliveries.get(context, rewrite.id).parts] == [3, 5]


def test_a_few_parts_go_before_a_long_delivery(
    context: Context, project: str, make_photo: MakePhoto, tmp_path: Path
) -> None:
    set_id = set_of(context, project, make_photo(seed=40), tmp_path)
    machine = this_machine(context.settings)
    *many, last = builtin_targets()
    long = deliveries.create_delivery(context, project, cells_of([set_id], many))
    short = deliveries.create_delivery(context, project, cells_of([set_id], [last]))
    with context.database.transaction() as connection:
        order = []
        while (number := delivery_parts.next_part(connection, machine, order)) is not None:
            order.append(number)
    due = [part.number for part in (*short.parts, *long.parts)]
    assert [number for number in order if number in due] == due
    for one in (long, short):
        deliveries.cancel(context, one.id)


@pytest.mark.parametrize(("targets", "kept"), [(1, True), (12, False)])
def test_maps_of_a_long_delivery_stay_out_of_the_cache_on_disk(
    context: Context, project: str, make_photo: MakePhoto, tmp_path: Path, targets: int, kept: bool
) -> None:
    """They would push out what somebody works on."""
    set_id = set_of(context, project, make_photo(seed=140 + targets), tmp_path)
    some = list(builtin_targets())[:targets]
    asked = deliveries.create_delivery(context, project, cells_of([set_id], some))
    before = set(context.settings.home.rglob("*.npy"))
    delivery_worker.run(context, asked.id)
    assert (set(context.settings.home.rglob("*.npy")) > before) == kept


def test_parts_of_a_machine_share_its_memory(
    context: Context, project: str, make_photo: MakePhoto, tmp_path: Path
) -> None:
    set_id = set_of(context, project, make_photo(size=(64, 64), seed=41), tmp_path)
    targets = ["orm-y-down", "separate-png", "gltf-metal-rough"]
    row = deliveries.create_delivery(context, project, cells_of([set_id], targets))
    each = 64 * 64 * 96  # bytes that a part is expected to take
    small = delivery_parts.Machine("small", 2 * each)
    tiny, other = delivery_parts.Machine("tiny", 1), delivery_parts.Machine("other", 2 * each)
    one, two, three = (part.number for part in row.parts)
    with context.database.transaction() as connection:
        assert delivery_parts.begin(connection, one, tiny)  # alone, whatever it takes
        assert delivery_parts.next_part(connection, tiny, [], row.id) is None
        assert delivery_parts.begin(connection, two, tiny) is None
        assert delivery_parts.next_part(connection, small, [], row.id) == two
        assert delivery_parts.begin(connection, two, small)
        assert delivery_parts.next_part(connection, small, [], row.id) == three  # two fit
        assert delivery_parts.next_part(connection, other, [three], row.id) is None
        assert delivery_parts.waiting(connection, row.id) == 1
        assert delivery_parts.waiting(connection, row.id, [three]) == 0
    deliveries.cancel(context, row.id)


def test_a_worker_waits_for_memory_that_another_one_has(
    context: Context, project: str, make_photo: MakePhoto, tmp_path: Path
) -> None:
    set_id = set_of(context, project, make_photo(seed=42), tmp_path)
    context.settings.memory = 1
    cells = cells_of([set_id], ["orm-y-down", "separate-png"])
    row = deliveries.create_delivery(context, project, cells)
    machine = this_machine(context.settings)
    with context.database.transaction() as connection:
        attempt = delivery_parts.begin(connection, row.parts[0].number, machine)
    assert attempt
    with ThreadPoolExecutor(1) as threads:
        running = threads.submit(delivery_worker.run, context, row.id)
        with pytest.raises(TimeoutError):
            running.result(0.7)
        with context.database.transaction() as connection:
            delivery_parts.fail(connection, attempt, "the other one is done with it")
        assert running.result(20) == 1
    assert [part.state for part in deliveries.get(context, row.id).parts] == ["failed", "done"]


def test_how_long_it_goes_on_is_told_by_the_last_minute(
    context: Context, project: str, make_photo: MakePhoto, tmp_path: Path
) -> None:
    set_id = set_of(context, project, make_photo(seed=43), tmp_path)
    targets = ["orm-y-down", "separate-png", "gltf-metal-rough", "mra-y-down"]
    row = deliveries.create_delivery(context, project, cells_of([set_id], targets))
    (waits,) = deliveries.under_way(context, project)
    assert (waits.delivery.state, waits.seconds_left) == ("queued", None)
    with context.database.transaction() as connection:
        connection.execute(
            "update delivery_part set state = 'done', finished_at = now(), progress = 1,"
            " started_at = now() - interval '10 seconds' where number = %s",
            [row.parts[0].number],
        )
    (runs,) = deliveries.under_way(context, project)
    assert (runs.delivery.state, runs.delivery.progress) == ("running", 0.25)
    assert runs.seconds_left == pytest.approx(30, abs=1)  # a quarter in ten seconds
    deliveries.cancel(context, row.id)
    assert deliveries.under_way(context, project) == []


def test_each_worker_stays_with_its_set(
    context: Context, project: str, make_photo: MakePhoto, tmp_path: Path
) -> None:
    ids = [
        set_of(context, project, make_photo(f"pier{seed}.png", seed=seed), tmp_path)
        for seed in (44, 45)
    ]
    row = deliveries.create_delivery(
        context, project, cells_of(ids, ["orm-y-down", "separate-png"])
    )
    machine = this_machine(context.settings)
    with context.database.transaction() as connection:
        number = delivery_parts.next_part(connection, machine, [], row.id)
        assert number == row.parts[0].number
        mine = delivery_parts.begin(connection, number, machine)
        assert mine and mine.set_id == ids[0]
        # Another worker takes the set that nobody is at, and the first stays with its own.
        other = delivery_parts.next_part(connection, machine, [], row.id)
        assert other == row.parts[2].number
        assert delivery_parts.begin(connection, other, machine)
        delivery_parts.fail(connection, mine, "done with it")
        again = delivery_parts.next_part(connection, machine, [], row.id, mine.set_id)
        assert again == row.parts[1].number
        last = delivery_parts.next_part(connection, machine, [again], row.id, mine.set_id)
        assert last == row.parts[3].number  # better than nothing
    deliveries.cancel(context, row.id)


def test_the_digest_of_what_nobody_touched_is_not_worked_out_again(
    context: Context, project: str, make_photo: MakePhoto, tmp_path: Path,
    monkeypatch: pytest.MonkeyPatch,
) -> None:  # fmt: skip
    set_id = set_of(context, project, make_photo(seed=46), tmp_path)
    cells = cells_of([set_id], ["orm-y-down"])
    delivery_worker.run(context, deliveries.create_delivery(context, project, cells).id)
    read: list[str] = []

    def counted(path: Path) -> str:
        read.append(path.name)
        return hashlib.sha256(path.read_bytes()).hexdigest()

    monkeypatch.setattr(checksums, "file_sha256", counted)
    checksums._known.clear()  # as in a server that was started since
    again = deliveries.create_delivery(context, project, cells)
    assert (again.state, read) == ("done", [])
    third = deliveries.create_delivery(context, project, cells)  # its stamps are kept as well
    assert (third.state, read) == ("done", [])
    path = again.parts[0].folder / "T_wall_N.tga"
    stat, whole = path.stat(), path.read_bytes()
    path.write_bytes(whole[:-1] + bytes([whole[-1] ^ 1]))
    os.utime(path, ns=(stat.st_atime_ns, stat.st_mtime_ns))  # as large, and as old as it was
    checksums._known.clear()
    fourth = deliveries.create_delivery(context, project, cells)
    assert (fourth.state, read) == ("queued", ["T_wall_N.tga"])
    deliveries.cancel(context, fourth.id)
