"""Codes from a map's values in one pass, identical to those of `quantize`.

The sRGB curve isn't evaluated per texel: each code starts at the smallest float32 that the curve
rounds to it; these values are computed once.
"""

from __future__ import annotations

from collections.abc import Sequence
from functools import cache
from typing import Any, NamedTuple

import cv2
import numpy as np
from numba import njit, prange

from copper_sieve.core.image import array_pool
from copper_sieve.core.image.encoding import linear_to_srgb, quantize
from copper_sieve.core.image.raster import Codes, Float

# Evenly over [0, 1], so fine that at most one code begins in each.
_BUCKETS = {8: 1 << 12, 16: 1 << 20}


class Channel(NamedTuple):
    """One channel of a file from one component of a map, both by index.

    turned : max - code, for green and inversion
    """

    component: int
    to: int
    turned: bool


def stored_codes(
    values: Float, codes: Codes, channels: Sequence[Channel], *, light: bool, normal: bool
) -> None:
    """Encode channels of a map into the codes of a file, in place.

    Parameters
    ----------
    values : (H, W, K) float32
    codes : (H, W, C) uint8 or uint16, contiguous; receives the result
    channels : source and destination of each channel
    light : encode as sRGB
    normal : encode as (n + 1) / 2
    """
    height, width, count = values.shape
    top = np.iinfo(codes.dtype).max
    if values.strides[:2] == (0, 0):  # one value for all
        small = np.empty((1, 1, codes.shape[2]), dtype=codes.dtype)
        stored_codes(values[:1, :1].copy(), small, channels, light=light, normal=normal)
        for one in channels:
            cv2.insertChannel(np.full((height, width), small[0, 0, one.to]), codes, one.to)
        return
    values = np.ascontiguousarray(values)
    if codes.shape[2] == count and [(one.component, one.to) for one in channels] == [
        (k, k) for k in range(count)
    ]:
        turns = np.array([top if one.turned else 0 for one in channels], dtype=codes.dtype)
        lines = values.reshape(height, -1), codes.reshape(height, -1)
        _fill(*lines, np.tile(turns, width), light=light, normal=normal)
        return
    plane = array_pool.empty_of(codes.dtype.type, height, width)
    for component, to, turned in channels:
        given = values if count == 1 else np.asarray(cv2.extractChannel(values, component), "f4")
        turns = np.full(width, top if turned else 0, dtype=codes.dtype)
        _fill(given.reshape(height, width), plane, turns, light=light, normal=normal)
        cv2.insertChannel(plane, codes, to)


def _fill(values: Float, codes: Codes, turns: Codes, *, light: bool, normal: bool) -> None:
    if light:
        _light_codes(values, *_srgb_steps(8 * codes.dtype.itemsize), turns, codes)
    else:
        _plain_codes(values, np.float32(np.iinfo(codes.dtype).max), normal, turns, codes)


@cache
def _srgb_steps(bits: int) -> tuple[Codes, Float]:
    """Return for each bucket the code at its start, and the smallest value of the next code."""
    top = (1 << bits) - 1
    codes = np.arange(1, top + 1)
    low = np.zeros(top, dtype=np.int64)  # positive float32 have the order of their bits
    high = np.full(top, int(np.float32(1).view(np.int32)), dtype=np.int64)
    while (low < high).any():
        middle = (low + high) // 2
        reached = quantize(linear_to_srgb(middle.astype(np.int32).view(np.float32)), bits) >= codes
        high = np.where(reached, middle, high)
        low = np.where(reached, low, middle + 1)
    smallest = high.astype(np.int32).view(np.float32)
    count = _BUCKETS[bits]
    begins = (np.arange(count + 1) / count).astype(np.float32)
    first = np.searchsorted(smallest, begins, side="right")
    after = np.append(smallest, np.float32(np.inf))[first]
    return first.astype(np.uint8 if bits == 8 else np.uint16), after


# Kernels process whole rows of interleaved channels, which vectorizes. `turns` contains 0 for each
# position of a row, or the largest code where the code is inverted.


@njit(parallel=True, cache=True, nogil=True, error_model="numpy")
def _light_codes(values: Float, first: Codes, after: Float, turns: Codes, codes: Any) -> None:
    buckets = np.float32(first.size - 1)  # a power of two: exact
    zero, one = np.float32(0), np.float32(1)
    for r in prange(values.shape[0]):
        for i in range(values.shape[1]):
            v = values[r, i]
            v = min(v, one) if v > zero else zero  # NaN is not
            bucket = np.uint32(np.int32(v * buckets))
            codes[r, i] = (first[bucket] + np.uint32(v >= after[bucket])) ^ turns[i]


@njit(parallel=True, cache=True, nogil=True, error_model="numpy")
def _plain_codes(values: Float, top: np.float32, normal: bool, turns: Codes, codes: Any) -> None:
    zero, half = np.float32(0), np.float32(0.5)
    for r in prange(values.shape[0]):
        for i in range(values.shape[1]):
            v = values[r, i]
            if normal:
                v = v * half + half
            scaled = v * top + half
            scaled = min(scaled, top) if scaled > zero else zero  # NaN is not
            codes[r, i] = np.int32(scaled) ^ turns[i]
