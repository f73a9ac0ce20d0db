"""The job list, and what becomes of the things that jobs work on."""

from __future__ import annotations

import threading
import time
from pathlib import Path
from typing import Any

import numpy as np
import pytest
from fastapi.testclient import TestClient

from copper_sieve.core.codecs import write_picture
from copper_sieve.core.image.raster import Encoding, Picture
from copper_sieve.services import detection, model_results, models
from copper_sieve.services.context import Context
from copper_sieve.services.jobs.requests import ask_for_missing
from copper_sieve.services.jobs.running import Running
from tests.conftest import MakePhoto
from tests.serving import ended_job, imported

OBJ = b"v 0 0 0\nv 1 0 0\nv 0 1 0\nvt 0 0\nvt 1 0\nvt 0 1\nf 1/1 2/2 3/3\n"


def jobs(client: TestClient, project: str) -> list[dict[str, Any]]:
    found: list[dict[str, Any]] = client.get(f"/api/v1/projects/{project}/jobs").json()
    return [one for one in found if one["kind"] != "project_import"]  # of other tests


def sky(folder: Path) -> bytes:
    path = folder / "sky.hdr"
    light = np.ones((16, 32, 3), np.float32)
    write_picture(path, Picture(light, ("R", "G", "B"), Encoding.LINEAR), "hdr")
    return path.read_bytes()


@pytest.fixture
def gate(monkeypatch: pytest.MonkeyPatch) -> threading.Event:
    """Files are detected once it is open."""
    opened = threading.Event()
    real = detection._detect

    def detect(context: Context, running: Running, waiting: Any) -> None:
        while not opened.wait(0.02):
            running.report(0, "")
        real(context, running, waiting)

    monkeypatch.setattr(detection, "_detect", detect)
    return opened


def drop(client: TestClient, project: str, photo: Path, name: str) -> None:
    address = f"/api/v1/projects/{project}/arrivals"
    sent = client.post(address, params={"name": name, "batch": "one"}, content=photo.read_bytes())
    assert sent.status_code == 201


def test_files_that_are_detected_are_one_entry(
    client: TestClient, project: str, make_photo: MakePhoto, gate: threading.Event
) -> None:
    for n, name in enumerate(("cedar", "copper", "linen", "slate")):
        drop(client, project, make_photo(seed=70 + n), f"{name}.png")
    (one,) = jobs(client, project)
    assert (one["kind"], one["files"], one["progress"]) == ("file_detection", 4, None)
    gate.set()
    end = time.monotonic() + 30
    while jobs(client, project):  # nothing stays in the list of what went well
        assert time.monotonic() < end
        time.sleep(0.02)
    rows = client.get(f"/api/v1/projects/{project}/arrivals").json()
    assert (rows["waiting"], [one["state"] for one in rows["rows"]]) == (0, ["recognized"] * 4)


def test_a_comparison_that_failed_is_listed_as_failed(
    client: TestClient, project: str, make_photo: MakePhoto, monkeypatch: pytest.MonkeyPatch
) -> None:
    def fails(*_: Any) -> None:
        raise RuntimeError("a fault")

    monkeypatch.setattr(detection, "hint_drop", fails)
    drop(client, project, make_photo(seed=79), "moor.png")
    end = time.monotonic() + 30
    while [one["state"] for one in jobs(client, project)] != ["failed"]:
        assert time.monotonic() < end, jobs(client, project)
        time.sleep(0.02)
    assert jobs(client, project)[0]["kind"] == "file_comparison"


def test_the_same_file_is_detected_once(
    client: TestClient, context: Context, project: str, make_photo: MakePhoto,
    monkeypatch: pytest.MonkeyPatch,
) -> None:  # fmt: skip
    read: list[str] = []
    real = detection.recognize_file

    def recognize(path: Path, *more: Any) -> Any:
        read.append(path.name)
        return real(path, *more)

    monkeypatch.setattr(detection, "recognize_file", recognize)
    photo = make_photo(seed=75)
    other = client.post("/api/v1/projects", json={"title": "Other quay"}).json()["slug"]
    for where in (project, other):
        drop(client, where, photo, "moss.png")
        end = time.monotonic() + 30
        while (table := client.get(f"/api/v1/projects/{where}/arrivals").json())["waiting"]:
            assert time.monotonic() < end
            time.sleep(0.02)
        assert table["rows"][0]["state"] == "recognized"
    assert read == ["moss.png"]


def test_a_file_that_nobody_asked_a_job_for_is_detected(
    client: TestClient, context: Context, project: str, make_photo: MakePhoto
) -> None:
    start, context.start_job = context.start_job, lambda *_: None
    drop(client, project, make_photo(seed=76), "left.png")
    with context.database.transaction() as connection:  # as an older version left it
        connection.execute("delete from job where kind = 'file_detection'")
    context.start_job = start
    assert ask_for_missing(context) >= 1
    end = time.monotonic() + 30
    while client.get(f"/api/v1/projects/{project}/arrivals").json()["waiting"]:
        assert time.monotonic() < end
        time.sleep(0.02)


