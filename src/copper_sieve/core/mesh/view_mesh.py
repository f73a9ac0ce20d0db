"""A model for display: shared vertices, triangles by material, island borders."""

from __future__ import annotations

from collections.abc import Callable
from dataclasses import dataclass

import numpy as np
from numpy.typing import NDArray

from copper_sieve.core.image.raster import Float
from copper_sieve.core.mesh.islands import island_borders
from copper_sieve.core.mesh.mesh import Mesh
from copper_sieve.core.mesh.tangents import tangents_of
from copper_sieve.core.mesh.welding import weld_vertices


@dataclass(frozen=True, slots=True)
class MaterialGroup:
    """Triangles of one material.

    first, count : range of triangles
    first_border, borders : range of island border segments
    """

    name: str
    first: int
    count: int
    first_border: int
    borders: int


@dataclass(frozen=True, slots=True)
class ViewMesh:
    """V vertices and T triangles.

    positions, normals : (V, 3) float32, meters and unit vectors
    uvs : (V, 2) float32, v down
    tangents : (V, 4) float32, MikkTSpace; zero without UVs
    corners : (T, 3) uint32, sorted by material
    borders : (B, 4) float32, u, v to u, v along island borders
    low, high : (3,) float32, bounds
    """

    positions: Float
    normals: Float
    uvs: Float
    tangents: Float
    corners: NDArray[np.uint32]
    borders: Float
    groups: tuple[MaterialGroup, ...]
    low: Float
    high: Float


def view_mesh(
    mesh: Mesh, uv_set: int = 0, on_progress: Callable[[float, str], None] = lambda *_: None
) -> ViewMesh:
    """Prepare a model for display with one UV set.

    Vertices are shared where position, normal, UV and tangent are equal.

    Parameters
    ----------
    mesh : triangles
    uv_set : number of the UV set, from 0
    on_progress : called before each step with the completed share, [0, 1], and its name

    Raises
    ------
    MeshError : if tangents can't be computed
    """
    order = np.argsort(mesh.materials, kind="stable").astype(np.int64)
    some = mesh.chosen(order)
    has_uvs = uv_set < len(mesh.uvs)
    uvs = some.uvs[uv_set] if has_uvs else np.zeros((some.count, 3, 2), np.float32)
    on_progress(0.05, "Computing tangents")
    tangents = tangents_of(some, uv_set) if has_uvs else np.zeros((some.count, 3, 4), np.float32)
    on_progress(0.75, "Merging equal vertices")
    found = weld_vertices(some.positions, some.normals, uvs, tangents)
    firsts = np.zeros(int(found.max()) + 1, dtype=np.int64)
    firsts[found[::-1]] = np.arange(len(found))[::-1]
    on_progress(0.9, "Finding UV island borders")
    borders, groups = _groups(some, uvs, island_borders(some, uv_set) if has_uvs else None)
    low, high = mesh.bounds()
    return ViewMesh(
        some.positions.reshape(-1, 3)[firsts],
        some.normals.reshape(-1, 3)[firsts],
        uvs.reshape(-1, 2)[firsts],
        tangents.reshape(-1, 4)[firsts],
        found.reshape(-1, 3).astype(np.uint32),
        borders,
        groups,
        low,
        high,
    )


def _groups(
    some: Mesh, uvs: Float, sides: NDArray[np.int64] | None
) -> tuple[Float, tuple[MaterialGroup, ...]]:
    ends = np.zeros((0, 4), np.float32)
    of = np.zeros(0, np.int32)
    if sides is not None:
        following = np.roll(uvs, -1, axis=1).reshape(-1, 2)
        ends = np.concatenate([uvs.reshape(-1, 2)[sides], following[sides]], axis=1)
        of = some.materials[sides // 3]
    groups = []
    for n, name in enumerate(some.material_names):
        first, last = np.searchsorted(some.materials, [n, n + 1])
        begin, end = np.searchsorted(of, [n, n + 1])
        if last > first:
            groups.append(MaterialGroup(name, int(first), int(last - first), int(begin),
                                        int(end - begin)))  # fmt: skip
    return np.ascontiguousarray(ends, dtype=np.float32), tuple(groups)
