"""A preview that takes long: what it does is told, how long yet if that is known; it is stopped."""

from __future__ import annotations

import threading
import time
from collections.abc import Iterator
from dataclasses import replace
from typing import Any

import pytest
from fastapi.testclient import TestClient

from copper_sieve.core.graph.fair_lock import computing
from copper_sieve.core.graph.plan import plan
from copper_sieve.core.image.map_kind import MapKind
from copper_sieve.core.models.preparation import Mark, Preparation
from copper_sieve.core.models.texture_set import Imported, compose
from copper_sieve.core.operations import OPERATIONS
from copper_sieve.services import preview
from tests.api.conftest import TakeIn
from tests.conftest import MakePhoto

SLOW = "ambient_occlusion_from_height"
KINDS = ["ambient_occlusion", "roughness"]


class Held:
    """An operation that waits to be let go where it is asked for by hand: not at its usual
    softness, with which sets are looked over in the background."""

    def __init__(self, compute: Any, usual: Any) -> None:
        self.compute, self.begun, self.go = compute, threading.Event(), threading.Event()
        self._usual = usual

    def __call__(self, inputs: Any, parameters: Any, surface: Any) -> Any:
        if parameters["softness"] != self._usual:
            self.begun.set()
            assert self.go.wait(20)
        return self.compute(inputs, parameters, surface)


@pytest.fixture
def held(monkeypatch: pytest.MonkeyPatch) -> Iterator[Held]:
    (usual,) = (p.default for p in OPERATIONS[SLOW].parameters if p.name == "softness")
    one = Held(OPERATIONS[SLOW].compute, usual)
    monkeypatch.setitem(OPERATIONS, SLOW, replace(OPERATIONS[SLOW], compute=one))
    yield one
    one.go.set()


class Asking(threading.Thread):
    """A preview that is asked for in the background."""

    def __init__(self, client: TestClient, set_id: int, sequence: int, softness: float) -> None:
        super().__init__()
        self._client, self._set_id, self._sequence = client, set_id, sequence
        one = client.get(f"/api/v1/sets/{set_id}").json()
        maps = {m["kind"]: m["definition"] for m in one["maps"]}
        changed = {**maps["ambient_occlusion"], "parameters": {"softness": softness}}
        self._draft = {"surface": one["surface"], "maps": {**maps, "ambient_occlusion": changed}}
        self.status = 0

    def run(self) -> None:
        body = {"kinds": KINDS, "window": "w", "sequence": self._sequence, "draft": self._draft}
        self.status = self._client.post(
            f"/api/v1/sets/{self._set_id}/previews", json=body
        ).status_code


def test_what_is_done_is_told_and_can_be_stopped(
    client: TestClient, take_in: TakeIn, make_photo: MakePhoto, held: Held
) -> None:
    set_id = take_in(make_photo("slow.png", seed=71))["set_id"]
    assert client.get("/api/v1/previews/w").json() is None
    first = Asking(client, set_id, 1, 0.001)
    first.start()
    assert held.begun.wait(20)
    told = client.get("/api/v1/previews/w").json()
    assert told["step"] == "deriving occlusion"
    assert 0 < told["share"] < 1
    assert told["seconds_left"] is None  # it was never done before
    assert client.get("/api/v1/previews/other").json() is None
    assert client.post("/api/v1/previews/w/stop").status_code == 204
    held.go.set()
    first.join()
    assert first.status == 409
    assert client.get("/api/v1/previews/w").json() is None

    # What comes after it is computed, and how long it takes is known by then.
    second = Asking(client, set_id, 2, 0.002)
    second.start()
    second.join()
    assert second.status == 200
    held.go.clear()
    held.begun.clear()
    third = Asking(client, set_id, 3, 0.003)
    third.start()
    assert held.begun.wait(20)
    assert client.get("/api/v1/previews/w").json()["seconds_left"] is not None
    held.go.set()
    third.join()
    assert third.status == 200


def test_nothing_is_stopped_where_nothing_runs(client: TestClient) -> None:
    assert client.post("/api/v1/previews/never/stop").status_code == 204


def test_a_preview_is_ahead_of_what_is_measured_meanwhile(
    client: TestClient, take_in: TakeIn, make_photo: MakePhoto, held: Held,
    monkeypatch: pytest.MonkeyPatch,
) -> None:  # fmt: skip
    """Such as seams, or the checklist of another set, which take seconds."""
    order: list[str] = []
    evaluate = preview.evaluate

    def told(*given: Any, **more: Any) -> Any:
        found = evaluate(*given, **more)
        order.append("preview")
        return found

    def measure() -> None:
        with computing:
            order.append("measured")

    monkeypatch.setattr(preview, "evaluate", told)
    set_id = take_in(make_photo("behind.png", seed=72))["set_id"]
    asking = Asking(client, set_id, 1, 0.004)
    asking.start()
    assert held.begun.wait(20)
    measuring = threading.Thread(target=measure)
    measuring.start()
    while not computing._row:
        measuring.join(0.005)
    held.go.set()
    asking.join(20)
    measuring.join(20)
    assert asking.status == 200
    assert order == ["preview", "measured"]


def test_the_time_left_is_that_of_what_is_left(monkeypatch: pytest.MonkeyPatch) -> None:
    """The plan by which a mark is filled has a few texels, and takes as long as others: what it
    took is not what a million of them take."""
    photo = Imported(source="a" * 64)
    mark = Mark(outline=((0.2, 0.2), (0.3, 0.2), (0.3, 0.3)))
    one = compose("one", {MapKind.BASE_COLOR: photo})
    one = one.model_copy(update={"prepare": Preparation(marks=(mark,))})
    nodes = list(plan(one, {photo.source: (1024, 1024)}).nodes.values())
    clock = [0.0]
    pace: dict[str, float] = {}
    monkeypatch.setattr(time, "monotonic", lambda: clock[0])
    for _ in range(2):
        progress = preview._Progress(pace)
        for at in range(len(nodes) + 1):
            progress.step(nodes, at)
            clock[0] += 1.0
    progress = preview._Progress(pace)
    progress.step(nodes, 0)
    left = progress.told().seconds_left
    assert left is not None
    assert left <= 2 * len(nodes)
