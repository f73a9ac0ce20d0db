"""Where the light came from, on rendered surfaces: within 15 degrees, but for 180."""

from __future__ import annotations

import numpy as np
import pytest

from copper_sieve.core.detection.light import LightEstimate, estimate_light, estimate_light_of_color
from copper_sieve.core.image.encoding import linear_to_srgb, quantize
from copper_sieve.core.image.raster import Encoding, Picture
from copper_sieve.core.operations import SurfaceContext
from tests.core.operating import grey, run
from tests.core.recognition.maps import fractal, relief

SIDE = 256


def lit(field: np.ndarray, azimuth: float, elevation: float = 35) -> np.ndarray:
    """A surface of one color under one lamp, with some grain: (H, W, 3), linear light."""
    field = field / np.abs(np.diff(field, axis=0)).std() * 0.35
    across = (np.roll(field, -1, axis=1) - np.roll(field, 1, axis=1)) / 2
    down = (np.roll(field, -1, axis=0) - np.roll(field, 1, axis=0)) / 2
    turn, up = np.radians(azimuth), np.radians(elevation)
    toward = np.cos(turn) * np.cos(up), np.sin(turn) * np.cos(up), np.sin(up)
    shade = (-across * toward[0] + down * toward[1] + toward[2]) / np.sqrt(1 + across**2 + down**2)
    grain = np.random.default_rng(int(azimuth)).normal(0, 0.02, shade.shape)
    return grey(np.clip(0.5 * shade + grain, 0, 1))


@pytest.mark.parametrize("kind", ["stones", "cracks", "scratches", "noise"])
@pytest.mark.parametrize("azimuth", range(0, 180, 30))
def test_the_azimuth_of_a_lamp(kind: str, azimuth: int) -> None:
    field = fractal(azimuth, SIDE, 1.8) if kind == "noise" else relief(kind, azimuth, SIDE)
    found = estimate_light_of_color(lit(field, azimuth))
    assert found.lit
    assert abs((found.azimuth - azimuth + 90) % 180 - 90) <= 15
    opposite = estimate_light_of_color(lit(field, azimuth + 180))
    assert abs((opposite.azimuth - azimuth + 90) % 180 - 90) <= 15


@pytest.mark.parametrize("kind", ["stones", "cracks", "weave", "scratches"])
def test_light_from_above_is_even(kind: str) -> None:
    found = estimate_light_of_color(lit(relief(kind, 3, SIDE), 0, elevation=90))
    assert not found.lit


def test_a_picture_s_codes_and_one_that_is_flat() -> None:
    color = lit(relief("stones", 5, SIDE), 60)
    codes = quantize(linear_to_srgb(color), 8)
    picture = Picture(codes, ("R", "G", "B"), Encoding.SRGB)
    assert estimate_light(picture).azimuth == pytest.approx(
        estimate_light_of_color(color).azimuth, abs=1
    )
    one = Picture(codes[:, :, :1], ("Y",), Encoding.SRGB)
    assert estimate_light(one).azimuth == pytest.approx(estimate_light(picture).azimuth, abs=1)
    assert estimate_light_of_color(np.full((64, 64, 3), 0.2, np.float32)) == LightEstimate(0.0, 0.0)


def test_the_reading_that_was_chosen_makes_bumps_of_bumps() -> None:
    field = relief("stones", 7, SIDE).astype(np.float32)
    color = lit(field, 20, elevation=30)
    found = estimate_light_of_color(color)
    surface = SurfaceContext.of(1.0, 0.02, wrap=True)

    def likeness(turn: float) -> float:
        made = run("height_from_color", color, surface, shading=0.8,
                   light_from=(found.azimuth + turn) % 360)  # fmt: skip
        slopes = [np.diff(one, axis=1).ravel() for one in (made[:, :, 0], field)]
        return float(np.corrcoef(*slopes)[0, 1])

    assert likeness(0) > 0.4 > -0.3 > likeness(180)
