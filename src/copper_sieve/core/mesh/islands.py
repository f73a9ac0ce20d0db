"""UV islands: connected triangles in UV space, and their texel density."""

from __future__ import annotations

from dataclasses import dataclass

import numpy as np
import scipy  # its parts are loaded when they are used
from numpy.typing import NDArray

from copper_sieve.core.image.raster import Float
from copper_sieve.core.mesh.mesh import Ids, Mesh
from copper_sieve.core.mesh.welding import weld_vertices


@dataclass(frozen=True, slots=True)
class Islands:
    """The islands of one UV set, I of them, the largest first.

    of : (T,) int32, island of each triangle
    counts : (I,) triangles
    turned : (I,) bool, True for mirrored islands
    shares : (I,) of the picture's area
    areas : (I,) square meters
    bounds : (I, 4) lowest u and v, highest u and v
    """

    of: Ids
    counts: Ids
    turned: NDArray[np.bool_]
    shares: Float
    areas: Float
    bounds: Float

    def densities(self, side: int) -> Float:
        """Return the texel density of each island, (I,) texels per meter; 0 without area.

        Parameters
        ----------
        side : texels per side of the picture
        """
        there = self.areas > 0
        return np.asarray(
            np.where(there, side * np.sqrt(self.shares / np.where(there, self.areas, 1)), 0),
            dtype=np.float32,
        )

    def middle_density(self, side: int) -> float:
        """Return the median texel density by area, in texels per meter; 0 without a surface."""
        found = self.densities(side)
        there = found > 0
        if not there.any():
            return 0.0
        order = np.argsort(found[there])
        weights = np.cumsum(self.areas[there][order])
        return float(found[there][order][np.searchsorted(weights, weights[-1] / 2)])


def find_islands(mesh: Mesh, uv_set: int = 0) -> Islands:
    """Find UV islands: groups of triangles that share sides in space and in UV."""
    uv = mesh.uvs[uv_set]
    order, same = _sides(mesh, uv)
    one, other = order[:-1][same] // 3, order[1:][same] // 3
    links = scipy.sparse.coo_array(
        (np.ones(len(one), bool), (one, other)), shape=(mesh.count, mesh.count)
    )
    count, found = scipy.sparse.csgraph.connected_components(links, directed=False)
    turns = signed_uv_areas(uv)
    shares = np.bincount(found, np.abs(turns), count)
    rank = np.argsort(-shares, kind="stable")
    place = np.empty(count, dtype=np.int32)
    place[rank] = np.arange(count, dtype=np.int32)
    of = place[found]
    return Islands(
        of,
        np.bincount(of, minlength=count).astype(np.int32),
        np.bincount(of, turns, count) < 0,
        shares[rank].astype(np.float32),
        np.bincount(of, surface_areas(mesh), count).astype(np.float32),
        _bounds(uv, of, count),
    )


def island_borders(mesh: Mesh, uv_set: int = 0) -> NDArray[np.int64]:
    """Return the sides (3 * triangle + side) that aren't shared in space and in UV."""
    order, same = _sides(mesh, mesh.uvs[uv_set])
    shared = np.append(False, same) | np.append(same, False)
    return np.sort(order[~shared])


def _sides(mesh: Mesh, uv: Float) -> tuple[NDArray[np.int64], NDArray[np.bool_]]:
    """Return all sides sorted so that equal ones are adjacent, and which equal the previous one."""
    corners = weld_vertices(mesh.positions, uv).reshape(-1, 3)
    start, end = corners.ravel(), np.roll(corners, -1, axis=1).ravel()
    low, high = np.minimum(start, end), np.maximum(start, end)
    order = np.lexsort((high, low))
    same = (low[order[1:]] == low[order[:-1]]) & (high[order[1:]] == high[order[:-1]])
    return order, same


def _bounds(uv: Float, of: Ids, count: int) -> Float:
    found = np.empty((count, 4), dtype=np.float32)
    order = np.argsort(of, kind="stable")
    starts = np.flatnonzero(np.diff(of[order], prepend=-1))
    found[:, :2] = np.minimum.reduceat(uv[order].min(1), starts)
    found[:, 2:] = np.maximum.reduceat(uv[order].max(1), starts)
    return found


def signed_uv_areas(uv: Float) -> NDArray[np.float64]:
    """Return the UV area of each triangle, (T,); negative for mirrored triangles (v is down)."""
    places = uv.astype(np.float64)
    a, b = places[:, 1] - places[:, 0], places[:, 2] - places[:, 0]
    return np.asarray((a[:, 1] * b[:, 0] - a[:, 0] * b[:, 1]) / 2)


def surface_areas(mesh: Mesh) -> NDArray[np.float64]:
    """Return the area of each triangle, (T,) square meters."""
    places = mesh.positions.astype(np.float64)
    across = np.cross(places[:, 1] - places[:, 0], places[:, 2] - places[:, 0])
    return np.asarray(np.linalg.norm(across, axis=1) / 2)
