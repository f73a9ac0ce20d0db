"""Models generated from formulas: surfaces over a grid, with UVs, written as .glb."""

from __future__ import annotations

from collections.abc import Callable, Sequence
from pathlib import Path
from typing import Any

import numpy as np
from numpy.typing import NDArray

from copper_sieve.core.codecs.gltf_file import GltfFile
from copper_sieve.core.codecs.meshes.gltf_append import GrowingGltf
from copper_sieve.core.mesh.mesh import Mesh, face_normals
from copper_sieve.core.mesh.welding import weld_vertices

Grid = NDArray[np.float64]
Surface = Callable[[Grid, Grid], tuple[Grid, Grid]]  # u, v in [0, 1] to places and normals
Rect = tuple[float, float, float, float]  # u, v, width and height of an island
WHOLE: Rect = (0.0, 0.0, 1.0, 1.0)
NOWHERE: Rect = (-9.0, -9.0, 1.0, 1.0)
_STEP = 1e-5
_VERTICES, _INDICES = 34962, 34963


def patch(  # noqa: PLR0917
    surface: Surface,
    across: int,
    down: int,
    uv: Rect | None = WHOLE,
    part: str = "part",
    material: str = "material",
) -> Mesh:
    """Return a surface over a grid; its triangles are counterclockwise seen from its normals.

    across, down : subdivisions
    uv : position of its UV island, v down; None: outside the unit square
    """
    u, v = np.meshgrid(np.linspace(0, 1, across + 1), np.linspace(0, 1, down + 1))
    places, normals = (np.broadcast_to(one, (*u.shape, 3)).reshape(-1, 3) for one in surface(u, v))
    at = np.arange((across + 1) * (down + 1)).reshape(down + 1, across + 1)
    a, b, c, d = at[:-1, :-1].ravel(), at[:-1, 1:].ravel(), at[1:, :-1].ravel(), at[1:, 1:].ravel()
    corners = np.concatenate([np.stack([a, c, b], 1), np.stack([b, c, d], 1)])
    positions = places[corners].astype(np.float32)
    against = (face_normals(positions) * normals[corners].sum(1)).sum(1) < 0
    corners[against] = corners[against][:, [0, 2, 1]]
    first, second, third = (places[corners[:, n]] for n in range(3))
    area = np.linalg.norm(np.cross(second - first, third - first), axis=1)
    corners = corners[area > 1e-12]  # none where a pole is
    left, top, width, height = uv or NOWHERE
    own = np.stack([left + width * u.ravel(), top + height * v.ravel()], axis=1).astype(np.float32)
    none = np.zeros(len(corners), dtype=np.int32)
    return Mesh(
        places[corners].astype(np.float32), normals[corners].astype(np.float32), (own[corners],),
        none, none, (material,), (part,),
    )  # fmt: skip


def with_normals(places_at: Callable[[Grid, Grid], Grid]) -> Surface:
    """Add normals to a surface by finite differences of its positions; up is against v."""

    def surface(u: Grid, v: Grid) -> tuple[Grid, Grid]:
        inside = np.clip(v, _STEP, 1 - _STEP)
        along = places_at(u + _STEP, inside) - places_at(u - _STEP, inside)
        up = places_at(u, inside - _STEP) - places_at(u, inside + _STEP)
        across = np.cross(along, up)
        return places_at(u, v), across / np.linalg.norm(across, axis=-1, keepdims=True)

    return surface


def write_model(path: Path, meshes: Sequence[Mesh]) -> None:
    """Write a .glb with a node for each mesh, named after its part, and the materials."""
    names = list(dict.fromkeys(one.material_names[0] for one in meshes))
    start: dict[str, Any] = {
        "asset": {"version": "2.0", "generator": "Copper Sieve"},
        "scene": 0,
        "scenes": [{"nodes": list(range(len(meshes)))}],
        "nodes": [{"name": one.part_names[0], "mesh": n} for n, one in enumerate(meshes)],
        "materials": [{"name": name} for name in names],
        "meshes": [],
    }
    file = GrowingGltf(GltfFile(path, start, b""), path.name)
    for one in meshes:
        whose = weld_vertices(one.positions, one.normals, one.uvs[0])
        _, firsts = np.unique(whose, return_index=True)
        rows = [held.reshape(-1, held.shape[-1])[firsts]
                for held in (one.positions, one.normals, one.uvs[0])]  # fmt: skip
        low, high = (edge.tolist() for edge in (rows[0].min(0), rows[0].max(0)))
        attributes = {
            "POSITION": file.accessor(rows[0], target=_VERTICES, min=low, max=high),
            "NORMAL": file.accessor(rows[1], target=_VERTICES),
            "TEXCOORD_0": file.accessor(rows[2], target=_VERTICES),
        }
        order = whose.astype(np.uint32)[:, None]
        primitive = {
            "attributes": attributes,
            "indices": file.accessor(order, target=_INDICES),
            "material": names.index(one.material_names[0]),
        }
        entry = {"name": one.part_names[0], "primitives": [primitive]}
        file.document["meshes"].append(entry)
    path.write_bytes(file.written())
