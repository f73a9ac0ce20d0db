"""Merges equal corners: an index by their values, and sums over merged corners."""

from __future__ import annotations

import numpy as np
from numba import njit
from numpy.typing import NDArray

from copper_sieve.core.image.raster import Float

Groups = NDArray[np.int64]


def weld_vertices(*values: Float) -> Groups:
    """Return equal numbers for corners with equal values, in the order of first occurrence.

    Parameters
    ----------
    values : (T, 3, n) float32 each; compared bit by bit, but -0 equals 0

    Returns
    -------
    (T * 3,) numbers from 0
    """
    rows = np.concatenate([one.reshape(-1, one.shape[-1]) for one in values], axis=1) + np.float32(
        0
    )
    found = np.empty(len(rows), dtype=np.int64)
    slots = 1 << max(4, int(2 * len(rows)).bit_length())
    table = np.full(slots, -1, dtype=np.int64)
    _weld(np.ascontiguousarray(rows, dtype=np.float32).view(np.uint32), table, found)
    return found


@njit(cache=True, nogil=True)
def _weld(rows: NDArray[np.uint32], table: Groups, found: Groups) -> None:
    """Assign numbers to rows with an open hash table of first occurrences."""
    last = np.uint64(table.size - 1)
    firsts = np.empty(rows.shape[0], dtype=np.int64)
    count = 0
    for n in range(rows.shape[0]):
        mixed = np.uint64(0x9E3779B97F4A7C15)
        for k in range(rows.shape[1]):
            mixed = (mixed ^ np.uint64(rows[n, k])) * np.uint64(0xFF51AFD7ED558CCD)
            mixed ^= mixed >> np.uint64(32)
        at = mixed & last
        while True:
            group = table[at]
            if group < 0:
                table[at], found[n], firsts[count] = count, count, n
                count += 1
                break
            first, same = firsts[group], True
            for k in range(rows.shape[1]):
                same = same and rows[first, k] == rows[n, k]
            if same:
                found[n] = group
                break
            at = (at + np.uint64(1)) & last


def sum_by_index(values: Float, groups: Groups) -> Float:
    """Sum values (N, C) by group (N,): (groups, C) float32."""
    count = int(groups.max()) + 1 if len(groups) else 0
    columns = [np.bincount(groups, values[:, k], count) for k in range(values.shape[1])]
    return np.stack(columns, axis=1).astype(np.float32)
