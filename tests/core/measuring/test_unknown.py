"""Lamps that nobody knows, by the pictures alone."""

from __future__ import annotations

import numpy as np
import pytest

from copper_sieve.core.errors import MeasureError
from copper_sieve.core.measuring.lamps import Lamp
from copper_sieve.core.measuring.measure import measure
from copper_sieve.core.measuring.refining import cost_of, refined
from copper_sieve.core.measuring.stack import Shot, Stack
from copper_sieve.core.measuring.unknown import guess_lamps
from copper_sieve.demo import lamp_pictures as drawn
from tests.core.measuring.test_lining_up import moved_about
from tests.core.measuring.test_measuring import LAMPS, SIZE, angle

GUESSED = "where the light was is guessed from the pictures alone"


@pytest.mark.parametrize("kind", drawn.SURFACES)
def test_normals_without_knowing_the_lamps(kind: str) -> None:
    """At most 5 degrees off."""
    rng = np.random.default_rng(7)
    true = drawn.SURFACES[kind](SIZE, rng)
    pictures, exposure = drawn.pictures_of(true, LAMPS, rng, whole_colors=kind == "painted")
    found = measure([Shot(one) for one in pictures], white=exposure, still=True, unknown=True)
    assert angle(found.normal, true.normal).mean() <= 5
    assert np.mean([angle(a.unit, b.unit) for a, b in zip(found.lamps, LAMPS, strict=True)]) <= 5
    assert any(GUESSED in one for one in found.remarks)
    tells = any("nothing tells bumps from dents" in one for one in found.remarks)
    assert tells == (kind in ("cloth", "leather", "dimples"))  # those have hardly a shadow


@pytest.mark.parametrize("kind", ["plaster", "tiles"])
def test_in_any_order_and_clockwise_where_shadows_tell(kind: str) -> None:
    rng = np.random.default_rng(7)
    true = drawn.SURFACES[kind](SIZE, rng)
    lamps = [LAMPS[n] for n in (6, 2, 7, 0, 4, 1, 3, 5)]
    pictures, exposure = drawn.pictures_of(true, lamps, rng)
    found = measure([Shot(one) for one in pictures], white=exposure, still=True, unknown=True)
    assert angle(found.normal, true.normal).mean() <= 5


def test_a_camera_that_moved_and_lamps_that_nobody_knows() -> None:
    rng = np.random.default_rng(7)
    true = drawn.wood(SIZE, rng)
    placements = moved_about(np.random.default_rng(3))
    pictures, exposure = drawn.pictures_of(true, LAMPS, rng, placements=placements)
    found = measure([Shot(one) for one in pictures], white=exposure, unknown=True)
    off = [angle(a.unit, b.unit) for a, b in zip(found.lamps, LAMPS, strict=True)]
    assert np.mean(off) <= 5
    assert any("the camera moved by up to" in one for one in found.remarks)


def apart(lamps: list[Lamp]) -> float:
    """Mean degrees from the true ones, but for a turn of all together."""
    found, true = (np.stack([one.unit for one in some]) for some in (lamps, LAMPS))
    left, _, right = np.linalg.svd(found.T @ true)
    return float(angle(found @ left @ right, true).mean())


@pytest.mark.parametrize("kind", ["pebbles", "leather"])
def test_refining_brings_lamps_home(kind: str) -> None:
    """Each some degrees off its own way at first: all of them together tell better."""
    rng = np.random.default_rng(7)
    pictures, exposure = drawn.pictures_of(drawn.SURFACES[kind](SIZE, rng), LAMPS, rng)
    stack = Stack([Shot(one) for one in pictures], exposure)
    light = stack.light(range(SIZE), range(SIZE))
    begin = [
        Lamp.at(lamp.around + off, lamp.up + up)
        for lamp, off, up in zip(LAMPS, rng.normal(0, 8, 8), rng.normal(0, 8, 8), strict=True)
    ]
    found = refined(light, begin, stack.noise, 6)
    assert apart(begin) > 5 and apart(found) < 0.5 * apart(begin)
    assert cost_of(light, found, stack.noise) < 0.5 * cost_of(light, begin, stack.noise)


def test_too_few_pictures_and_pictures_of_noise_are_refused() -> None:
    rng = np.random.default_rng(1)
    noise = rng.random((8, 64, 64, 3)).astype(np.float32)
    with pytest.raises(MeasureError, match="4 pictures are too few to find out where"):
        guess_lamps(noise[:4], 0.01)
    with pytest.raises(MeasureError, match="do not tell where the light was"):
        guess_lamps(noise, 0.01)
