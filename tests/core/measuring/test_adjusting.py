"""Lamps told by the pictures: how far they stood, how strong each was, where in a ring."""

from __future__ import annotations

import numpy as np
import pytest

from copper_sieve.core.image.raster import Float
from copper_sieve.core.measuring.ball import Ball
from copper_sieve.core.measuring.calibration import CalibrationOptions, calibrate
from copper_sieve.core.measuring.light_directions import Lamp
from copper_sieve.core.measuring.light_priors import LightParameters, LightPriors, PriorResiduals
from copper_sieve.core.measuring.light_refinement import refine_lights
from copper_sieve.core.measuring.measure import measure, measure_stack
from copper_sieve.core.measuring.near_light import FitOptions, fit_lights
from copper_sieve.core.measuring.stack import Capture, CaptureStack
from copper_sieve.demo import lamp_pictures as drawn
from tests.core.measuring.test_measuring import SIZE, angle

STOOD = "picture widths away, as estimated"


def carried(distance: float) -> list[Lamp]:
    """One lamp carried around by hand: nearer and farther, and stronger where it is nearer."""
    rng = np.random.default_rng(5)
    away = distance * rng.uniform(0.85, 1.15, 8)
    return [
        Lamp(one.direction, float(d), float((distance / d) ** 2))
        for one, d in zip(drawn.ring_of_lamps(8), away, strict=True)
    ]


def pictures(
    kind: str, lamps: list[Lamp], size: int = SIZE, ball: Ball | None = None
) -> tuple[drawn.SyntheticSurface, list[np.ndarray], float]:
    rng = np.random.default_rng(7)
    true = drawn.SURFACES[kind](size, rng)
    codes, exposure = drawn.pictures_of(
        true, lamps, rng, whole_colors=kind == "painted", ball=ball
    )  # fmt: skip
    return true, codes, exposure


def without_distance(lamps: list[Lamp]) -> list[Lamp]:
    return [Lamp(one.direction) for one in lamps]


@pytest.mark.parametrize("kind", ["plaster", "tiles", "leather", "dimples"])
def test_a_lamp_at_arms_length_is_told_by_the_pictures(kind: str) -> None:
    """Two widths away: taken for a far one, it makes a dome of all surfaces."""
    lamps = carried(2.0)
    true, codes, exposure = pictures(kind, lamps)
    captures = [
        Capture(one, lamp) for one, lamp in zip(codes, without_distance(lamps), strict=True)
    ]
    found = measure(captures, white=exposure, static_camera=True)
    assert angle(found.normal, true.normal).mean() <= 2.3
    taken_for_far = measure(captures, white=exposure, static_camera=True, distant=True)
    assert angle(taken_for_far.normal, true.normal).mean() > 8
    for confidence, lamp in zip(found.lamps, lamps, strict=True):
        assert confidence.distance == pytest.approx(lamp.distance, rel=0.1)
        assert angle(confidence.unit, lamp.unit) < 1e-3  # as it was said
    assert any(STOOD in one for one in found.remarks)
    assert not any(STOOD in one for one in taken_for_far.remarks)


@pytest.mark.parametrize("kind", ["plaster", "leather"])
def test_far_lamps_stay_far(kind: str) -> None:
    lamps = drawn.ring_of_lamps(8)
    _, codes, exposure = pictures(kind, lamps)
    captures = [Capture(one, lamp) for one, lamp in zip(codes, lamps, strict=True)]
    found = calibrate(captures, CalibrationOptions(), white=exposure, static_camera=True)
    assert [capture.lamp for capture in found.captures] == lamps
    assert not found.remarks


@pytest.mark.parametrize(("kind", "way"), [("wood", "white"), ("cloth", "shiny")])
def test_a_ball_sees_a_near_lamp_elsewhere_than_the_middle_does(kind: str, way: str) -> None:
    size = 192
    ball = Ball(34, size - 34, 22, "shiny" if way == "shiny" else "white")
    lamps = carried(2.0)
    true, codes, exposure = pictures(kind, lamps, size, ball)
    found = measure([Capture(one) for one in codes], white=exposure, static_camera=True, ball=ball)
    beside = ~ball.mask((size, size))
    assert angle(found.normal, true.normal)[beside].mean() <= 2.5
    away = [one.distance for one in found.lamps]
    assert away == pytest.approx([one.distance for one in lamps], rel=0.15)


