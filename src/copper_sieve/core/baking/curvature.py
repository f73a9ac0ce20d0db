"""Mean curvature of a model: of its smooth surface, and of its hard edges spread over a width."""

from __future__ import annotations

from dataclasses import dataclass

import numpy as np
from numba import njit, prange
from numpy.typing import NDArray
from scipy.spatial import cKDTree

from copper_sieve.core.image.raster import Float
from copper_sieve.core.mesh.mesh import Mesh, corner_angles, face_normals
from copper_sieve.core.mesh.welding import sums, welded

_HARD = np.cos(np.radians(2.0))  # normals of one edge that differ by less are one
_PIECES = 4  # of an edge to one width, so that the nearest piece is nearly the nearest point
_MOST_PIECES = 4_000_000
_MOST_NEAR = 8  # pieces that are looked at around a point


@dataclass(frozen=True, slots=True)
class HardEdges:
    """Edges at which the surface turns at once, as points along them.

    places : a tree of P points; turns : (P,) radians by which it turns there, outwards positive
    """

    places: cKDTree
    turns: Float


def smooth_curvature(mesh: Mesh) -> Float:
    """Mean curvature at each corner, (T, 3, 1) float32, 1 / metres: 1 / R on a sphere of radius R.

    From the change of the normals along each triangle's sides, by least squares (Rusinkiewicz
    2004), averaged over the triangles that share a corner's place and normal.
    """
    own = np.empty(mesh.count, dtype=np.float32)
    _by_normals(mesh.positions, mesh.normals, own)
    corners = welded(mesh.positions, mesh.normals)
    share = corner_angles(mesh.positions).reshape(-1, 1)
    summed = sums(np.concatenate([share * np.repeat(own, 3)[:, None], share], axis=1), corners)
    mean = summed[:, :1] / np.maximum(summed[:, 1:], 1e-12)
    return np.asarray(mean[corners].reshape(-1, 3, 1), dtype=np.float32)


@njit(parallel=True, cache=True, nogil=True)
def _by_normals(positions: Float, normals: Float, out: Float) -> None:
    for t in prange(positions.shape[0]):
        out[t] = 0
        first = positions[t, 1] - positions[t, 0]
        length = np.sqrt((first * first).sum())
        plane = np.cross(first, positions[t, 2] - positions[t, 0])
        area = np.sqrt((plane * plane).sum())
        if length < 1e-20 or area < 1e-30:
            continue
        u = first / length
        v = np.cross(plane / area, u)
        # Six equations for e, f, g of the second form: dn . u = e du + f dv, dn . v = f du + g dv.
        left, right = np.zeros((3, 3)), np.zeros(3)
        for k in range(3):
            side = positions[t, (k + 1) % 3] - positions[t, k]
            change = normals[t, (k + 1) % 3] - normals[t, k]
            du, dv = (side * u).sum(), (side * v).sum()
            nu, nv = (change * u).sum(), (change * v).sum()
            left[0, 0] += du * du
            left[0, 1] += du * dv
            left[1, 1] += du * du + dv * dv
            left[1, 2] += du * dv
            left[2, 2] += dv * dv
            right[0] += du * nu
            right[1] += dv * nu + du * nv
            right[2] += dv * nv
        left[1, 0], left[2, 1] = left[0, 1], left[1, 2]
        determinant = np.linalg.det(left)
        if abs(determinant) > 1e-30 * max(1e-30, np.trace(left) ** 3):
            found = np.linalg.solve(left, right)
            out[t] = (found[0] + found[2]) / 2


def hard_edges(mesh: Mesh, width: float) -> HardEdges | None:
    """The edges across which normals jump, cut into pieces of a quarter of `width` (metres).

    An edge that several pairs of triangles share (no surface has such) is left out.
    """
    first, second, ends = _pairs(mesh)
    if not len(first):
        return None
    turns = _turns(mesh, first, second, ends)
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
    return HardEdges(cKDTree(points), turns[which].astype(np.float32))


def _pairs(mesh: Mesh) -> tuple[NDArray[np.int64], NDArray[np.int64], Float]:
    """Pairs of sides (3 * triangle + side) that lie on one edge, and its ends (E, 2, 3)."""
    places = welded(mesh.positions).reshape(-1, 3)
    start, end = places.ravel(), np.roll(places, -1, axis=1).ravel()
    edge = np.stack([np.minimum(start, end), np.maximum(start, end)], axis=1)
    order = np.lexsort((edge[:, 1], edge[:, 0]))
    same = (edge[order[1:]] == edge[order[:-1]]).all(1)
    before, after = np.append(False, same), np.append(same, False)
    lone = same & ~before[:-1] & ~after[1:]  # exactly two sides on it
    first, second = order[:-1][lone], order[1:][lone]
    corners = mesh.positions.reshape(-1, 3)
    following = np.roll(mesh.positions, -1, axis=1).reshape(-1, 3)
    ends = np.stack([corners[first], following[first]], axis=1)
    real = start[first] != end[first]
    return first[real], second[real], ends[real]


def _turns(mesh: Mesh, first: NDArray[np.int64], second: NDArray[np.int64], ends: Float) -> Float:
    """Radians by which the normals turn across each edge, outwards positive."""
    normals = mesh.normals.reshape(-1, 3)
    following = np.roll(mesh.normals, -1, axis=1).reshape(-1, 3)
    one = normals[first] + following[first]
    other = normals[second] + following[second]
    one /= np.maximum(np.linalg.norm(one, axis=1, keepdims=True), 1e-20)
    other /= np.maximum(np.linalg.norm(other, axis=1, keepdims=True), 1e-20)
    angle = np.arctan2(np.linalg.norm(np.cross(one, other), axis=1), (one * other).sum(1))
    # Outwards where the far corner of the second triangle lies under the first one's plane.
    plane = face_normals(mesh.positions)[first // 3]
    far = mesh.positions[second // 3, (second % 3 + 2) % 3]
    under = ((far - ends[:, 0]) * plane).sum(1)
    return np.asarray(np.where(under < 0, angle, -angle), dtype=np.float32)


def near_edges(edges: HardEdges | None, points: Float, width: float) -> Float:
    """Mean curvature that hard edges add at N points, (N, 1) float32, 1 / metres.

    An edge that turns by an angle holds half of it as mean curvature over its length (Cohen-Steiner
    and Morvan 2003); here that lies within `width` on either side and falls off evenly, so at the
    edge it is angle / (2 width). The strongest edge counts.
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