def test_a_job_is_cancelled_retried_and_dismissed(
    client: TestClient, context: Context, project: str, monkeypatch: pytest.MonkeyPatch
) -> None:
    begun, may_end = threading.Event(), threading.Event()
    real = models.read_model_file

    def read(*given: Any, **more: Any) -> Any:
        begun.set()
        while not may_end.wait(0.02):
            more["on_progress"](0.25)
        return real(*given, **more)

    monkeypatch.setattr(models, "read_model_file", read)
    address = f"/api/v1/projects/{project}/models?name=boat.obj"
    job = client.post(address, content=OBJ).json()
    assert begun.wait(20)
    assert client.post(address, content=OBJ).json()["id"] == job["id"]
    end = time.monotonic() + 20
    while (listed := jobs(client, project)[0])["progress"] < 0.2:
        assert time.monotonic() < end
        time.sleep(0.02)
    assert (listed["title"], listed["state"], listed["step"]) == (
        "boat.obj", "running", "Reading boat.obj",
    )  # fmt: skip
    assert client.delete(f"/api/v1/jobs/{job['id']}").status_code == 409
    assert client.post(f"/api/v1/jobs/{job['id']}/cancel").json()["state"] == "cancelled"
    assert client.post(f"/api/v1/jobs/{job['id']}/cancel").status_code == 409
    may_end.set()
    assert client.get(f"/api/v1/projects/{project}/models").json() == []
    retried = ended_job(client, client.post(f"/api/v1/jobs/{job['id']}/retry"), expected=200)
    assert retried["state"] == "done"
    assert len(client.get(f"/api/v1/projects/{project}/models").json()) == 1
    assert client.post(f"/api/v1/jobs/{job['id']}/retry").status_code == 409
    assert client.delete(f"/api/v1/jobs/{job['id']}").status_code == 204
    assert jobs(client, project) == []
    assert client.get(f"/api/v1/jobs/{job['id']}").status_code == 404


def test_a_large_model_is_prepared_once_by_a_job(
    client: TestClient, context: Context, project: str, monkeypatch: pytest.MonkeyPatch
) -> None:
    address = f"/api/v1/projects/{project}/models?name=boat.obj"
    number = imported(client, client.post(address, content=OBJ))["model_id"]
    small = client.get(f"/api/v1/models/{number}/mesh")
    assert small.status_code == 200
    monkeypatch.setattr(model_results, "AT_ONCE", 0)
    asked = client.get(f"/api/v1/models/{number}/mesh")
    assert asked.headers["cache-control"] == "no-store"
    assert ended_job(client, asked)["kind"] == "model_display"
    whole = client.get(f"/api/v1/models/{number}/uv").json()
    picture = client.get(f"/api/v1/models/{number}/uv.png?shows=density").content
    monkeypatch.undo()
    assert whole == client.get(f"/api/v1/models/{number}/uv").json()
    assert picture == client.get(f"/api/v1/models/{number}/uv.png?shows=density").content
    monkeypatch.setattr(model_results, "AT_ONCE", 0)
    large = client.get(f"/api/v1/models/{number}/mesh")
    assert (large.status_code, large.content) == (200, small.content)


def test_a_model_that_was_analyzed_in_another_project_is_not_analyzed_again(
    client: TestClient, project: str, monkeypatch: pytest.MonkeyPatch
) -> None:
    data = OBJ + b"# two projects\n"
    imported(client, client.post(f"/api/v1/projects/{project}/models?name=a.obj", content=data))
    monkeypatch.setattr(models, "read_model_file", lambda *_, **__: pytest.fail("read again"))
    other = client.post("/api/v1/projects", json={"title": "Far quay"}).json()["slug"]
    imported(client, client.post(f"/api/v1/projects/{other}/models?name=b.obj", content=data))
    assert client.get(f"/api/v1/projects/{other}/models").json()[0]["triangles"] == 1


def test_a_project_is_imported_once_whatever_happens_at_its_end(
    client: TestClient, context: Context, project: str, make_photo: MakePhoto
) -> None:
    """A worker that was taken for dead finishes: what it made isn't stored."""
    photo = make_photo("hull.png", seed=77)
    sent = client.post(
        f"/api/v1/projects/{project}/sources?name=hull.png", content=photo.read_bytes()
    )
    assert sent.status_code == 201
    archive = client.get(f"/api/v1/projects/{project}/archive.zip").content
    real = Running.finish

    def late(self: Running, *given: Any) -> None:
        with context.database.transaction() as connection:  # another worker has begun
            connection.execute("update job set attempts = 2 where id = %s", [self.job.id])
        real(self, *given)

    before = len(client.get("/api/v1/projects").json())
    with pytest.MonkeyPatch.context() as patch:
        patch.setattr(Running, "finish", late)
        job = client.post("/api/v1/project-archives?name=quay.zip", content=archive).json()
        time.sleep(1.5)
    assert len(client.get("/api/v1/projects").json()) == before
    assert client.get(f"/api/v1/jobs/{job['id']}").json()["state"] == "running"
    client.post(f"/api/v1/jobs/{job['id']}/cancel")


def test_a_file_that_cannot_be_detected_is_refused_with_the_reason(
    client: TestClient, project: str, make_photo: MakePhoto, monkeypatch: pytest.MonkeyPatch
) -> None:
    def fails(*_: Any) -> None:
        raise MemoryError

    monkeypatch.setattr(detection, "_detect", fails)
    drop(client, project, make_photo(seed=78), "huge.png")
    end = time.monotonic() + 30
    while (table := client.get(f"/api/v1/projects/{project}/arrivals").json())["waiting"]:
        assert time.monotonic() < end
        time.sleep(0.02)
    (row,) = table["rows"]
    assert row["state"] == "refused"
    assert "huge.png needs more memory than this machine has" in row["error"]
    assert [one for one in jobs(client, project) if one["state"] == "failed"] == []
