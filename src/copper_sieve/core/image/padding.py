"""Padding: uncovered texels take the value of the nearest covered one.

Exact Euclidean distances by columns, then by rows along the lower envelope of parabolas
(Felzenszwalb and Huttenlocher 2012), with the index of the nearest texel.
"""

from __future__ import annotations

from typing import Any

import numpy as np
from numba import njit, prange
from numpy.typing import NDArray

from copper_sieve.core.image import array_pool
from copper_sieve.core.image.raster import Float
from copper_sieve.core.image.wrap import Wrap, as_wrap

Index = NDArray[np.int32]
Mask = NDArray[np.bool_]
_FAR = 1 << 30
_STRIP = 64  # columns


def nearest_covered_texels(
    covered: Mask, *, reach: float | None = None, wrap: Wrap | bool = False
) -> Index:
    """Return the flat index of the nearest covered texel for each texel.

    Parameters
    ----------
    covered : (H, W) bool
    reach : distance in texels beyond which a texel keeps its own index; None: unlimited
    wrap : tiling directions

    Returns
    -------
    (H, W) int32; covered texels, and all texels if none is covered, have their own index
    """
    height, width = covered.shape
    found = array_pool.empty_of(np.int32, height, width)
    if covered.all() or not covered.any():
        found.ravel()[:] = np.arange(height * width, dtype=np.int32)
        return found
    rows = array_pool.empty_of(np.int32, height, width)
    meet = as_wrap(wrap)
    _nearest_rows(np.ascontiguousarray(covered), meet.down, rows)
    farthest = -1.0 if reach is None else float(reach) ** 2
    _nearest_across(rows, meet.across, farthest, found)
    return found


def gather(pixels: Float, found: Index) -> Float:
    """Copy the value of the texel that `nearest_covered_texels` found for each texel.

    Parameters
    ----------
    pixels : (H, W, C) float32
    found : (H, W) int32, flat indices

    Returns
    -------
    (H, W, C) float32
    """
    flat = pixels.reshape(-1, pixels.shape[2])
    out = array_pool.empty(*pixels.shape)
    _gather(np.ascontiguousarray(flat), found, out)
    return out


@njit(parallel=True, cache=True, nogil=True)
def _gather(flat: Float, found: Index, out: Float) -> None:
    for r in prange(found.shape[0]):
        for c in range(found.shape[1]):
            at = found[r, c]
            for k in range(flat.shape[1]):
                out[r, c, k] = flat[at, k]


@njit(parallel=True, cache=True, nogil=True)
def _nearest_rows(covered: Mask, wrap: bool, rows: Index) -> None:
    """Return the signed distance down each column to its nearest covered texel, or _FAR."""
    height, width = covered.shape
    strips = (width + _STRIP - 1) // _STRIP  # so that memory is read along its rows
    for strip in prange(strips):
        first, last = strip * _STRIP, min(width, strip * _STRIP + _STRIP)
        above = np.full(last - first, -_FAR, dtype=np.int32)
        below = np.full(last - first, _FAR, dtype=np.int32)
        if wrap:  # wrapped rows are farther away than the current best
            for r in range(height):
                for c in range(last - first):
                    if covered[r, first + c]:
                        above[c] = r - height
                        below[c] = min(below[c], r + height)
        for r in range(height):
            for c in range(last - first):
                above[c] = r if covered[r, first + c] else above[c]
                rows[r, first + c] = above[c]
        for r in range(height - 1, -1, -1):
            for c in range(last - first):
                below[c] = r if covered[r, first + c] else below[c]
                back, ahead = r - rows[r, first + c], below[c] - r
                way = ahead if ahead < back else -back
                rows[r, first + c] = way if min(ahead, back) < _FAR - height else _FAR


@njit(parallel=True, cache=True, nogil=True)
def _nearest_across(rows: Index, wrap: bool, farthest: float, found: Index) -> None:
    height, width = rows.shape
    margin = width // 2 + 1 if wrap else 0
    span = width + 2 * margin
    for r in prange(height):
        ways = rows[r]
        place = np.empty(span, dtype=np.int32)  # the columns whose parabolas form the envelope
        lift = np.empty(span, dtype=np.float64)
        start = np.empty(span, dtype=np.float64)
        top = -1
        # No wrapped row is nearer than the distance to the border.
        before, after = min(margin, abs(ways[0])), min(margin, abs(ways[width - 1]))
        for q in range(-before, width + after):
            c = q + width if q < 0 else q - width if q >= width else q
            way = ways[c]
            if way == _FAR or (way == 0 and _amid(ways, c, wrap)):
                continue
            own = np.float64(way) * way + np.float64(q) * q
            cut = -1e18
            while top >= 0:
                cut = (own - lift[top]) / (2.0 * (q - place[top]))
                if cut > start[top]:
                    break
                top -= 1
            top += 1
            place[top], lift[top], start[top] = q, own, cut if top > 0 else -1e18
        at = 0
        for c in range(width):
            found[r, c] = r * width + c
            if ways[c] == 0 or top < 0:
                continue
            while at < top and start[at + 1] < c:
                at += 1
            q = place[at]
            column = q + width if q < 0 else q - width if q >= width else q
            way = ways[column]
            away = np.int64(way) * way + np.int64(c - q) * (c - q)
            if farthest < 0 or away <= farthest:
                row = r + way
                row = row + height if row < 0 else row - height if row >= height else row
                found[r, c] = row * width + column


@njit(cache=True, nogil=True, inline="always")
def _amid(ways: Any, c: int, wrap: bool) -> bool:
    """Return whether all neighbors of a covered texel are covered."""
    last = ways.size - 1
    left = ways[c - 1] if c > 0 else ways[last] if wrap else 0
    right = ways[c + 1] if c < last else ways[0] if wrap else 0
    return left == 0 and right == 0


def pad_coverage(pixels: Float, covered: Mask, **options: Any) -> Float:
    """Pad the uncovered texels of a map from the nearest covered ones.

    Parameters
    ----------
    pixels : (H, W, C) float32
    covered : (H, W) bool
    options : `reach` and `wrap` of `nearest_covered_texels`

    Returns
    -------
    (H, W, C) float32
    """
    return gather(pixels, nearest_covered_texels(covered, **options))
