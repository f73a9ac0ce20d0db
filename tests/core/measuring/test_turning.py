"""A sample that was turned on its plate under a lamp that stood still."""

from __future__ import annotations

import hashlib

import cv2
import numpy as np
import pytest

from copper_sieve.core.detection.one_surface import is_one_surface
from copper_sieve.core.image.raster import Encoding, Picture
from copper_sieve.core.ingest.light_captures import ReadCapture, calibrated_captures
from copper_sieve.core.measuring.light_directions import Lamp
from copper_sieve.core.measuring.measure import measure_stack
from copper_sieve.core.measuring.rotation_registration import (
    coarse_rotations,
    joined,
    rectify_rotations,
)
from copper_sieve.core.measuring.stack import Capture, CaptureStack, Placement
from copper_sieve.demo import lamp_pictures as drawn

SIDE = 192
AROUND, UP = 100.0, 42.0  # the lamp, as the camera has it


def turned(
    kind: str, count: int
) -> tuple[drawn.SyntheticSurface, list[Placement], list[np.ndarray], float]:
    """A sample laid under the camera again and again, turned and not quite in its place."""
    rng = np.random.default_rng(1)
    surface = drawn.SURFACES[kind](SIDE, rng)
    places = [Placement()] + [
        Placement(*rng.uniform(-3, 3, 2), 360 * n / count + rng.uniform(-8, 8))
        for n in range(1, count)
    ]
    lamps = [Lamp.at(AROUND + one.rotation, UP) for one in places]
    codes, white = drawn.pictures_of(surface, lamps, rng, placements=places)
    return surface, places, codes, white


def off(one: Placement, other: Placement) -> float:
    """Degrees."""
    return abs((one.rotation - other.rotation + 180) % 360 - 180)


def test_a_picture_is_laid_upright_and_two_ways_are_one() -> None:
    rng = np.random.default_rng(3)
    picture = cv2.GaussianBlur(rng.uniform(0, 1, (80, 80, 3)).astype(np.float32), (0, 0), 2)
    quarter = rectify_rotations(picture, Placement(rotation=90))
    np.testing.assert_allclose(quarter[4:-4, 4:-4], np.rot90(picture, 1)[4:-4, 4:-4], atol=1e-3)
    rough, small = Placement(4, -2, 100), Placement(0.5, 1.25, -3)
    both, x, y = joined(rough, small), np.float32(10.0), np.float32(-20.0)
    expected = rough.places(*small.places(x, y))  # type: ignore[arg-type]
    np.testing.assert_allclose(both.places(x, y), expected, atol=1e-4)  # type: ignore[arg-type]
    assert np.isnan(
        rectify_rotations(picture, Placement(right=70))[40, 40]
    ).all()  # beyond its border


def test_a_lamp_turns_with_the_sample() -> None:
    """Turned clockwise by 30 degrees, the sample has the lamp 30 degrees further around."""
    seen = Lamp.at(AROUND, UP, distance=2.0, intensity=3.0).turned(30)
    assert (seen.azimuth, seen.elevation) == pytest.approx((AROUND + 30, UP))
    assert (seen.distance, seen.intensity) == (2.0, 3.0)


@pytest.mark.parametrize("kind", ["pebbles", "wood", "tiles", "cloth"])
def test_how_far_it_was_turned_is_told_by_what_it_shows(kind: str) -> None:
    _, places, codes, _ = turned(kind, 6)
    found = coarse_rotations([one.astype(np.float32) for one in codes])
    assert found is not None
    assert max(off(a, b) for a, b in zip(found, places, strict=True)) < 2
    assert is_one_surface(codes) is not None


def test_different_things_are_no_turned_sample() -> None:
    each = [turned(kind, 4)[2][n % 4] for n, kind in enumerate(drawn.SURFACES)]
    assert is_one_surface(each) is None


def test_a_turned_sample_is_measured() -> None:
    """The lamp is said as the camera has it; the frame of the sample is the first picture's."""
    surface, places, codes, white = turned("pebbles", 6)
    taken = [
        ReadCapture(
            hashlib.sha256(one.tobytes()).hexdigest(), Picture(one, tuple("RGB"), Encoding.SRGB)
        )
        for one in codes
    ]
    captures = calibrated_captures(taken, lamps=[Lamp.at(AROUND, UP)] * 6, white=white)
    assert captures.remarks[0].startswith("the sample was rotated by up to")
    assert all(one.used for one in captures.captures)
    found = [one.placement.placement(SIDE) for one in captures.captures]
    for one, place, capture in zip(found, places, captures.captures, strict=True):
        assert off(one, place) < 0.2
        assert abs((capture.lamp.azimuth - AROUND - place.rotation + 180) % 360 - 180) < 1.5
    stack = CaptureStack(
        [
            Capture(code, capture.lamp.lamp(), placement=place)
            for code, capture, place in zip(codes, captures.captures, places, strict=True)
        ],
        white,
    )
    normal = measure_stack(stack).normal
    inner = slice(40, -40)  # what all pictures show, however they were turned
    cosine = (normal * surface.normal)[inner, inner].sum(-1)
    assert np.degrees(np.arccos(np.clip(cosine, -1, 1))).mean() < 2.0
