"""Curvature, cavity, bent normals, and height from shading, against fields that are known."""

from __future__ import annotations

import numpy as np
import pytest

from copper_sieve.core.operations import SurfaceContext
from tests.core.operating import TILE, angles, band_limited, grey, run


def _ball(side: int = 128, radius: float = 0.3) -> np.ndarray:
    """A cap of a sphere on a plane, (H, W, 1) in [0, 1], and flat beyond."""
    r, c = (np.mgrid[0:side, 0:side] + 0.5) / side - 0.5
    square = radius**2 - r**2 - c**2
    return (np.sqrt(np.maximum(square, 0)) / radius)[:, :, None].astype(np.float32)


def test_curvature_tells_bulges_from_hollows() -> None:
    ball = _ball()
    surface = SurfaceContext.of(1.0, 0.3, wrap=True)
    out = run("curvature_from_height", ball, surface, size=0.01)[:, :, 0]
    assert out[64, 64] > 0.52  # the top bulges
    assert out[4, 4] == pytest.approx(0.5, abs=1e-3)  # flat
    assert out[64, 64 - 39] < 0.3  # where it meets the plane it is hollow
    inverted = run("curvature_from_height", 1 - ball, surface, size=0.01)[:, :, 0]
    np.testing.assert_allclose(inverted + out, 1, atol=1e-4)
    convex = run("curvature_from_height", ball, surface, size=0.01, show="convex")[:, :, 0]
    concave = run("curvature_from_height", ball, surface, size=0.01, show="concave")[:, :, 0]
    np.testing.assert_allclose(convex - concave, 2 * out - 1, atol=1e-4)
    assert not np.logical_and(convex > 1e-3, concave > 1e-3).any()
    weaker = run("curvature_from_height", ball, surface, size=0.01, concave=0)[:, :, 0]
    assert weaker.min() >= 0.5 - 1e-6


def test_curvature_of_a_sphere_is_one_over_its_radius() -> None:
    # Near the top of a gentle cap of 10 m radius: mean curvature 0.1 per metre, times the size.
    side, size = 256, 0.02
    r, c = (np.mgrid[0:side, 0:side] + 0.5) / side - 0.5
    height = 0.9 - (r**2 + c**2) / 20 / 0.05
    surface = SurfaceContext.of(1.0, 0.05, wrap=False)
    out = run("curvature_from_height", height[:, :, None].astype(np.float32), surface, size=size)
    middle = np.arctanh((out[side // 2, side // 2, 0] - 0.5) * 2) / 4
    assert middle == pytest.approx(0.1 * size, rel=0.05)


def test_curvature_from_normals_agrees_with_that_from_height() -> None:
    height = band_limited(1, 256)[:, :, None]
    normals = run("normal_from_height", height)
    one = run("curvature_from_height", height, size=0.01).ravel()
    other = run("curvature_from_normal", normals, size=0.01).ravel()
    assert np.corrcoef(one, other)[0, 1] > 0.98


def test_cavity_is_dark_in_hollows_only() -> None:
    pit = np.full((128, 128, 1), 0.8, np.float32)
    pit[60:68, 60:68] = 0.2
    out = run("cavity_from_height", pit, size=0.02)[:, :, 0]
    assert out[64, 64] < 0.7
    assert out[10, 10] == pytest.approx(1, abs=1e-4)
    assert run("cavity_from_height", pit, size=0.02, edges=1)[56, 64, 0] > 0.5
    stronger = run("cavity_from_height", pit, size=0.02, intensity=3)[:, :, 0]
    assert stronger[64, 64] < out[64, 64]


def test_bent_normals_of_an_open_slope_are_its_normals() -> None:
    ramp = np.tile(np.linspace(0, 1, 64, dtype=np.float32), (64, 1))[:, :, None]
    surface = SurfaceContext.of(1.0, 0.5, wrap=False)
    bent = run("bent_normal_from_height", ramp, surface, quality="best", radius=0.02)
    normal = run("normal_from_height", ramp, surface)
    inside = (slice(24, 40), slice(24, 40))
    assert angles(bent[inside], normal[inside]).max() < 1.0


def test_bent_normals_lean_away_from_a_wall() -> None:
    wall = np.zeros((64, 64, 1), np.float32)
    wall[:, :16] = 1  # a wall on the left: the sky is open to the right
    bent = run(
        "bent_normal_from_height", wall, SurfaceContext.of(1.0, 0.2, wrap=False), radius=0.25
    )
    assert bent[32, 20, 0] > 0.2
    assert abs(bent[32, 20, 1]) < 0.02
    floor = np.swapaxes(wall, 0, 1).copy()  # the same above: open downwards, Y negative
    below = run(
        "bent_normal_from_height", floor, SurfaceContext.of(1.0, 0.2, wrap=False), radius=0.25
    )
    assert below[20, 32, 1] < -0.2


@pytest.mark.parametrize("azimuth", [0, 60, 135, 250])
def test_relief_is_read_from_lit_sides_under_hard_light(azimuth: float) -> None:
    side = 256
    height = band_limited(2, side)
    normals = run("normal_from_height", height[:, :, None], SurfaceContext.of(1.0, 0.04, wrap=True))
    a, up = np.radians(azimuth), np.radians(40)
    light = np.array([np.cos(up) * np.cos(a), np.cos(up) * np.sin(a), np.sin(up)])
    photo = grey(np.clip(normals @ light, 0, 1).astype(np.float32))
    even = {"evenness": 0, "detail": 1, "forms": 1}
    by_light = run("height_from_color", photo, TILE, **even)
    lit = run("height_from_color", photo, TILE, shading=1, light_from=azimuth, **even)
    right = [np.corrcoef(one[:, :, 0].ravel(), height.ravel())[0, 1] for one in (by_light, lit)]
    assert right[1] > 0.6 > abs(right[0])


def test_bands_of_height_from_color_add_up() -> None:
    picture = grey(np.exp(band_limited(3, 128)))
    names = ("forms", "shapes", "texture", "finest")
    plain = run("height_from_color", picture, detail=1, evenness=0, contrast=0.4)
    alone = {
        name: run("height_from_color", picture, detail=1, evenness=0, contrast=0.1,
                  **{other: 0 for other in names if other != name})
        for name in names
    }  # fmt: skip
    # Each band is stretched to the same spread: as a sum of the four with weights of its own the
    # whole is explained completely.
    columns = np.stack([one.ravel() - 0.5 for one in alone.values()], axis=1)
    weights, *_ = np.linalg.lstsq(columns, plain.ravel() - 0.5, rcond=None)
    assert np.abs(columns @ weights - (plain.ravel() - 0.5)).max() < 0.02
    assert (weights > 0).all()


def test_normals_straight_from_color_are_those_of_its_height() -> None:
    picture = grey(0.2 + 0.3 * band_limited(4, 64))
    height = run("height_from_color", picture, detail=0.8)
    np.testing.assert_allclose(
        run("normal_from_color", picture, detail=0.8, strength=2, grain=0.02),
        run("normal_from_height", height, strength=2, grain=0.02),
        atol=1e-6,
    )
