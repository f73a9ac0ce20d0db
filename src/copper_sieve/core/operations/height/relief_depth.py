"""Depth of a height map: from matching normals, or else from a given mean slope.

A height map only contains relative heights. Scaled to its full range with a fixed depth, real ones
would be two to five times too steep.
"""

from __future__ import annotations

import cv2
import numpy as np
from numba import njit, prange
from numpy.typing import NDArray

from copper_sieve.core.image.raster import Float
from copper_sieve.core.image.resize import area_average
from copper_sieve.core.image.wrap import Wrap, pad

# Texels of the longer side at which a tilt is measured, so that all sizes of a result agree.
MEASURED_SIDE = 512
_SHALLOWEST, _DEEPEST = 1e-6, 4.0  # shares of the tile's width
_BELONG = 0.3  # correlation of slopes from which a height and normals show the same relief
_FLAT = 1e-7  # mean slope of a height that has no relief


def depth_by_tilt(height: Float, degrees: float, wrap: Wrap) -> float:
    """Return the depth at which a height map has a given mean tilt.

    The tilt is the mean angle between the normals and straight up, measured at 512 texels.

    Parameters
    ----------
    height : (H, W) float32, [0, 1]
    degrees : mean tilt, [0, 90)
    wrap : tiling directions

    Returns
    -------
    float, depth as a fraction of the picture's width; 0 for a flat map
    """
    small = area_average(height, MEASURED_SIDE)
    across, down = _slopes(small, wrap)
    # Steepness of every texel for a depth of one width.
    steep = np.hypot(across, down).ravel() * np.float32(small.shape[1])
    if float(steep.mean()) < _FLAT * small.shape[1] or degrees <= 0:
        return 0.0
    steep = np.sort(steep)[:: max(1, steep.size // 4096)].astype(np.float64)
    low, high = np.log(_SHALLOWEST), np.log(_DEEPEST)
    for _ in range(40):
        middle = (low + high) / 2
        if np.degrees(np.arctan(steep * np.exp(middle)).mean()) < degrees:
            low = middle
        else:
            high = middle
    return float(np.exp((low + high) / 2))


def depth_by_normals(height: Float, normal: Float, wrap: Wrap) -> float:
    """Return the depth at which the slopes of a height map match normals best (least squares).

    If they don't match (correlation below 0.3), the depth that gives the normals' mean tilt. The
    sign is ignored: an inverted height has the same depth.

    Parameters
    ----------
    height : (H, W) float32, [0, 1]
    normal : (H, W, 3) float32, unit vectors, Y up
    wrap : tiling directions

    Returns
    -------
    float, depth as a fraction of the picture's width
    """
    if normal.shape[:2] != height.shape:
        size = (height.shape[1], height.shape[0])
        normal = np.asarray(cv2.resize(normal, size, interpolation=cv2.INTER_AREA), np.float32)
    sums = np.empty((height.shape[0], 3), dtype=np.float64)
    _products(np.ascontiguousarray(height), np.ascontiguousarray(normal), wrap.across, wrap.down,
              sums)  # fmt: skip
    both, own, given = sums.sum(axis=0)
    if own < 1e-12 or given < 1e-12:
        return 0.0
    if abs(both) / np.sqrt(own * given) >= _BELONG:
        share = abs(both) / own / height.shape[1]
        return float(min(max(share, _SHALLOWEST), _DEEPEST))
    return depth_by_tilt(height, mean_tilt(normal), wrap)


def mean_tilt(normal: Float) -> float:
    """Return the mean angle between unit normals (H, W, 3) and straight up, in degrees."""
    return float(np.degrees(np.arccos(np.clip(normal[:, :, 2], -1, 1)).mean()))


def _slopes(height: Float, wrap: Wrap) -> tuple[Float, Float]:
    """Return five-point differences across and down, as in `normal_from_height`."""
    rows, columns = height.shape
    wide = pad(height, 2, wrap)

    def ahead(dx: int, dy: int) -> Float:
        return wide[2 + dy : 2 + dy + rows, 2 + dx : 2 + dx + columns]

    near, far = np.float32(8 / 12), np.float32(1 / 12)
    across = (ahead(1, 0) - ahead(-1, 0)) * near - (ahead(2, 0) - ahead(-2, 0)) * far
    down = (ahead(0, 1) - ahead(0, -1)) * near - (ahead(0, 2) - ahead(0, -2)) * far
    return across, down


@njit(parallel=True, cache=True, nogil=True, error_model="numpy")
def _products(
    height: Float, normal: Float, wrap_x: bool, wrap_y: bool, out: NDArray[np.float64]
) -> None:
    """Return the sums of slope products by row: height with normals, height, normals."""
    rows, columns = height.shape
    near, far = np.float32(8 / 12), np.float32(1 / 12)  # five-point differences
    least = np.float32(0.0524)  # steeper than 87 degrees is damage
    for r in prange(rows):
        both, own, given = np.float64(0), np.float64(0), np.float64(0)
        up1, up2 = height[(r - 1) % rows], height[(r - 2) % rows]
        down1, down2 = height[(r + 1) % rows], height[(r + 2) % rows]
        here = height[r]
        inside = wrap_y or 1 < r < rows - 2
        for c in range(columns):
            if not (inside and (wrap_x or 1 < c < columns - 2)):
                continue
            gx = (here[(c + 1) % columns] - here[(c - 1) % columns]) * near
            gx -= (here[(c + 2) % columns] - here[(c - 2) % columns]) * far
            gy = (down1[c] - up1[c]) * near - (down2[c] - up2[c]) * far
            z = max(normal[r, c, 2], least)
            p, q = -normal[r, c, 0] / z, normal[r, c, 1] / z
            both += np.float64(gx * p + gy * q)
            own += np.float64(gx * gx + gy * gy)
            given += np.float64(p * p + q * q)
        out[r, 0], out[r, 1], out[r, 2] = both, own, given
