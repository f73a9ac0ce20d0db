"""Tangents against the published definition, worked out plainly, and against values by hand.

Mikkelsen, "Simulation of wrinkled surfaces revisited", 2008, and what its reference program does:
a corner takes the directions of u of the triangles around its vertex that hang together by
shared sides and have UVs of the same turn, each laid into the plane of the vertex's normal and
weighted by its angle there.
"""

from __future__ import annotations

from collections.abc import Callable
from dataclasses import replace

import numpy as np
import pytest

from copper_sieve.core.errors import MeshError
from copper_sieve.core.image.raster import Float
from copper_sieve.core.mesh.mesh import Mesh, smooth_normals
from copper_sieve.core.mesh.tangents import tangents_of
from tests.core.mesh.solids import ball, box, floor, patch, tube


def _laid(vector: Float, normal: Float) -> Float:
    flat = vector - normal * (vector @ normal)
    return flat / max(float(np.linalg.norm(flat)), 1e-30)


def by_definition(mesh: Mesh) -> Float:
    """(T, 3, 4) float64; no triangle may be without area, in space or in UV."""
    uv = np.stack([mesh.uvs[0][..., 0], 1 - mesh.uvs[0][..., 1]], -1).astype(float)
    p, n = mesh.positions.astype(float), mesh.normals.astype(float)
    rows = np.concatenate([mesh.positions, mesh.normals, mesh.uvs[0]], 2).reshape(-1, 8) + 0.0
    vertex = np.unique(rows, axis=0, return_inverse=True)[1].reshape(-1, 3)
    d1, d2 = p[:, 1] - p[:, 0], p[:, 2] - p[:, 0]
    t1, t2 = uv[:, 1] - uv[:, 0], uv[:, 2] - uv[:, 0]
    turn = np.sign(t1[:, 0] * t2[:, 1] - t1[:, 1] * t2[:, 0])
    along = turn[:, None] * (t2[:, 1:] * d1 - t1[:, 1:] * d2)
    around: dict[int, list[tuple[int, int]]] = {}
    for t, corners in enumerate(vertex):
        for k, one in enumerate(corners):
            around.setdefault(int(one), []).append((t, k))
    found = np.zeros((mesh.count, 3, 4))
    for corners in around.values():
        for t, k in corners:
            found[t, k, 3] = turn[t]
            total = np.zeros(3)
            for s, j in _together((t, k), corners, vertex, turn):
                sides = [_laid(p[s, (j + step) % 3] - p[s, j], n[s, j]) for step in (1, 2)]
                angle = np.arccos(np.clip(sides[0] @ sides[1], -1, 1))
                total += angle * _laid(along[s], n[s, j])
            found[t, k, :3] = total / max(float(np.linalg.norm(total)), 1e-30)
    return found


def _together(
    start: tuple[int, int], corners: list[tuple[int, int]], vertex: Float, turn: Float
) -> list[tuple[int, int]]:
    """The corners at one vertex whose triangles hang together, UVs turning alike."""
    group, left = [start], [one for one in corners if one != start]
    for t, k in group:
        ends = {int(vertex[t, (k + 1) % 3]), int(vertex[t, (k + 2) % 3])}
        near = [(s, j) for s, j in left if turn[s] == turn[t]
                and ends & {int(vertex[s, (j + 1) % 3]), int(vertex[s, (j + 2) % 3])}]  # fmt: skip
        group += near
        left = [one for one in left if one not in near]
    return group


def bowl(across: int = 7, down: int = 5) -> Mesh:
    """A bent, unevenly unwrapped sheet."""

    def surface(u: Float, v: Float) -> tuple[Float, Float]:
        x, z = u - 0.5, v - 0.5
        normals = np.stack([-1.6 * x, np.ones_like(u), -0.8 * z], -1)
        places = np.stack([x, 0.8 * x * x + 0.4 * z * z, z], -1)
        return places, normals / np.linalg.norm(normals, axis=-1, keepdims=True)

    mesh = patch(surface, across, down)
    uv = mesh.uvs[0]
    bent = np.stack([uv[..., 0] ** 1.4, uv[..., 1] + 0.2 * np.sin(3 * uv[..., 0])], -1)
    return replace(mesh, uvs=(bent.astype(np.float32),))


