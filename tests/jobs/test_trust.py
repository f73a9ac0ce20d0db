"""Deliveries keep their word: all or told, never two writers, no word of files that are not theirs,
and a database that goes and comes back is nobody's failure."""

from __future__ import annotations

import io
import shutil
import threading
import time
import zipfile
from contextlib import suppress
from pathlib import Path

import psycopg
import pytest

from copper_sieve.core.errors import ConflictError, DatabaseUnavailableError
from copper_sieve.core.export.assay import assay_folder
from copper_sieve.core.export.atomic_swap import StagedFolder
from copper_sieve.core.models.texture_set import Constant
from copper_sieve.services import delivered, deliveries, delivery_worker, recovery, sets
from copper_sieve.services.context import Context
from copper_sieve.services.delivery_preview import cells_of
from copper_sieve.services.machine import this_machine
from copper_sieve.store import delivery_parts as store
from copper_sieve.store.delivery_parts import Attempt
from tests.conftest import MakePhoto
from tests.jobs.conftest import StartWorker, nothing_half_written, set_of, wait_for
from tests.serving import open_client

TWO = ["gltf-metal-rough", "orm-y-down"]


def files_of(row: dict) -> dict[str, bytes]:
    folders = [part.folder for part in row.parts]
    return {str(f): f.read_bytes() for one in folders for f in one.rglob("*") if f.is_file()}


def make_metal(context: Context, set_id: int) -> None:
    """Another surface, so that every delivery of it writes other bytes."""
    view = sets.get_view(context, set_id)
    changed = view.texture_set.with_map("metallic", Constant(value=(1.0,)))  # type: ignore[arg-type]
    sets.change(context, set_id, view.version, changed)


@pytest.fixture
def set_id(context: Context, project: str, make_photo: MakePhoto, tmp_path: Path) -> int:
    return set_of(context, project, make_photo(seed=41), tmp_path)


def test_a_part_that_fails_leaves_its_folder_and_the_other_goes_on(
    context: Context, project: str, set_id: int
) -> None:
    first = deliveries.create_delivery(context, project, cells_of([set_id], TWO))
    delivery_worker.run(context, first.id)
    before = files_of(first)
    make_metal(context, set_id)
    second = deliveries.create_delivery(context, project, cells_of([set_id], TWO))
    folder = second.parts[1].folder
    (folder / "manifest.json").unlink()  # the last one cannot be replaced any more
    del before[str(folder / "manifest.json")]
    delivery_worker.run(context, second.id)
    row = deliveries.get(context, second.id)
    assert row.state == "failed"
    assert row.error.startswith("1 of 2 parts failed: wall for orm-y-down: ")
    assert row.error.endswith("othing was changed")
    now, other = files_of(row), str(row.parts[0].folder)
    assert {name: data for name, data in now.items() if not name.startswith(other)} == {
        name: data for name, data in before.items() if not name.startswith(other)
    }
    assert [part.state for part in row.parts] == ["done", "failed"]
    assert assay_folder(row.parts[0].folder).ok
    assert nothing_half_written(context)
    (folder / "T_wall_N.tga").rename(folder / "mine.tga")
    for name in folder.glob("T_*"):
        name.unlink()
    deliveries.retry(context, row.id)  # what was in the way is gone: only that part is tried again
    delivery_worker.run(context, row.id)
    row = deliveries.get(context, row.id)
    assert [(part.state, part.attempts) for part in row.parts] == [("done", 1), ("done", 1)]
    with pytest.raises(ConflictError, match="no part of delivery"):
        deliveries.retry(context, row.id)


def test_what_could_not_be_taken_back_is_told(
    context: Context, project: str, set_id: int, monkeypatch: pytest.MonkeyPatch
) -> None:
    first = deliveries.create_delivery(context, project, cells_of([set_id], TWO))
    delivery_worker.run(context, first.id)
    make_metal(context, set_id)
    second = deliveries.create_delivery(context, project, cells_of([set_id], TWO))
    one = second.parts[1].folder
    real = Path.rename

    def failing(path: Path, target: Path) -> Path:
        if target.name == one.name and target.parent.resolve() == one.parent:
            raise OSError(5, "Input/output error")
        return real(path, target)

    monkeypatch.setattr(Path, "rename", failing)
    delivery_worker.run(context, second.id)
    row = deliveries.get(context, second.id)
    assert [part.state for part in row.parts] == ["done", "failed"]
    error = row.error
    assert f"These changes couldn't be reverted: {one} " in error
    assert "nothing was changed" not in error


