"""Maps from a model against what can be worked out by hand."""

from __future__ import annotations

import numpy as np
import pytest

from copper_sieve.core.baking import BakeOptions, bake
from copper_sieve.core.image.raster import Float
from copper_sieve.core.mesh.mesh import Mesh, join_meshes
from tests.core.mesh.solids import ball, box, floor, patch, tube, wall

_SIDE = 64


def taken(mesh: Mesh, name: str, **options: object) -> Float:
    """One map of a model at 64 texels, (64, 64, C)."""
    given = {"width": _SIDE, "height": _SIDE, "samples": 1, "rays": 1024} | options
    return bake(mesh, [name], BakeOptions(**given)).maps[name]  # type: ignore[arg-type]


def places(size: float) -> tuple[Float, Float]:
    """x and z of a floor's texels, metres."""
    at = (np.arange(_SIDE) + 0.5) / _SIDE * size - size / 2
    return at[None, :], at[:, None]


def test_occlusion_under_a_sphere() -> None:
    """1 - H R^2 / d^3 for a horizontal point at distance d from a centre at height H."""
    mesh = join_meshes([floor(6.0), ball(0.5, (0, 0.8, 0), uv=None)])
    x, z = places(6.0)
    away = np.sqrt(x**2 + z**2 + 0.8**2)
    expected = 1 - 0.8 * 0.5**2 / away**3
    found = taken(mesh, "ambient_occlusion")[:, :, 0]
    assert np.abs(found - expected).max() <= 0.01
    # What lies beyond the reach does not count: nothing is nearer than 0.3 m.
    assert taken(mesh, "ambient_occlusion", max_distance=0.29).min() == 1


def test_occlusion_in_a_closed_and_in_an_open_box() -> None:
    closed = box((2.0, 1.0, 3.0), inwards=True)
    assert taken(closed, "ambient_occlusion").max() <= 0.001  # all of it, also along the edges
    bottom = floor(1.0, height=-0.5)
    sides = [wall((-0.5, -0.5, -0.5), (0, 0, 1.0), (0, 1.0, 0), None),
             wall((0.5, -0.5, 0.5), (0, 0, -1.0), (0, 1.0, 0), None),
             wall((-0.5, -0.5, 0.5), (1.0, 0, 0), (0, 1.0, 0), None),
             wall((0.5, -0.5, -0.5), (-1.0, 0, 0), (0, 1.0, 0), None)]  # fmt: skip
    found = taken(join_meshes([bottom, *sides]), "ambient_occlusion")[:, :, 0]

    # The form factor of a rectangle a x b above a corner, at height c (Siegel and Howell, 1992).
    def corner(a: Float, b: Float) -> Float:
        p, q = np.sqrt(1 + a * a), np.sqrt(1 + b * b)
        return (a / p * np.arctan(b / p) + b / q * np.arctan(a / q)) / (2 * np.pi)

    x, z = places(1.0)
    expected = sum(corner(0.5 + s * x, 0.5 + t * z) for s in (-1, 1) for t in (-1, 1))
    assert np.abs(found - expected).max() <= 0.01


@pytest.mark.parametrize("degrees", [60, 90, 120])
def test_occlusion_of_a_crease(degrees: float) -> None:
    """(1 - cos) / 2 of the angle between two wide planes, however near to the edge."""
    angle = np.radians(degrees)
    slope = np.array([np.cos(angle), np.sin(angle), 0]) * 400.0
    mesh = join_meshes([
        patch(lambda u, v: (np.stack([0.1 + u, 0 * u, v - 0.5], -1), np.array([0.0, 1, 0])), 1, 1),
        wall((0.0, 0, -200.0), (0, 0, 400.0), slope, None),
    ])  # fmt: skip
    found = taken(mesh, "ambient_occlusion", samples=4)
    assert np.abs(found - (1 - np.cos(angle)) / 2).max() <= 0.01


def test_a_ground_shades_from_below_and_a_part_alone_only_by_itself() -> None:
    tall = wall((-0.5, 0, 0), (1.0, 0, 0), (0, 1.0, 0))
    assert taken(tall, "ambient_occlusion").min() == 1
    on_ground = taken(tall, "ambient_occlusion", ground_plane=True)
    assert np.abs(on_ground - 0.5).max() <= 0.01  # of a wall on an endless floor
    roofed = join_meshes([floor(2.0), ball(0.5, (0, 0.6, 0), uv=None)])
    assert taken(roofed, "ambient_occlusion").min() < 0.5
    assert taken(roofed, "ambient_occlusion", isolate_parts=True).min() == 1


