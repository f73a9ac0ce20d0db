"""Blemishes filled from the rest of the picture, and light evened out."""

from __future__ import annotations

import numpy as np
import pytest
from scipy import ndimage

from copper_sieve.core.errors import ShapeError
from copper_sieve.core.image.encoding import linear_to_srgb, luminance, srgb_to_linear
from copper_sieve.core.image.map_kind import Meaning
from copper_sieve.core.operations.prepare.delight import delight
from copper_sieve.core.operations.prepare.inpaint import apply_inpaint, plan_inpaint
from tests.core.recognition.maps import relief

SIDE = 256


def surface(kind: str) -> np.ndarray:
    height = relief(kind, 4, SIDE)
    color = np.array([0.7, 0.5, 0.35]) * (0.3 + 0.6 * height[:, :, None])
    return srgb_to_linear(np.clip(color, 0, 1).astype(np.float32))


def spot(x: float, y: float, radius: float = 0.05) -> np.ndarray:
    a = np.linspace(0, 2 * np.pi, 24, endpoint=False)
    return np.stack([x + radius * np.cos(a), y + radius * np.sin(a)], axis=1)


def blotted(pixels: np.ndarray, x: float, y: float, radius: float = 0.04) -> np.ndarray:
    rows, columns = np.mgrid[0:SIDE, 0:SIDE] / SIDE
    out = pixels.copy()
    out[np.hypot(columns - x, rows - y) < radius] = (0.01, 0.02, 0.6)
    return out


@pytest.mark.parametrize(("kind", "left"), [("weave", 0.2), ("bricks", 0.3), ("rough", 1.0)])
def test_a_blot_is_gone_and_the_structure_goes_on(kind: str, left: float) -> None:
    clean = surface(kind)
    dirty = blotted(clean, 0.52, 0.47)
    marks = [spot(0.52, 0.47)]
    found = apply_inpaint(dirty, marks, plan_inpaint(dirty, marks), Meaning.COLOR)
    inside = np.hypot(*(np.indices((SIDE, SIDE)) / SIDE - np.array([0.47, 0.52])[:, None, None]))
    blot = inside < 0.05
    seen, was = linear_to_srgb(found), linear_to_srgb(clean)
    spread = float(was.std(axis=(0, 1)).mean())
    # As far from what lay there as another part of the surface is, or nearer where it is regular.
    assert np.abs(seen - was)[blot].mean() < left * 2 * spread
    assert found[blot][:, 2].max() < 0.3  # nothing blue is left
    far = inside > 0.08
    np.testing.assert_array_equal(found[far], dirty[far])


def test_every_map_is_filled_from_the_same_place() -> None:
    clean = surface("rough")
    marks = [spot(0.3, 0.6), spot(0.32, 0.61, 0.03)]
    dirty = blotted(clean, 0.3, 0.6)
    places = plan_inpaint(dirty, marks)
    # A map that says where each texel comes from.
    rows, columns = np.mgrid[0:SIDE, 0:SIDE].astype(np.float32) / SIDE
    for where, axis in ((columns, 0), (rows, 1)):
        striped = np.ascontiguousarray((where * 64 % 1)[:, :, None])
        found = apply_inpaint(striped, marks[:1], places[:1], Meaning.DATA)
        shift = round(float(places[0, axis, 0]) * SIDE) / SIDE
        wanted = (where + shift) * 64 % 1
        middle = np.hypot(columns - 0.3, rows - 0.6) < 0.025
        assert np.abs(found[:, :, 0] - wanted)[middle].mean() < 0.12
    # Not from the other mark, which lies nearest.
    dx, dy = places[0, :, 0]
    assert np.hypot(dx, dy) > 0.05


def test_a_mark_without_a_place_for_it_is_named() -> None:
    picture = surface("rough")
    with pytest.raises(ShapeError, match="mark 2 is too large"):
        plan_inpaint(picture, [spot(0.5, 0.5), spot(0.5, 0.5, 0.45)])


def test_a_mark_outside_the_frame_changes_nothing() -> None:
    picture = surface("rough")
    marks = [spot(1.5, 0.5)]
    found = apply_inpaint(picture, marks, plan_inpaint(picture, marks), Meaning.COLOR)
    np.testing.assert_array_equal(found, picture)


def test_large_light_goes_and_detail_stays() -> None:
    y, x = np.mgrid[0:SIDE, 0:SIDE] / SIDE
    light = (0.4 + 1.2 * np.exp(-((x - 0.2) ** 2 + (y - 0.3) ** 2) * 3))[:, :, None]
    flat = surface("rough")
    photo = (flat * light).astype(np.float32)

    def large(pixels: np.ndarray) -> np.ndarray:
        blurred = ndimage.gaussian_filter(np.log(luminance(pixels) + 1e-3), SIDE / 10)
        return blurred[16:-16, 16:-16]

    evened = delight(photo, strength=1.0, scale=0.1, wrap=False)
    assert large(evened).std() < 0.2 * large(photo).std()
    half = delight(photo, strength=0.5, scale=0.1, wrap=False)
    assert 0.4 < large(half).std() / large(photo).std() < 0.6
    np.testing.assert_array_equal(delight(photo, strength=0.0, scale=0.1, wrap=False), photo)

    def fine(pixels: np.ndarray) -> np.ndarray:
        logs = np.log(luminance(pixels) + 1e-3)
        return logs - ndimage.gaussian_filter(logs, 4)

    assert np.corrcoef(fine(evened).ravel(), fine(flat).ravel())[0, 1] > 0.98
    # Only lightness changes, no hue.
    np.testing.assert_allclose(evened[:, :, 0] / evened[:, :, 1], photo[:, :, 0] / photo[:, :, 1],
                               rtol=1e-4)  # fmt: skip
