"""Padding: texels that nothing covers take the value of the nearest one that something covers.

Exact Euclidean distances by columns, then by rows along the lower envelope of parabolas
(Felzenszwalb and Huttenlocher 2012), carrying where each distance is measured to.
"""

from __future__ import annotations

from typing import Any

import numpy as np
from numba import njit, prange
from numpy.typing import NDArray

from copper_sieve.core.image.raster import Float

Index = NDArray[np.int32]
Mask = NDArray[np.bool_]
_FAR = 1 << 30


def nearest_covered(covered: Mask, *, reach: float | None = None, wrap: bool = False) -> Index:
    """For each texel the flat index of the nearest covered one; of itself where it is covered.

    covered : (H, W) bool; reach : texels beyond which a texel stays what it is; wrap : the borders
        meet
    Returns (H, W) int32. Without any covered texel each is its own.
    """
    height, width = covered.shape
    itself = np.arange(height * width, dtype=np.int32).reshape(height, width)
    if covered.all() or not covered.any():
        return itself
    rows = np.empty((height, width), dtype=np.int32)
    _nearest_rows(np.ascontiguousarray(covered), wrap, rows)
    found = np.empty((height, width), dtype=np.int32)
    farthest = -1.0 if reach is None else float(reach) ** 2
    _nearest_across(rows, itself, wrap, farthest, found)
    return found


def gathered(pixels: Float, found: Index) -> Float:
    """Each texel's value from where `nearest_covered` says: (H, W, C) float32."""
    flat = pixels.reshape(-1, pixels.shape[2])
    out = np.empty(pixels.shape, dtype=np.float32)
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
    """The signed way down each column to its nearest covered texel, or _FAR."""
    height, width = covered.shape
    strips = (width + 63) // 64  # many columns at once, so that memory is read along its rows
    turns = 2 if wrap else 1
    for strip in prange(strips):
        first, last = strip * 64, min(width, strip * 64 + 64)
        above = np.full(last - first, -_FAR, dtype=np.int64)
        for step in range(height * turns):
            r = step % height
            for c in range(first, last):
                if covered[r, c]:
                    above[c - first] = step
                back = step - above[c - first]
                rows[r, c] = -back if back < _FAR else _FAR
        below = np.full(last - first, 2 * _FAR, dtype=np.int64)
        for step in range(height * turns - 1, -1, -1):
            r = step % height
            for c in range(first, last):
                if covered[r, c]:
                    below[c - first] = step
                ahead = below[c - first] - step
                if step < height and ahead < abs(np.int64(rows[r, c])):
                    rows[r, c] = ahead


@njit(parallel=True, cache=True, nogil=True)
def _nearest_across(rows: Index, itself: Index, wrap: bool, farthest: float, found: Index) -> None:
    height, width = rows.shape
    margin = width // 2 + 1 if wrap else 0
    span = width + 2 * margin
    for r in prange(height):
        place = np.empty(span, dtype=np.int64)  # the columns whose parabolas form the envelope
        start = np.empty(span + 1, dtype=np.float64)
        top = -1
        for q in range(span):
            way = rows[r, (q - margin) % width]
            if way == _FAR:
                continue
            own = np.float64(way) * way
            cut = -1e18
            while top >= 0:
                p = place[top]
                before = np.float64(rows[r, (p - margin) % width])
                cut = ((own + np.float64(q) * q) - (before * before + np.float64(p) * p)) / (
                    2.0 * (q - p)
                )
                if cut > start[top]:
                    break
                top -= 1
            if top < 0:
                cut = -1e18
            top += 1
            place[top], start[top] = q, cut
        at = 0
        for c in range(width):
            q = c + margin
            if top < 0:
                found[r, c] = itself[r, c]
                continue
            while at < top and start[at + 1] < q:
                at += 1
            column = (place[at] - margin) % width
            way = np.int64(rows[r, column])
            away = way * way + (q - place[at]) * (q - place[at])
            if farthest >= 0 and away > farthest:
                found[r, c] = itself[r, c]
            else:
                found[r, c] = itself[(r + way) % height, column]


def padded(pixels: Float, covered: Mask, **options: Any) -> Float:
    """One map padded; see `nearest_covered`. (H, W, C) float32."""
    return gathered(pixels, nearest_covered(covered, **options))
