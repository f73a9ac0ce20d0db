"""Stills of models: what is seen where, and lit as the flat shader lights it."""

from __future__ import annotations

import numpy as np

from copper_sieve.core.image.map_kind import MapKind
from copper_sieve.core.lighting.shading import LAMPS, Material, shade
from copper_sieve.core.lighting.still import Camera, Lighting, render_still
from tests.core.mesh.solids import ball, floor

_FRONT = Camera((0.0, 0.0, 4.6))
_COPPER = {
    MapKind.BASE_COLOR: np.full((4, 4, 3), (0.7, 0.4, 0.2), np.float32),
    MapKind.METALLIC: np.ones((4, 4, 1), np.float32),
    MapKind.ROUGHNESS: np.full((4, 4, 1), 0.4, np.float32),
}


def test_a_ball_is_as_large_as_it_must_be_and_lit_as_a_flat_piece() -> None:
    globe = ball(0.5, rings=96)
    light, covered = render_still(
        globe, {"material": _COPPER}, _FRONT, 128, 96, Lighting(LAMPS, turned=True)
    )
    # The bounds' half diagonal is 1.3 units: the ball's radius 1.3 / sqrt(3), seen from 4.6.
    radius = 1.3 / np.sqrt(3)
    seen = radius / np.sqrt(4.6**2 - radius**2) / np.tan(np.radians(15)) * 48  # texels
    assert abs(covered.sum() / (np.pi * seen**2) - 1) < 0.01
    flat = Material.of(
        {**{kind: one[:1, :1] for kind, one in _COPPER.items()},
         MapKind.NORMAL: np.array([[[0, 0, 1]]], np.float32)}, 0.04,
    )  # fmt: skip
    middle = light[46:50, 62:66].mean((0, 1))
    assert np.allclose(middle, shade(flat, LAMPS)[0, 0], rtol=0.03)
    assert not light[covered[..., 0] == 0].any()


def test_normals_are_bent_in_the_models_tangent_space() -> None:
    """The floor's u goes along its x: bent towards +u, it is lit as if it were tilted so."""
    ground = floor(1.0)
    tilt = np.radians(25)
    bent = np.array([np.sin(tilt), 0, np.cos(tilt)], np.float32)
    maps = {**_COPPER, MapKind.NORMAL: np.tile(bent, (4, 4, 1))}
    above = Camera((0.0, 4.0, 0.8))
    lamp = Lighting((((np.sin(2 * tilt), np.cos(2 * tilt), 0.0), 2.0),), sky=0.0)
    plain, _ = render_still(ground, {"material": _COPPER}, above, 32, 32, lamp)
    lit, covered = render_still(ground, {"material": maps}, above, 32, 32, lamp)
    inside = covered[..., 0] == 1
    assert lit[inside].mean() > 2 * plain[inside].mean()  # it mirrors the lamp to the eye
    away, _ = render_still(
        ground, {"material": {**maps, MapKind.NORMAL: maps[MapKind.NORMAL] * [-1, 1, 1]}}, above,
        32, 32, lamp,
    )  # fmt: skip
    assert away[inside].mean() < plain[inside].mean()


def test_each_material_wears_its_own_and_is_repeated_beyond_its_square() -> None:
    halves = np.zeros((8, 8, 3), np.float32)
    halves[:, 4:] = 1
    wide = floor(1.0, pieces=8, uv=(0.0, 0.0, 2.0, 1.0))
    maps = {"material": {MapKind.BASE_COLOR: halves}}
    light, covered = render_still(wide, maps, Camera((0.0, 4.6, 0.01)), 64, 64, Lighting(sky=1.0))
    row = light[32][covered[32, :, 0] == 1, 0]
    changes = int((np.abs(np.diff(row > row.mean())) > 0).sum())
    assert changes == 3  # dark, light, dark, light
    bare, _ = render_still(wide, {}, Camera((0.0, 4.6, 0.01)), 64, 64, Lighting(sky=1.0))
    assert bare[32][covered[32, :, 0] == 1].std(axis=0).max() < 1e-3
