"""Pictures of a camera that did not stand still, and pictures that do not belong."""

from __future__ import annotations

from dataclasses import replace

import numpy as np
import pytest

from copper_sieve.core.errors import MeasureError
from copper_sieve.core.image.raster import Float
from copper_sieve.core.measuring.measure import measure
from copper_sieve.core.measuring.registration import register
from copper_sieve.core.measuring.stack import Capture, CaptureStack, Placement
from copper_sieve.demo import lamp_pictures as drawn
from tests.core.measuring.test_measuring import LAMPS, SIZE, angle


def moved_about(rng: np.random.Generator, count: int = 8) -> list[Placement]:
    """Within a texel and a half, and a third of a degree."""
    return [Placement(*rng.uniform(-1.5, 1.5, 2), rng.uniform(-0.3, 0.3)) for _ in range(count)]


def apart(found: list[Placement], true: list[Placement], side: int) -> Float:
    """(N,) texels by which pictures are off on average, wherever all of them lie together."""
    middle = (side - 1) / 2
    x, y = np.meshgrid(np.arange(side) - middle, np.arange(side) - middle)
    off = np.array([
        np.subtract(one.places(x, y), other.places(x, y))
        for one, other in zip(found, true, strict=True)
    ])  # fmt: skip
    off -= off.mean(0)
    return np.asarray(np.hypot(off[:, 0], off[:, 1]).mean((1, 2)))


def shots_of(
    kind: str, placements: list[Placement], size: int = SIZE
) -> tuple[list[Capture], float]:
    rng = np.random.default_rng(7)
    true = drawn.SURFACES[kind](size, rng)
    pictures, exposure = drawn.pictures_of(
        true, LAMPS, rng, whole_colors=kind == "painted", placements=placements
    )
    return [Capture(one, lamp) for one, lamp in zip(pictures, LAMPS, strict=True)], exposure


@pytest.mark.parametrize("kind", drawn.SURFACES)
def test_what_moved_is_lined_up(kind: str) -> None:
    true = moved_about(np.random.default_rng(21))
    captures, exposure = shots_of(kind, true)
    found = register(CaptureStack(captures, exposure))
    assert apart([Placement()] * 8, true, SIZE).mean() > 0.8
    assert apart(list(found.placements), true, SIZE).mean() <= 0.1
    assert found.strangers == () and found.after < 0.7 * found.before


def test_a_surface_is_measured_as_if_nothing_had_moved() -> None:
    true = moved_about(np.random.default_rng(3))
    captures, exposure = shots_of("pebbles", true)
    surface = drawn.pebbles(SIZE, np.random.default_rng(7))
    found = measure(captures, white=exposure, distant=True)
    inner = slice(8, -8)  # borders are not in all pictures
    # The surface lies where the pictures lie in the mean.
    away = np.mean([(one.right, one.down) for one in true], axis=0)
    normal = drawn.displaced(surface.normal, Placement(*away))
    off = angle(found.normal, normal / np.linalg.norm(normal, axis=-1, keepdims=True))
    assert off[inner, inner].mean() <= 2
    assert any("the camera moved by up to" in one for one in found.remarks)
    as_they_are = measure(captures, white=exposure, static_camera=True, distant=True)
    assert angle(as_they_are.normal, normal)[inner, inner].mean() > 1.5 * off[inner, inner].mean()
    assert as_they_are.placements == (Placement(),) * 8


def test_pictures_that_lie_well_stay_where_they_are() -> None:
    captures, exposure = shots_of("plaster", [Placement()] * 8)
    found = register(CaptureStack(captures, exposure))
    assert apart(list(found.placements), [Placement()] * 8, SIZE).max() < 0.05


@pytest.mark.parametrize(("kind", "times"), [("pebbles", 4.0), ("wood", 1.0)])
def test_large_pictures_are_lined_up_at_several_sizes(kind: str, times: float) -> None:
    """Large moves are told by small pictures, others by parts of the large ones alone."""
    size, rng = 480, np.random.default_rng(5)
    true = [
        replace(one, right=times * one.right, rotation=0.3 * one.rotation)
        for one in moved_about(rng)
    ]
    captures, exposure = shots_of(kind, true, size)
    found = register(CaptureStack(captures, exposure))
    assert apart([Placement()] * 8, true, size).mean() > 0.7 * times
    assert apart(list(found.placements), true, size).mean() <= 0.1


@pytest.mark.parametrize("kind", ["cloth", "leather"])
def test_a_picture_of_something_else_is_left_out_and_told(kind: str) -> None:
    captures, exposure = shots_of(kind, moved_about(np.random.default_rng(2)))
    rng = np.random.default_rng(99)
    other = drawn.pictures_of(drawn.pebbles(SIZE, rng), LAMPS[2:3], rng)[0][0]
    captures[2] = Capture(other, LAMPS[2])
    found = measure(captures, white=exposure, distant=True)
    assert found.left_out == (2,)
    assert any("Picture 3 was excluded" in one for one in found.remarks)


def test_pictures_of_different_things_are_refused() -> None:
    captures = []
    for n, (kind, lamp) in enumerate(zip(drawn.SURFACES, LAMPS, strict=True)):
        rng = np.random.default_rng(n)
        captures.append(Capture(drawn.pictures_of(drawn.SURFACES[kind](SIZE, rng), [lamp],
        rng)[0][0],
                          lamp))  # fmt: skip
    with pytest.raises(MeasureError, match="show the same surface"):
        measure(captures, distant=True)