def test_the_job_and_the_delivery_are_there_together_or_not_at_all(
    real: Context, project: str, set_id: int
) -> None:
    real_enqueue = real.enqueue

    def dies(connection: object, delivery_id: int) -> None:
        real_enqueue(connection, delivery_id)  # type: ignore[arg-type]
        raise RuntimeError("here the process dies")

    real.enqueue = dies
    with pytest.raises(RuntimeError):
        deliveries.create_delivery(real, project, cells_of([set_id], TWO))
    assert delivered.summaries(real, project) == []
    real.enqueue = real_enqueue
    row = deliveries.create_delivery(real, project, cells_of([set_id], TWO))
    with real.database.transaction() as connection:
        jobs = connection.execute(
            "select args from procrastinate_jobs where status = 'todo' and"
            " args->>'delivery_id' = %s", [str(row.id)]
        ).fetchall()  # fmt: skip
    assert len(jobs) == 2  # one for each part
    deliveries.cancel(real, row.id)


def test_an_earlier_delivery_tells_that_its_files_were_replaced(
    context: Context, project: str, set_id: int
) -> None:
    client = open_client(context)
    first = deliveries.create_delivery(context, project, cells_of([set_id], TWO))
    delivery_worker.run(context, first.id)
    again = deliveries.create_delivery(
        context, project, cells_of([set_id], TWO)
    )  # the same bytes: both own them
    delivery_worker.run(context, again.id)
    assert client.get(f"/api/v1/deliveries/{first.id}/files.zip").status_code == 200
    make_metal(context, set_id)
    later = deliveries.create_delivery(context, project, cells_of([set_id], TWO[:1]))
    delivery_worker.run(context, later.id)
    parts = client.get(f"/api/v1/deliveries/{first.id}").json()["parts"]
    assert [(part["disk_state"], part["replaced_by"]) for part in parts] == [
        ("replaced", later.id), ("intact", None)
    ]  # fmt: skip
    assert parts[0]["disk_state_text"] == f"overwritten by delivery {later.id}"
    listed = client.get(f"/api/v1/projects/{project}/deliveries").json()
    disk_state = {row["id"]: [part["disk_state"] for part in row["parts"]] for row in listed}
    assert disk_state == {
        first.id: ["replaced", "intact"], again.id: ["replaced", "intact"], later.id: ["intact"]
    }  # fmt: skip
    whole = client.get(f"/api/v1/deliveries/{first.id}/parts/0").json()
    assert (whole["disk_state"], whole["replaced_by"]) == ("replaced", later.id)
    name = whole["manifest"]["files"][0]["name"]
    rest = client.get(f"/api/v1/deliveries/{first.id}/files.zip")
    with zipfile.ZipFile(io.BytesIO(rest.content)) as found:  # the other part is still there
        missing = found.read("MISSING.txt").decode()
        assert {one.partition("/")[0] for one in found.namelist()} == {"MISSING.txt", TWO[1]}
    assert f"overwritten by delivery {later.id}" in missing
    for address in (f"parts/0/files/{name}/picture.png", f"parts/0/files/{name}/channels/R"):
        answer = client.get(f"/api/v1/deliveries/{first.id}/{address}")
        assert (answer.status_code, answer.json()["type"]) == (409, "/problems/replaced")
        assert f"overwritten by delivery {later.id}" in answer.json()["detail"]
    assert client.get(f"/api/v1/deliveries/{later.id}/files.zip").status_code == 200


def test_a_manifest_of_another_origin_is_noticed(
    context: Context, project: str, set_id: int
) -> None:
    row = deliveries.create_delivery(context, project, cells_of([set_id], TWO[:1]))
    delivery_worker.run(context, row.id)
    path = row.parts[0].folder / "manifest.json"
    path.write_text(path.read_text("utf-8").replace('"set": "wall"', '"set": "hall"'), "utf-8")
    found = delivered.disk_states_of_parts(
        context, [deliveries.get(context, row.id)], closely=False
    )
    standing = found[row.id, 0]
    assert (standing.disk_state, standing.by) == ("modified", None)
    assert "a manifest.json from elsewhere" in standing.text


