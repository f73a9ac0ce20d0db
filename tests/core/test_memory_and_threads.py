"""Memory used again and stages kept change nothing; nor does the number of threads."""

from __future__ import annotations

import gc
import os
import subprocess
import sys
from pathlib import Path

import numpy as np
import pytest

from copper_sieve.core.image import array_pool
from copper_sieve.core.operations import OPERATIONS
from copper_sieve.core.operations.numerics.memo import _kept, memoized
from tests.core.operating import grey, run

ROOT = Path(__file__).resolve().parents[2]


def _address(array: np.ndarray) -> int:
    return int(array.__array_interface__["data"][0])


def test_memory_comes_back_when_the_last_view_is_gone() -> None:
    array_pool.forget_idle()
    first = array_pool.empty(600, 700, 3)
    assert first.dtype == np.float32
    assert first.flags.writeable
    first[:] = 7
    where = _address(first)
    view = first[10:, :, 1].T
    del first
    other = array_pool.empty(600, 700, 3)
    assert _address(other) != where  # the view still lives
    other[:] = 0
    assert (view == 7).all()
    del view
    gc.collect()
    assert _address(array_pool.empty(600, 700, 3)) == where


def test_small_arrays_and_other_sizes_are_fresh() -> None:
    assert array_pool.empty(4, 4).shape == (4, 4)
    del_me = array_pool.empty(512, 512)
    where = _address(del_me)
    del del_me
    assert _address(array_pool.empty(512, 513)) != where


def test_idle_memory_has_a_limit(monkeypatch: pytest.MonkeyPatch) -> None:
    gc.collect()  # what earlier tests left in circles comes back now, not below
    monkeypatch.setattr(array_pool, "_pool", array_pool._Pool(3 << 20))
    many = [array_pool.empty(512, 512) for _ in range(5)]
    del many
    gc.collect()
    assert len(array_pool._pool._idle) == 3
    large = array_pool.empty(1024, 1024)
    del large  # more than may lie idle pushes nothing out
    assert len(array_pool._pool._idle) == 3


def test_a_stage_is_computed_once_for_a_map_that_nobody_writes_to() -> None:
    calls: list[int] = []

    def compute() -> np.ndarray:
        calls.append(1)
        return np.ones(3, np.float32)

    source = np.zeros((8, 8), np.float32)
    memoized("t", source, 1, compute)
    memoized("t", source, 1, compute)
    assert len(calls) == 2  # still to be written to: anything may have changed
    source.setflags(write=False)
    first = memoized("t", source, 1, compute)
    assert memoized("t", source, 1, compute) is first
    assert not first.flags.writeable
    assert memoized("t", source, 2, compute) is not first
    assert memoized("u", source, 2, compute) is not first
    assert len(calls) == 5
    del source
    assert not [key for key in _kept if key[0] in "tu"]


def test_the_same_bytes_with_any_number_of_threads() -> None:
    environment = {**os.environ, "NUMBA_NUM_THREADS": "2"}
    done = subprocess.run(
        [sys.executable, "-m", "tests.core.with_threads"], env=environment, cwd=ROOT,
        capture_output=True, text=True, check=False,
    )  # fmt: skip
    assert done.returncode == 0, done.stdout + done.stderr
    assert done.stdout == f"{len(OPERATIONS)} operations; other bytes: none\n"


def test_a_kept_stage_gives_what_a_new_one_does() -> None:
    rng = np.random.default_rng(6)
    color = grey(rng.random((96, 96)))
    fixed = color.copy()
    fixed.setflags(write=False)
    for name, changes in (
        ("height_from_color", ({"contrast": 2}, {"evenness": 0.2}, {"forms": 0}, {"shading": 0.5})),
        ("roughness_from_color", ({"middle": 0.2}, {"variation": 0}, {"invert": True})),
        ("base_color_from_photo", ({"evenness": 0}, {"hollow": 0.04}, {"glints": 1})),
    ):
        for change in ({}, *changes, {}):
            np.testing.assert_array_equal(run(name, fixed, **change), run(name, color, **change))
