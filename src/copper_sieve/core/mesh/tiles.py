"""The UV tiles that a model uses; see `image.tile_layout`."""

from __future__ import annotations

from dataclasses import replace

import numpy as np

from copper_sieve.core.image.raster import Float
from copper_sieve.core.image.tile_layout import FIRST_TILE, LAST_TILE, TILES_ACROSS, TileLayout
from copper_sieve.core.mesh.mesh import Mesh
from copper_sieve.core.mesh.mesh_cache import cached_by_mesh


def tiles_of(uv: Float) -> list[int]:
    """Return the numbers of the tiles that contain the centers of triangles (T, 3, 2), v down."""
    squares = np.unique(np.floor(uv.mean(1)).astype(np.int64), axis=0)
    numbers = [
        FIRST_TILE + int(u) - TILES_ACROSS * int(v)
        for u, v in squares if 0 <= u < TILES_ACROSS and v <= 0
    ]  # fmt: skip
    return sorted(number for number in numbers if number <= LAST_TILE)


def on_tile_layout(mesh: Mesh, sheet: TileLayout) -> Mesh:
    """Return the mesh with UVs scaled to the whole sheet of a set with tiles, 0 to 1."""

    def moved(uv: Float) -> Float:
        return cached_by_mesh("on sheet", [uv], lambda: sheet.placed(uv), sheet.numbers)

    return replace(mesh, uvs=tuple(moved(uv) for uv in mesh.uvs))