def folded(mesh: Mesh) -> Mesh:
    """UVs mirrored about the middle: both halves lie over each other and share their seam."""
    uv = mesh.uvs[0].copy()
    uv[..., 0] = 0.5 - np.abs(uv[..., 0] - 0.5)
    return replace(mesh, uvs=(uv,))


def turned(mesh: Mesh) -> Mesh:
    """The island turned by 30 degrees and made smaller."""
    c, s = np.cos(np.pi / 6), np.sin(np.pi / 6)
    uv = (mesh.uvs[0] - 0.5) @ np.array([[c, -s], [s, c]]) * 0.6 + 0.5
    return replace(mesh, uvs=(uv.astype(np.float32),))


def loose() -> Mesh:
    """Forty triangles that nothing joins."""
    rng = np.random.default_rng(5)
    places, uv = rng.normal(size=(40, 3, 3)), rng.random((40, 3, 2))
    none = np.zeros(40, dtype=np.int32)
    normals = rng.normal(size=(40, 3, 3))
    normals /= np.linalg.norm(normals, axis=2, keepdims=True)
    return Mesh(places.astype(np.float32), normals.astype(np.float32), (uv.astype(np.float32),),
                none, none, ("m",), ("p",))  # fmt: skip


def softened(mesh: Mesh) -> Mesh:
    """Normals that go round every edge."""
    return replace(mesh, normals=smooth_normals(mesh.positions))


_KINDS: dict[str, Callable[[], Mesh]] = {
    "plane": lambda: floor(2.0, 3),
    "box with hard edges": lambda: box((1, 2, 3)),
    "box with soft normals": lambda: softened(box((1, 2, 3))),
    "tube with a seam": lambda: tube(0.4, 1.0, 12),
    "ball without its poles": lambda: _without_poles(ball(1.0, rings=8)),
    "bowl": bowl,
    "folded bowl": lambda: folded(bowl(8)),
    "turned and small": lambda: turned(bowl()),
    "loose triangles": loose,
    "a torn sheet": lambda: bowl().chosen(np.arange(70) % 3 > 0),
}


def _without_poles(mesh: Mesh) -> Mesh:
    v = mesh.uvs[0][..., 1]
    return mesh.chosen((v.min(1) > 0.2) & (v.max(1) < 0.8))


@pytest.mark.parametrize("kind", _KINDS)
def test_they_follow_the_definition(kind: str) -> None:
    mesh = _KINDS[kind]()
    found, wanted = tangents_of(mesh).astype(float), by_definition(mesh)
    assert np.array_equal(found[..., 3], wanted[..., 3])
    clear = np.linalg.norm(wanted[..., :3], axis=2) > 0.5
    assert ((found[..., :3] * wanted[..., :3]).sum(2)[clear] > 0).all()
    across = np.linalg.norm(np.cross(found[..., :3], wanted[..., :3]), axis=2)[clear]
    assert np.degrees(np.arcsin(across)).max() <= 0.01


def test_signs_by_hand() -> None:
    """On a floor u goes along x and the picture's top towards -z: T = +x, and N x T = -z is up."""
    found = tangents_of(floor(1.0))
    assert np.allclose(found, [1, 0, 0, 1], atol=1e-6)
    mirrored = floor(1.0)
    uv = mirrored.uvs[0] * np.float32([-1, 1]) + np.float32([1, 0])
    assert np.allclose(tangents_of(replace(mirrored, uvs=(uv,))), [-1, 0, 0, -1], atol=1e-6)


def test_awkward_triangles_get_numbers() -> None:
    """Poles, triangles without area in space or in UV: unit vectors all the same."""
    flat = bowl()
    uv = flat.uvs[0].copy()
    uv[3] = uv[3, :1]
    places = flat.positions.copy()
    places[5] = places[5, :1]
    for mesh in (ball(1.0, rings=6), replace(flat, uvs=(uv,)), replace(flat, positions=places)):
        found = tangents_of(mesh)
        assert np.isfinite(found).all() and np.isin(found[..., 3], [-1, 1]).all()
        assert np.allclose(np.linalg.norm(found[..., :3], axis=2), 1, atol=1e-4)


def test_a_uv_set_that_is_not_there_is_named() -> None:
    with pytest.raises(
        MeshError, match="computing tangents requires UV set 1, but the model has 1"
    ):
        tangents_of(floor(1.0), 1)
