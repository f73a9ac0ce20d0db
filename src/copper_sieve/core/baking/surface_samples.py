"""Points of a model that represent texels, with the surface properties there."""

from __future__ import annotations

from dataclasses import dataclass

import numpy as np
from numba import njit, prange
from numpy.typing import NDArray

from copper_sieve.core.image.raster import Float
from copper_sieve.core.mesh.mesh import Ids, Mesh, face_normals, unit
from copper_sieve.core.mesh.rasterization import Rasterization, blend_attributes

Texels = NDArray[np.int64]


@dataclass(frozen=True, slots=True)
class SurfaceSamples:
    """N points of a mesh.

    texels : (N,) int64, flat index of the texel
    triangles : (N,) int32
    weights : (N, 2) float32, of the second and third vertex
    """

    texels: Texels
    triangles: Ids
    weights: Float

    @classmethod
    def of(cls, covering: Rasterization) -> SurfaceSamples:
        """Return the samples of all covered texels, in order."""
        texels = np.flatnonzero(covering.covered)
        return cls(
            texels, covering.triangles.ravel()[texels], covering.weights.reshape(-1, 2)[texels]
        )

    def __len__(self) -> int:
        return len(self.texels)

    def chosen(self, which: slice | NDArray[np.bool_]) -> SurfaceSamples:
        """Return some of the samples."""
        return SurfaceSamples(self.texels[which], self.triangles[which], self.weights[which])


@dataclass(frozen=True, slots=True)
class Surroundings:
    """Surface properties at N points, all (N, 3) float32.

    positions : meters; lifted : moved to the curved surface suggested by the normals, so that
    smooth-shaded models don't shadow themselves at their facets (Hanika 2021)
    normals : interpolated unit vectors; flat : triangle normals
    """

    positions: Float
    lifted: Float
    normals: Float
    flat: Float

    @classmethod
    def at(cls, mesh: Mesh, flat: Float, places: SurfaceSamples) -> Surroundings:
        """Return positions and normals of samples.

        Parameters
        ----------
        mesh : triangles
        flat : `face_normals` of the mesh, computed once for all calls
        places : samples
        """
        positions = np.empty((len(places), 3), dtype=np.float32)
        lifted = np.empty_like(positions)
        corners, ahead = np.ascontiguousarray(mesh.positions), np.ascontiguousarray(mesh.normals)
        _lift(corners, ahead, places.triangles, places.weights, positions, lifted)
        normals = unit(blend_attributes(mesh.normals, places.triangles, places.weights))
        planes = flat[places.triangles]
        lost = ~normals.any(1)
        normals[lost] = planes[lost]
        # Seen from the side that its normals show.
        turned = (planes * normals).sum(1) < 0
        planes[turned] *= -1
        return cls(positions, lifted, normals, planes)


def triangle_normals(mesh: Mesh) -> Float:
    """Return the normal of each triangle, (T, 3) float32."""
    return face_normals(mesh.positions)


@njit(parallel=True, cache=True, nogil=True)
def _lift(  # noqa: PLR0917
    positions: Float, normals: Float, triangles: Ids, weights: Float, points: Float, out: Float
) -> None:
    """Return each point, and its projection onto the higher tangent planes of its vertices."""
    for n in prange(len(triangles)):
        t, b, a = triangles[n], weights[n, 0], weights[n, 1]
        shares = (np.float32(1) - b - a, b, a)
        x, y, z = np.float32(0), np.float32(0), np.float32(0)
        for k in range(3):
            x += shares[k] * positions[t, k, 0]
            y += shares[k] * positions[t, k, 1]
            z += shares[k] * positions[t, k, 2]
        points[n, 0], points[n, 1], points[n, 2] = x, y, z
        out[n, 0], out[n, 1], out[n, 2] = x, y, z
        for k in range(3):
            nx, ny, nz = normals[t, k, 0], normals[t, k, 1], normals[t, k, 2]
            under = ((x - positions[t, k, 0]) * nx + (y - positions[t, k, 1]) * ny
                     + (z - positions[t, k, 2]) * nz)  # fmt: skip
            if under < 0:
                out[n, 0] -= shares[k] * under * nx
                out[n, 1] -= shares[k] * under * ny
                out[n, 2] -= shares[k] * under * nz
