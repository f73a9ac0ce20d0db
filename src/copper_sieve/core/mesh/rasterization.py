"""Rasterization of a model's UVs: the triangle of each texel."""

from __future__ import annotations

from dataclasses import dataclass

import numpy as np
from numba import njit, prange
from numpy.typing import NDArray

from copper_sieve.core.image.raster import Float
from copper_sieve.core.mesh.mesh import Ids

_BAND = 32  # rows that one thread draws at a time
_NO_AREA = 1e-30


@dataclass(frozen=True, slots=True)
class Rasterization:
    """Triangle at one sample of each texel.

    triangles : (H, W) int32; -1 without one; where several overlap, the first one of the model
    weights : (H, W, 2) float32, of the second and third vertex; the first one has the rest
    """

    triangles: Ids
    weights: Float

    @property
    def covered(self) -> NDArray[np.bool_]:
        """(H, W) bool: covered by a triangle."""
        return self.triangles >= 0


def rasterize(
    uv: Float, width: int, height: int, sample: tuple[float, float] = (0.5, 0.5)
) -> Rasterization:
    """Rasterize triangles by their UVs over the unit square.

    Borders belong to their triangle, so that no texel between two triangles is missed.

    Parameters
    ----------
    uv : (T, 3, 2) float32, v down
    width, height : texels
    sample : position in each texel, across and down, [0, 1]

    Returns
    -------
    Rasterization
    """
    triangles = np.full((height, width), -1, dtype=np.int32)
    weights = np.zeros((height, width, 2), dtype=np.float32)
    places = uv.astype(np.float64) * [width, height] - sample
    _draw(places, triangles, weights)
    return Rasterization(triangles, weights)


@njit(parallel=True, cache=True, nogil=True)
def _draw(places: NDArray[np.float64], triangles: Ids, weights: Float) -> None:
    height, width = triangles.shape
    bands = (height + _BAND - 1) // _BAND
    for band in prange(bands):
        top, bottom = band * _BAND, min(height, band * _BAND + _BAND) - 1
        for t in range(places.shape[0]):
            ax, ay = places[t, 0, 0], places[t, 0, 1]
            bx, by = places[t, 1, 0] - ax, places[t, 1, 1] - ay
            cx, cy = places[t, 2, 0] - ax, places[t, 2, 1] - ay
            first = max(top, np.ceil(ay + min(0.0, by, cy)))
            last = min(bottom, np.floor(ay + max(0.0, by, cy)))
            twice = bx * cy - by * cx
            if first > last or abs(twice) < _NO_AREA:
                continue
            left = max(0.0, np.ceil(ax + min(0.0, bx, cx)))
            right = min(width - 1.0, np.floor(ax + max(0.0, bx, cx)))
            for r in range(int(first), int(last) + 1):
                for c in range(int(left), int(right) + 1):
                    if triangles[r, c] >= 0:
                        continue
                    x, y = c - ax, r - ay
                    b = (x * cy - y * cx) / twice
                    a = (bx * y - by * x) / twice
                    if b >= 0 and a >= 0 and a + b <= 1:
                        triangles[r, c] = t
                        weights[r, c, 0] = b
                        weights[r, c, 1] = a


def sample_offsets(count: int) -> list[tuple[float, float]]:
    """Return sample positions in a texel: its center, or a square grid of 4, 9 or 16."""
    side = round(count**0.5)
    steps = [(n + 0.5) / side for n in range(side)]
    return [(x, y) for y in steps for x in steps]


def blend_attributes(corners: Float, triangles: Ids, weights: Float) -> Float:
    """Interpolate vertex attributes.

    Parameters
    ----------
    corners : (T, 3, C) float32
    triangles : (N,)
    weights : (N, 2), of the second and third vertex

    Returns
    -------
    (N, C) float32
    """
    out = np.empty((len(triangles), corners.shape[2]), dtype=np.float32)
    _blend(np.ascontiguousarray(corners), triangles, weights, out)
    return out


@njit(parallel=True, cache=True, nogil=True)
def _blend(corners: Float, triangles: Ids, weights: Float, out: Float) -> None:
    for n in prange(len(triangles)):
        t, b, a = triangles[n], weights[n, 0], weights[n, 1]
        first = np.float32(1) - b - a
        for k in range(corners.shape[2]):
            out[n, k] = first * corners[t, 0, k] + b * corners[t, 1, k] + a * corners[t, 2, k]
