"""Lamps that nobody knows, by the pictures alone."""

from __future__ import annotations

import numpy as np
import pytest

from copper_sieve.core.errors import MeasureError
from copper_sieve.core.measuring.measure import measure
from copper_sieve.core.measuring.stack import Capture
from copper_sieve.core.measuring.uncalibrated_start import estimate_start
from copper_sieve.demo import lamp_pictures as drawn
from tests.core.measuring.test_lining_up import moved_about
from tests.core.measuring.test_measuring import LAMPS, SIZE, angle

GUESSED = "estimated from the pictures alone"


@pytest.mark.parametrize("kind", drawn.SURFACES)
def test_normals_without_knowing_the_lamps(kind: str) -> None:
    """At most 5 degrees off."""
    rng = np.random.default_rng(7)
    true = drawn.SURFACES[kind](SIZE, rng)
    pictures, exposure = drawn.pictures_of(true, LAMPS, rng, whole_colors=kind == "painted")
    found = measure(
        [Capture(one) for one in pictures], white=exposure, static_camera=True, uncalibrated=True
    )
    assert angle(found.normal, true.normal).mean() <= 5
    assert np.mean([angle(a.unit, b.unit) for a, b in zip(found.lamps, LAMPS, strict=True)]) <= 5
    assert any(GUESSED in one for one in found.remarks)
    tells = any("nothing distinguishes bumps from dents" in one for one in found.remarks)
    assert tells == (kind in ("cloth", "leather", "dimples"))  # those have hardly a shadow


@pytest.mark.parametrize("kind", ["plaster", "tiles"])
def test_in_any_order_and_clockwise_where_shadows_tell(kind: str) -> None:
    rng = np.random.default_rng(7)
    true = drawn.SURFACES[kind](SIZE, rng)
    lamps = [LAMPS[n] for n in (6, 2, 7, 0, 4, 1, 3, 5)]
    pictures, exposure = drawn.pictures_of(true, lamps, rng)
    found = measure(
        [Capture(one) for one in pictures], white=exposure, static_camera=True, uncalibrated=True
    )
    assert angle(found.normal, true.normal).mean() <= 5


def test_a_camera_that_moved_and_lamps_that_nobody_knows() -> None:
    rng = np.random.default_rng(7)
    true = drawn.wood(SIZE, rng)
    placements = moved_about(np.random.default_rng(3))
    pictures, exposure = drawn.pictures_of(true, LAMPS, rng, placements=placements)
    found = measure([Capture(one) for one in pictures], white=exposure, uncalibrated=True)
    off = [angle(a.unit, b.unit) for a, b in zip(found.lamps, LAMPS, strict=True)]
    assert np.mean(off) <= 5
    assert any("the camera moved by up to" in one for one in found.remarks)


def test_too_few_pictures_and_pictures_of_noise_are_refused() -> None:
    rng = np.random.default_rng(1)
    noise = rng.random((8, 64, 64, 3)).astype(np.float32)
    places = np.zeros((64, 64, 3), np.float32)
    with pytest.raises(MeasureError, match="4 pictures are too few to estimate light directions"):
        estimate_start(noise[:4], places, 0.01)
    with pytest.raises(MeasureError, match="be estimated from the pictures"):
        estimate_start(noise, places, 0.01)