def test_a_folder_changed_or_deleted_by_hand_is_noticed(
    context: Context, project: str, set_id: int
) -> None:
    client = open_client(context)
    row = deliveries.create_delivery(context, project, cells_of([set_id], ["orm-y-down"]))
    delivery_worker.run(context, row.id)
    folder = row.parts[0].folder
    address = f"/api/v1/deliveries/{row.id}"
    assert client.get(address).json()["parts"][0]["disk_state"] == "intact"
    path = folder / "T_wall_N.tga"
    content = path.read_bytes()
    path.write_bytes(content[:-1] + bytes([content[-1] ^ 1]))  # one bit, the same size
    part = client.get(f"{address}/parts/0").json()  # it looks at every byte
    assert part["disk_state"] == "modified"
    assert client.get(address).json()["parts"][0]["disk_state"] == "intact"  # looks at no byte
    listed = client.get(f"/api/v1/projects/{project}/deliveries").json()  # looks at no byte
    assert next(one for one in listed if one["id"] == row.id)["parts"][0]["disk_state"] == "intact"
    assert part["disk_state_text"] == f"{path} was modified since it was delivered"
    assert client.get(f"{address}/files.zip").status_code == 409
    path.write_bytes(content)
    assert client.get(f"{address}/files.zip").status_code == 200
    shutil.rmtree(folder)
    assert client.get(address).json()["parts"][0]["disk_state"] == "missing"
    assert client.get(f"{address}/files.zip").status_code == 409


def test_a_file_replaced_while_its_zip_is_fetched_breaks_the_zip(
    context: Context, project: str, set_id: int
) -> None:
    row = deliveries.create_delivery(context, project, cells_of([set_id], ["orm-y-down"]))
    delivery_worker.run(context, row.id)
    path = row.parts[0].folder / "T_wall_N.tga"
    pieces = delivered.contents(path)
    path.write_bytes(b"another")
    with pytest.raises(delivered.ReplacedError, match="was overwritten during the download"):
        list(pieces)


def test_two_workers_and_one_folder(
    real: Context, project: str, set_id: int, start_worker: StartWorker
) -> None:
    start_worker()
    start_worker()
    rows = []
    for _ in range(3):
        rows.append(deliveries.create_delivery(real, project, cells_of([set_id], TWO)))
        make_metal(real, set_id)
    rows = [wait_for(real, row.id, {"done", "failed"}) for row in rows]
    assert [(row.state, row.error) for row in rows] == [("done", None)] * 3
    assert all(assay_folder(part.folder).ok for part in rows[-1].parts)
    assert nothing_half_written(real)


def kill_backends(context: Context) -> None:
    with psycopg.connect(context.database.dsn) as connection:  # none that was killed before
        connection.execute(
            "select pg_terminate_backend(pid) from pg_stat_activity"
            " where pid <> pg_backend_pid() and backend_type = 'client backend'"
        )


def test_killed_connections_are_no_failure(
    real: Context, project: str, make_photo: MakePhoto, tmp_path: Path, start_worker: StartWorker
) -> None:
    set_id = set_of(real, project, make_photo(size=(1200, 1200), seed=42), tmp_path)
    row = deliveries.create_delivery(real, project, cells_of([set_id], TWO))
    worker = start_worker()
    wait_for(real, row.id, {"running"})
    for _ in range(4):
        time.sleep(0.4)
        kill_backends(real)
    if worker.poll() is not None:  # as the server does
        start_worker()
    end = time.monotonic() + 90
    state = "running"
    while state not in ("done", "failed"):
        if worker.poll() is not None:
            worker = start_worker()
        assert time.monotonic() < end, (state, deliveries.get(real, row.id))
        time.sleep(0.2)
        with suppress(DatabaseUnavailableError):  # the page too asks again
            state = deliveries.get(real, row.id).state
    row = deliveries.get(real, row.id)
    assert (row.state, row.error) == ("done", None)
    assert all(assay_folder(part.folder).ok for part in row.parts)
    assert nothing_half_written(real)


def test_a_delivery_that_waits_again_is_not_half_done(
    context: Context, project: str, set_id: int
) -> None:
    row = deliveries.create_delivery(context, project, cells_of([set_id], ["orm-y-down"]))
    for counts, attempts in ((True, 1), (False, 1)):
        with context.database.transaction() as connection:
            attempt = store.begin(connection, row.parts[0].number, this_machine(context.settings))
            assert attempt is not None
            assert not store.report(connection, attempt, 0.6, "writing")
            assert store.requeue(connection, attempt, counts=counts)
        delivery = deliveries.get(context, row.id)
        (waits,) = delivery.parts
        assert (delivery.state, delivery.progress, waits.step) == ("queued", 0.0, "waiting again")
        assert waits.attempts == attempts  # one that could do nothing about it does not count
    deliveries.cancel(context, row.id)


def test_an_attempt_that_was_given_up_ends_nothing(
    context: Context, project: str, set_id: int, monkeypatch: pytest.MonkeyPatch
) -> None:
    row = deliveries.create_delivery(context, project, cells_of([set_id], ["orm-y-down"]))

    def load(sha256: str):  # type: ignore[no-untyped-def]
        with context.database.transaction() as connection:  # as a worker does that saw no lock
            (part,) = row.parts
            store.requeue(connection, Attempt(part.number, 1, row.id, 0), counts=True)
        return Context.load_source(context, sha256)

    monkeypatch.setattr(context, "load_source", load)
    delivery_worker.run(context, row.id)
    assert deliveries.get(context, row.id).state == "queued"  # nobody cancelled it
    monkeypatch.undo()
    delivery_worker.run(context, row.id)
    assert deliveries.get(context, row.id).state == "done"


