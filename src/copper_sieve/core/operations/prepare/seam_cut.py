"""The path of least difference through an overlap, closed at the wrap."""

from __future__ import annotations

import numpy as np
from numba import njit
from numpy.typing import NDArray

from copper_sieve.core.image.raster import Float

Path = NDArray[np.int64]


def cheapest_closed_path(cost: Float) -> Path:
    """Find the cheapest path from top to bottom that continues when the picture repeats.

    Two passes: a free one determines the column at half height; a second one starts and ends there.

    Parameters
    ----------
    cost : (H, W) float32, >= 0

    Returns
    -------
    (H,) columns; those of adjacent rows, and of the last and the first row, differ by at most one
    """
    rows = cost.shape[0]
    free = _path(cost, -1)
    half = rows // 2
    turned = np.ascontiguousarray(np.roll(cost, -half, axis=0))
    closed = _path(turned, int(free[half]))
    return np.asarray(np.roll(closed, half))


@njit(cache=True, nogil=True, error_model="numpy")
def _path(cost: Float, start: int) -> Path:
    rows, columns = cost.shape
    total = np.empty((rows, columns), dtype=np.float64)
    came = np.zeros((rows, columns), dtype=np.int8)
    for c in range(columns):
        total[0, c] = cost[0, c] if start < 0 or c == start else np.inf
    for r in range(1, rows):
        for c in range(columns):
            best, step = total[r - 1, c], 0
            if c > 0 and total[r - 1, c - 1] < best:
                best, step = total[r - 1, c - 1], -1
            if c < columns - 1 and total[r - 1, c + 1] < best:
                best, step = total[r - 1, c + 1], 1
            total[r, c] = best + cost[r, c]
            came[r, c] = step
    path = np.empty(rows, dtype=np.int64)
    if start < 0:
        path[rows - 1] = np.argmin(total[rows - 1])
    else:
        low, high = max(0, start - 1), min(columns, start + 2)
        path[rows - 1] = low + np.argmin(total[rows - 1, low:high])
    for r in range(rows - 1, 0, -1):
        path[r - 1] = path[r] + came[r, path[r]]
    return path
