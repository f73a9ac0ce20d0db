"""What is worked out for a model is kept as long as it lives, and no longer."""

from __future__ import annotations

import gc
import threading
import time
from concurrent.futures import ThreadPoolExecutor

import numpy as np
import pytest

from copper_sieve.core.baking import BakeOptions, bake
from copper_sieve.core.baking.from_detail import scene_of
from copper_sieve.core.mesh import mesh_cache as module
from copper_sieve.core.mesh.mesh_cache import cached_by_mesh
from tests.core.mesh.solids import ball


def test_the_same_arrays_and_key_give_the_same_result() -> None:
    one, other = np.zeros(3), np.zeros(3)
    calls: list[int] = []

    def made() -> list[int]:
        calls.append(1)
        return list(calls)

    first = cached_by_mesh("t", [one], made, 1)
    assert cached_by_mesh("t", [one], made, 1) is first
    for again in (cached_by_mesh("t", [one], made, 2), cached_by_mesh("t", [other], made, 1),
                  cached_by_mesh("u", [one], made, 1), cached_by_mesh("t", [one, other], made,
                  1)):  # fmt: skip
        assert again is not first
    assert len(calls) == 5


def test_it_goes_with_the_arrays() -> None:
    array = np.zeros(5)
    cached_by_mesh("dies", [array], lambda: "result")
    assert any(place[0] == "dies" for place in module._held)  # type: ignore[index]
    del array
    gc.collect()
    assert not any(place[0] == "dies" for place in module._held)  # type: ignore[index]


def test_a_model_s_scene_is_built_once_and_ends_with_it() -> None:
    mesh = ball(0.5, rings=8)
    scene = scene_of(mesh)
    assert scene_of(mesh) is scene
    ended = scene._ended
    del mesh, scene
    gc.collect()
    assert not ended.alive


def test_another_model_at_the_same_place_is_another() -> None:
    """Ids of arrays are used again once they are dead: that must not bring an older result back."""
    options = BakeOptions(width=8, height=8, samples=1, rays=16)
    seen = []
    for radius in (0.1, 0.2, 0.3, 0.4):
        mesh = ball(radius, rings=6)
        seen.append(bake(mesh, ["position"], options).maps["position"].copy())
        low, high = mesh.bounds()
        assert np.isclose(high[1] - low[1], 2 * radius, atol=1e-5)
        del mesh
    assert all(np.allclose(seen[0], one, atol=1e-4) for one in seen)  # each within its own bounds


def test_two_that_ask_at_once_share_one_computation() -> None:
    array = np.zeros(3)
    begun, may_end = threading.Event(), threading.Event()
    calls = []

    def slow() -> object:
        calls.append(1)
        begun.set()
        assert may_end.wait(20)
        return object()

    with ThreadPoolExecutor(2) as threads:
        first = threads.submit(cached_by_mesh, "shared", [array], slow)
        assert begun.wait(20)
        second = threads.submit(cached_by_mesh, "shared", [array], slow)
        time.sleep(0.1)
        may_end.set()
        assert first.result(20) is second.result(20)
    assert len(calls) == 1


def test_a_computation_that_fails_keeps_nobody_waiting() -> None:
    array = np.zeros(3)

    def fails() -> object:
        raise ValueError("no")

    for _ in range(2):
        with pytest.raises(ValueError, match="no"):
            cached_by_mesh("fails", [array], fails)
    assert cached_by_mesh("fails", [array], lambda: "done") == "done"