def test_whoever_computes_is_seen_to_live(
    context: Context, project: str, set_id: int, monkeypatch: pytest.MonkeyPatch
) -> None:
    row = deliveries.create_delivery(context, project, cells_of([set_id], ["orm-y-down"]))
    seen: list[bool] = []

    def load(sha256: str):  # type: ignore[no-untyped-def]
        place = StagedFolder(row.parts[0].folder, str(row.parts[0].number))
        seen.append(place.is_staged_by_another())  # also where the lock in the database was lost
        return Context.load_source(context, sha256)

    monkeypatch.setattr(context, "load_source", load)
    delivery_worker.run(context, row.id)
    assert seen == [True]
    assert nothing_half_written(context)


def test_a_delivery_goes_on_while_the_database_is_away(
    context: Context, project: str, set_id: int, monkeypatch: pytest.MonkeyPatch
) -> None:
    row = deliveries.create_delivery(context, project, cells_of([set_id], ["orm-y-down"]))
    real, away, went = context.database.transaction, threading.Event(), threading.Event()

    def transaction():  # type: ignore[no-untyped-def]
        if away.is_set():
            raise DatabaseUnavailableError
        return real()

    def load(sha256: str):  # type: ignore[no-untyped-def]
        if not went.is_set():
            went.set()
            away.set()
            threading.Timer(1.2, away.clear).start()
        return Context.load_source(context, sha256)

    monkeypatch.setattr(context.database, "transaction", transaction)
    monkeypatch.setattr(context, "load_source", load)
    delivery_worker.run(context, row.id)
    monkeypatch.undo()
    done = deliveries.get(context, row.id)
    assert (done.state, done.parts[0].attempts) == ("done", 1)


def test_a_lost_lock_is_no_attempt_and_leaves_the_folder_to_its_next_worker(
    context: Context, project: str, set_id: int, monkeypatch: pytest.MonkeyPatch
) -> None:
    row = deliveries.create_delivery(context, project, cells_of([set_id], ["orm-y-down"]))
    place = StagedFolder(row.parts[0].folder, str(row.parts[0].number))
    seen: list[list[int]] = []

    def lost(self: object) -> None:
        seen.append(recovery.recover(context))  # another worker looks: it is still being staged
        assert place.working.is_dir()
        raise DatabaseUnavailableError

    monkeypatch.setattr("copper_sieve.store.database.HeldLock.check", lost)
    delivery_worker.run(context, row.id)
    monkeypatch.undo()
    assert len(seen) == 1
    assert row.id not in seen[0]
    again = deliveries.get(context, row.id)
    assert (again.state, again.parts[0].attempts) == ("queued", 0)
    assert nothing_half_written(context)
    delivery_worker.run(context, row.id)
    assert deliveries.get(context, row.id).state == "done"


@pytest.mark.parametrize("noted", [True, False])
def test_a_death_after_the_swap_is_settled_by_what_was_noted(
    context: Context, project: str, set_id: int, monkeypatch: pytest.MonkeyPatch, noted: bool
) -> None:
    first = deliveries.create_delivery(context, project, cells_of([set_id], TWO))
    delivery_worker.run(context, first.id)
    before = files_of(first)
    make_metal(context, set_id)
    row = deliveries.create_delivery(context, project, cells_of([set_id], TWO[:1]))
    before = {name: data for name, data in before.items() if TWO[0] in name}

    note = delivery_worker._Run._note_done

    def dies(self, staged):  # type: ignore[no-untyped-def]
        if noted:
            note(self, staged)
        raise DatabaseUnavailableError  # and the process dies before it hears of it

    monkeypatch.setattr(delivery_worker._Run, "_note_done", dies)
    monkeypatch.setattr(delivery_worker._Run, "_note_end", lambda *_: None)
    delivery_worker.run(context, row.id)
    monkeypatch.undo()
    assert deliveries.get(context, row.id).state == ("done" if noted else "running")
    assert not nothing_half_written(context)
    again = recovery.recover(context)
    after = deliveries.get(context, row.id)
    if noted:
        assert (row.id in again, after.state) == (False, "done")
        assert files_of(row) != before
    else:
        assert (row.id in again, after.state) == (True, "queued")
        assert files_of(row) == before
    assert nothing_half_written(context)