@pytest.mark.parametrize("kind", ["cloth", "tiles"])
def test_near_lamps_that_nobody_knows_in_any_order(kind: str) -> None:
    """They even tell bumps from dents where nothing casts a shadow."""
    all_of_them = carried(2.0)
    lamps = [all_of_them[n] for n in (6, 2, 7, 0, 4, 1, 3, 5)]
    true, codes, exposure = pictures(kind, lamps)
    found = measure(
        [Capture(one) for one in codes], white=exposure, static_camera=True, uncalibrated=True
    )
    assert angle(found.normal, true.normal).mean() <= 5
    assert not any("nothing tells bumps from dents" in one for one in found.remarks)


def test_a_ring_of_known_height_settles_how_high() -> None:
    """All at 40 degrees, in no even steps: what tells the relief's depth of matte plaster."""
    azimuth = (4, 52, 85, 141, 178, 230, 262, 318)
    lamps = [Lamp.at(one, 40) for one in azimuth]
    true, codes, exposure = pictures("plaster", lamps)
    asked = CalibrationOptions(uncalibrated=True, elevation=40)
    found = calibrate([Capture(one) for one in codes], asked, white=exposure, static_camera=True)
    assert [one.lamp.elevation for one in found.captures] == pytest.approx([40] * 8, abs=3)
    assert [one.lamp.azimuth for one in found.captures] == pytest.approx(azimuth, abs=6)
    surface = measure_stack(CaptureStack(found.used, exposure))
    assert angle(surface.normal, true.normal).mean() <= 2.5


def test_lamps_that_were_said_about_are_fitted() -> None:
    """Each some degrees off its own way, and at arm's length."""
    lamps = carried(2.5)
    true, codes, exposure = pictures("wood", lamps)
    rng = np.random.default_rng(3)
    about = [
        Lamp.at(one.azimuth + rng.normal(0, 5), one.elevation + rng.normal(0, 4)) for one in lamps
    ]  # fmt: skip
    captures = [Capture(one, lamp) for one, lamp in zip(codes, about, strict=True)]
    lit = fit_lights(captures, FitOptions(exposure))

    def off(some: list[Lamp]) -> float:
        return float(np.mean([angle(a.unit, b.unit) for a, b in zip(some, lamps, strict=True)]))

    assert off([one.lamp for one in lit]) < 0.6 * off(about)
    surface = measure_stack(CaptureStack(lit, exposure))
    assert angle(surface.normal, true.normal).mean() <= 2.5


def test_what_was_said_holds_where_pictures_tell_nothing() -> None:
    """Of an even wall all lamps far away could be anywhere: they stay."""
    lamps = [Lamp.at(one, 45) for one in range(0, 360, 60)]
    light: Float = np.full((6, 32, 32, 3), 0.3, np.float32)
    places = np.zeros((32, 32, 3), np.float32)
    places[..., 0], places[..., 1] = np.meshgrid(np.linspace(-0.5, 0.5, 32), np.zeros(32))
    found = refine_lights(light, places, 0.01, LightPriors(lamps, 3, 3))
    assert not found.is_better
    state = LightParameters.of(lamps)
    assert np.abs(PriorResiduals(LightPriors(lamps, 3, 3)).residuals(state)).max() == pytest.approx(
        0, abs=1e-6
    )


@pytest.mark.parametrize("distance", [None, 2.5])
def test_a_dome_is_no_lamp_nearby(distance: float | None) -> None:
    """A far lamp on a dome lights it nearly as a near one lights a plane; each stays what it is."""
    rng = np.random.default_rng(7)
    flat = drawn.plaster(SIZE, rng)
    y, x = (np.mgrid[:SIZE, :SIZE] + 0.5) / SIZE - 0.5
    height = flat.height - np.asarray(SIZE / 4 * (x * x + y * y), np.float32)
    true = drawn.SyntheticSurface(height, flat.color, flat.roughness)
    lamps = drawn.ring_of_lamps(8) if distance is None else carried(distance)
    codes, exposure = drawn.pictures_of(true, lamps, rng)
    captures = [
        Capture(one, lamp) for one, lamp in zip(codes, without_distance(lamps), strict=True)
    ]
    found = measure(captures, white=exposure, static_camera=True)
    inner = slice(4, -4)  # the drawn height tiles, and a dome does not
    assert angle(found.normal, true.normal)[inner, inner].mean() <= 2
    assert all((one.distance is None) == (distance is None) for one in found.lamps)
