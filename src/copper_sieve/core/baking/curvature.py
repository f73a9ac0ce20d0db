"""Mean curvature of a model: of its smooth surface, and of its hard edges spread over a width."""

from __future__ import annotations

from dataclasses import dataclass

import numpy as np
import scipy  # its parts are loaded when they are used

from copper_sieve.core.image.raster import Float
from copper_sieve.core.mesh.edges import adjacent_sides, turns_of
from copper_sieve.core.mesh.mesh import Mesh, corner_angles
from copper_sieve.core.mesh.welding import sum_by_index, weld_vertices

_HARD = np.cos(np.radians(2.0))  # normals of one edge that differ by less are one
_PIECES = 4  # of an edge to one width, so that the nearest piece is nearly the nearest point
_MOST_PIECES = 4_000_000
_MOST_NEAR = 8  # pieces that are looked at around a point
_AT_ONCE = 1 << 16  # triangles


@dataclass(frozen=True, slots=True)
class HardEdges:
    """Hard edges as sample points along them.

    places : k-d tree of P points
    turns : (P,) dihedral angle in radians, convex positive
    """

    places: scipy.spatial.cKDTree
    turns: Float


def smooth_curvature(mesh: Mesh) -> Float:
    """Return the mean curvature at each corner; 1 / R on a sphere of radius R.

    From the change of the normals along each triangle's sides, by least squares (Rusinkiewicz
    2004), averaged over the triangles that share position and normal.

    Returns
    -------
    (T, 3, 1) float32, 1 / meters
    """
    own = np.empty(mesh.count, dtype=np.float32)
    for start in range(0, mesh.count, _AT_ONCE):
        some = slice(start, start + _AT_ONCE)
        own[some] = _by_normals(mesh.positions[some], mesh.normals[some])
    corners = weld_vertices(mesh.positions, mesh.normals)
    share = corner_angles(mesh.positions).reshape(-1, 1)
    summed = sum_by_index(
        np.concatenate([share * np.repeat(own, 3)[:, None], share], axis=1), corners
    )
    mean = summed[:, :1] / np.maximum(summed[:, 1:], 1e-12)
    return np.asarray(mean[corners].reshape(-1, 3, 1), dtype=np.float32)


def _by_normals(positions: Float, normals: Float) -> Float:
    """Return the curvature of each triangle, (T,) float64; 0 for triangles without area."""
    places = positions.astype(np.float64)
    sides = np.roll(places, -1, axis=1) - places
    changes = np.roll(normals.astype(np.float64), -1, axis=1) - normals
    length = np.linalg.norm(sides[:, 0], axis=1)
    plane = np.cross(sides[:, 0], -sides[:, 2])
    area = np.linalg.norm(plane, axis=1)
    whole = (length >= 1e-20) & (area >= 1e-30)
    u = sides[:, 0] / np.where(whole, length, 1)[:, None]
    v = np.cross(plane / np.where(whole, area, 1)[:, None], u)
    du, dv = np.einsum("tkc,tc->tk", sides, u), np.einsum("tkc,tc->tk", sides, v)
    nu, nv = np.einsum("tkc,tc->tk", changes, u), np.einsum("tkc,tc->tk", changes, v)
    # Six equations for e, f, g of the second form: dn . u = e du + f dv, dn . v = f du + g dv.
    uu, uv, vv = (du * du).sum(1), (du * dv).sum(1), (dv * dv).sum(1)
    right = (du * nu).sum(1), (dv * nu + du * nv).sum(1), (dv * nv).sum(1)
    # e + g of [uu uv 0; uv uu+vv uv; 0 uv vv] (e f g) = right, by Cramer's rule.
    both = uu + vv
    determinant = uu * (both * vv - uv * uv) - uv * uv * vv
    whole &= np.abs(determinant) > 1e-30 * np.maximum(1e-30, both**3)
    e = right[0] * (both * vv - uv * uv) - uv * (right[1] * vv - uv * right[2])
    g = uu * (both * right[2] - right[1] * uv) - uv * uv * right[2] + right[0] * uv * uv
    return np.where(whole, (e + g) / np.where(whole, determinant, 1) / 2, 0)


def hard_edges(mesh: Mesh, width: float) -> HardEdges | None:
    """Find edges with a discontinuity of the normals, cut into pieces of a quarter of `width`.

    Edges that several pairs of triangles share (non-manifold) are skipped.

    Parameters
    ----------
    mesh : triangles
    width : meters

    Returns
    -------
    HardEdges, or None if there are none
    """
    first, second, ends = adjacent_sides(mesh)
    if not len(first):
        return None
    turns = turns_of(mesh, first, second, ends)
    hard = np.abs(turns) > np.arccos(_HARD)
    ends, turns = ends[hard], turns[hard]
    lengths = np.linalg.norm(ends[:, 1] - ends[:, 0], axis=1)
    pieces = np.clip(np.ceil(lengths * _PIECES / width), 1, 10_000).astype(np.int64)
    if not len(pieces) or pieces.sum() > _MOST_PIECES:
        pieces = np.maximum(1, (pieces * (_MOST_PIECES / max(1, pieces.sum()))).astype(np.int64))
        if not len(pieces):
            return None
    which = np.repeat(np.arange(len(pieces)), pieces)
    nth = np.arange(len(which)) - np.repeat(np.cumsum(pieces) - pieces, pieces)
    along = ((nth + 0.5) / pieces[which])[:, None].astype(np.float32)
    points = ends[which, 0] * (1 - along) + ends[which, 1] * along
    return HardEdges(scipy.spatial.cKDTree(points), turns[which].astype(np.float32))


def near_edges(edges: HardEdges | None, points: Float, width: float) -> Float:
    """Return the mean curvature that hard edges add at points.

    An edge has half its dihedral angle as integrated mean curvature (Cohen-Steiner and Morvan
    2003); here it is spread over `width` on either side with linear falloff, so it is angle / (2
    width) at the edge. The strongest edge counts.

    Parameters
    ----------
    edges : from `hard_edges`
    points : (N, 3) float32
    width : meters

    Returns
    -------
    (N, 1) float32, 1 / meters
    """
    out = np.zeros((len(points), 1), dtype=np.float32)
    if edges is None:
        return out
    near = min(_MOST_NEAR, edges.places.n)
    away, which = edges.places.query(points, k=near, distance_upper_bound=width, workers=-1)
    away, which = away.reshape(len(points), near), which.reshape(len(points), near)
    there = np.isfinite(away)
    turns = np.where(there, edges.turns[np.minimum(which, edges.places.n - 1)], 0)
    strength = np.where(there, turns / 2 * (1 - np.where(there, away, 0) / width) / width, 0)
    strongest = np.abs(strength).argmax(1)
    out[:, 0] = strength[np.arange(len(points)), strongest]
    return out