def test_the_bent_normal_leans_away_from_a_wall() -> None:
    """Along a wall to the left the mean direction of what is open leans to the right by x."""
    mesh = join_meshes([
        patch(lambda u, v: (np.stack([0.1 + u, 0 * u, v - 0.5], -1), np.array([0.0, 1, 0])), 1, 1),
        wall((0.0, 0, -200.0), (0, 0, 400.0), (0, 400.0, 0), None),
    ])  # fmt: skip
    found = taken(mesh, "bent_normal")
    # Over the open quarter: mean x = 4 / (3 pi), mean z = 2 / 3 of the cosine lobe.
    lean = np.degrees(np.arctan2(found[..., 0], found[..., 2]))
    assert np.abs(lean - np.degrees(np.arctan2(4 / (3 * np.pi), 2 / 3))).max() <= 0.6
    assert np.abs(found[..., 1]).max() <= 0.02


@pytest.mark.parametrize("max_thickness", [0.05, 0.2])
def test_thickness_of_a_slab_and_of_a_sphere(max_thickness: float) -> None:
    slab = join_meshes(
        [
            floor(1.0, height=max_thickness),
            wall((-50.0, 0, -50), (100.0, 0, 0), (0, 0, 100.0), None),
        ]
    )
    found = taken(slab, "thickness", max_thickness=0.5, rays=256)
    assert np.abs(found * 0.5 - max_thickness).max() <= 1e-3
    # Chords of a sphere at an angle a: 2 R cos a, along the normal 2 R cos^2 a; mean R.
    sphere = taken(ball(0.4), "thickness", max_thickness=1.0, rays=256)
    assert np.abs(sphere[8:-8].mean() - 0.4) <= 0.004


@pytest.mark.parametrize("radius", [0.3, 2.0])
def test_curvature_of_a_sphere_and_a_tube(radius: float) -> None:
    for mesh, mean in ((ball(radius), 1 / radius), (tube(radius, radius), 0.5 / radius)):
        stored = taken(mesh, "curvature", edge_radius=radius / 2, edge_width=radius / 100)[8:-8]
        found = (stored - 0.5) * 2 / (radius / 2)
        assert np.abs(found / mean - 1).max() <= 0.03
    inside = ball(radius)
    hollow = Mesh(inside.positions[:, ::-1], -inside.normals[:, ::-1], (inside.uvs[0][:, ::-1],),
                  inside.materials, inside.parts, ("m",), ("p",))  # fmt: skip
    stored = taken(hollow, "curvature", edge_radius=radius / 2, edge_width=radius / 100)[8:-8]
    assert np.abs((stored - 0.5) * 4 + 1).max() <= 0.03


def test_curvature_of_a_hard_edge_fades_over_its_width() -> None:
    """A right angle outwards: at the edge pi / 2 over twice the width, falling evenly to none."""
    stored = taken(box((1.0, 1.0, 1.0)), "curvature", width=768, height=512, edge_radius=0.05,
                   edge_width=0.1)[:, :, 0]  # fmt: skip
    row = stored[128, 8:248]  # across the first side, its middle
    away = np.minimum(np.arange(240) + 0.5, 240 - np.arange(240) - 0.5) / (256 - 15.36) * 1.0
    expected = 0.5 + 0.5 * np.clip(np.pi / 4 / 0.1 * (1 - away / 0.1), 0, None) * 0.05
    assert np.abs(row - expected).max() <= 0.02
    dents = taken(box((1.0, 1.0, 1.0), inwards=True), "curvature", edge_radius=0.05, edge_width=0.1)
    assert dents.max() == 0.5 and dents.min() < 0.35


def test_place_and_direction() -> None:
    mesh = box((2.0, 1.0, 1.0))
    place = taken(mesh, "position", width=96)
    front = place[4:28, 4:28]  # the side z = +0.5, u along x from -1 to 1, v down
    assert np.allclose(front[:, :, 2], 0.75, atol=1e-5)
    assert np.allclose(front[:, :, 0].mean(), 0.5, atol=0.01)
    assert (np.diff(front[:, 0, 1]) < 0).all()  # upwards is against the rows
    assert np.allclose(taken(mesh, "world_normal", width=96)[8, 8], [0.5, 0.5, 1.0])
