"""Edges: adjacent sides of triangles, and their dihedral angles."""

from __future__ import annotations

import numpy as np
from numpy.typing import NDArray

from copper_sieve.core.image.raster import Float
from copper_sieve.core.mesh.mesh import Mesh, face_normals
from copper_sieve.core.mesh.welding import weld_vertices


def adjacent_sides(mesh: Mesh) -> tuple[NDArray[np.int64], NDArray[np.int64], Float]:
    """Return the two sides (3 * triangle + side) of each shared edge, and its ends (E, 2, 3)."""
    places = weld_vertices(mesh.positions).reshape(-1, 3)
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


def turns_of(mesh: Mesh, first: NDArray[np.int64], second: NDArray[np.int64], ends: Float) -> Float:
    """Return the dihedral angle across each edge in radians; convex is positive."""
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
