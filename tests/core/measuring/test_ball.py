"""Lamps read from a ball, and a ball found."""

from __future__ import annotations

from dataclasses import replace

import numpy as np
import pytest

from copper_sieve.core.errors import MeasureError
from copper_sieve.core.image.raster import Float
from copper_sieve.core.measuring.ball import Ball, Kind, find_ball, lamps_by_ball
from copper_sieve.core.measuring.lights_from_ball import find_ball_in_captures, lights_by_ball
from copper_sieve.core.measuring.measure import measure
from copper_sieve.core.measuring.stack import Capture, CaptureStack, Placement
from copper_sieve.demo import lamp_pictures as drawn
from tests.core.measuring.test_measuring import LAMPS, angle

SIZE = 192
WHITE, SHINY = Ball(150.3, 41.6, 24.0, "white"), Ball(40.2, 150.7, 22.0, "shiny")


def shots_with(
    ball: Ball, kind: str, strengths: tuple[float, ...] = ()
) -> tuple[list[Capture], float]:
    rng = np.random.default_rng(4)
    lamps = [replace(lamp, intensity=one) for lamp, one in zip(LAMPS, strengths or (1.0,) * 8,
                                                            strict=True)]  # fmt: skip
    true = drawn.SURFACES[kind](SIZE, rng)
    pictures, exposure = drawn.pictures_of(true, lamps, rng, ball=ball)
    return [Capture(one, lamp) for one, lamp in zip(pictures, LAMPS, strict=True)], exposure


def lights(captures: list[Capture]) -> list[Float]:
    every = range(SIZE)
    return list(CaptureStack(captures).light(every, every))


@pytest.mark.parametrize("ball", [WHITE, SHINY], ids=["white", "shiny"])
@pytest.mark.parametrize("kind", ["cloth", "plaster", "pebbles"])
def test_a_ball_is_found_and_tells_the_lamps(ball: Ball, kind: str) -> None:
    pictures = lights(shots_with(ball, kind)[0])
    found = find_ball(pictures)
    assert found.kind == ball.kind
    assert np.hypot(found.x - ball.x, found.y - ball.y) < 1.0
    assert abs(found.radius - ball.radius) < 1.0
    confidence = lamps_by_ball(pictures, [found] * 8)
    off = [angle(one.unit, lamp.unit) for one, lamp in zip(confidence, LAMPS, strict=True)]
    assert np.mean(off) < 2.0


@pytest.mark.parametrize("ball", [WHITE, SHINY], ids=["white", "shiny"])
def test_normals_by_a_ball(ball: Ball) -> None:
    """At most 2.5 degrees off, the lamps read from it."""
    captures, exposure = shots_with(ball, "wood")
    found = measure(
        [Capture(one.codes) for one in captures], white=exposure, static_camera=True, ball=ball
    )
    true = drawn.wood(SIZE, np.random.default_rng(4)).normal
    beside = ~ball.mask((SIZE, SIZE))
    assert angle(found.normal, true)[beside].mean() <= 2.5
    assert (found.uncertainty[ball.mask((SIZE, SIZE), 1.0)] == 1).all()


def test_a_white_ball_tells_how_strong_each_lamp_was() -> None:
    strengths = (1.0, 0.8, 1.1, 0.9, 1.0, 1.05, 0.7, 0.95)
    lamps = lamps_by_ball(lights(shots_with(WHITE, "cloth", strengths)[0]), [WHITE] * 8)
    confidence = np.array([lamp.intensity for lamp in lamps])
    assert (
        np.abs(confidence / confidence.mean() - np.array(strengths) / np.mean(strengths)).max()
        < 0.03
    )


@pytest.mark.parametrize("kind", ["pebbles", "dimples", "tiles"])
def test_no_ball_is_seen_where_there_is_none(kind: str) -> None:
    rng = np.random.default_rng(4)
    pictures, _ = drawn.pictures_of(drawn.SURFACES[kind](SIZE, rng), LAMPS, rng)
    captures = [Capture(one, lamp) for one, lamp in zip(pictures, LAMPS, strict=True)]
    with pytest.raises(MeasureError, match="no ball was detected in all pictures"):
        find_ball(lights(captures))


@pytest.mark.parametrize(("kind", "says"), [
    ("white", "the ball in picture 1 isn't shaded like a ball"), ("shiny", "1 has no highlight"),
])  # fmt: skip
def test_a_place_without_a_ball_is_refused(kind: Kind, says: str) -> None:
    pictures = lights(shots_with(WHITE, "pebbles")[0])
    with pytest.raises(MeasureError, match=says):
        lamps_by_ball(pictures, [Ball(60, 60, 20, kind)] * 8)


def test_in_large_pictures_it_is_found_small_and_placed_large() -> None:
    ball = Ball(300.4, 900.8, 100.0, "white")
    rng = np.random.default_rng(3)
    small = drawn.cloth(128, rng)
    captures = []
    for lamp in LAMPS[:3]:
        light = np.tile(drawn.lit_by(small, lamp), (9, 9, 1))
        codes = drawn.photographed(drawn.with_ball(light, lamp, ball), rng, quality=None)
        captures.append(Capture(codes, lamp))
    found = find_ball_in_captures(captures)
    assert np.hypot(found.x - ball.x, found.y - ball.y) < 2
    assert abs(found.radius - ball.radius) < 2
    lit = lights_by_ball(captures, found)
    assert max(angle(a.lamp.unit, b.lamp.unit) for a, b in zip(lit, captures, strict=True)) < 1


def test_the_ball_moves_with_the_camera() -> None:
    true = [Placement(2.0 * np.cos(n), 2.0 * np.sin(n)) for n in range(8)]
    rng = np.random.default_rng(4)
    surface = drawn.pebbles(SIZE, rng)
    pictures, exposure = drawn.pictures_of(surface, LAMPS, rng, ball=WHITE, placements=true)
    captures = [Capture(one) for one in pictures]
    found = measure(captures, white=exposure, ball=WHITE)
    inner = np.zeros((SIZE, SIZE), bool)
    inner[8:-8, 8:-8] = ~WHITE.mask((SIZE, SIZE))[8:-8, 8:-8]
    assert angle(found.normal, surface.normal)[inner].mean() <= 2.5
