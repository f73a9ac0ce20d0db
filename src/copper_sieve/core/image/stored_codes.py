"""Codes of one channel straight from a map's values, in one pass, exactly as `quantize` makes them.

The sRGB curve is not computed for each texel: a code holds from the smallest float32 on that the
curve rounds to it, and those are found once.
"""

from __future__ import annotations

from functools import cache
from typing import Any

import numpy as np
from numba import njit, prange
from numpy.typing import NDArray

from copper_sieve.core.image.encoding import linear_to_srgb, quantize
from copper_sieve.core.image.raster import Codes, Float

_BUCKETS = {8: 1 << 12, 16: 1 << 18}  # evenly over [0, 1], each with the first code in it


def stored_codes(values: Float, codes: Codes, *, light: bool, normal: bool, turned: bool) -> None:
    """Fill the codes of one channel.

    values : (H, W) float32; codes : (H, W) uint8 or uint16; both may be a channel of more
    light : encoded as sRGB; normal : (n + 1) / 2; turned : max - code, as for green and inversions
    """
    if light:
        _light_codes(values, *_srgb_steps(8 * codes.dtype.itemsize), turned, codes)
    else:
        _plain_codes(values, np.float32(np.iinfo(codes.dtype).max), normal, turned, codes)


@cache
def _srgb_steps(bits: int) -> tuple[Float, NDArray[np.int32]]:
    """The smallest value of each code, and the code at the beginning of each bucket."""
    top = (1 << bits) - 1
    codes = np.arange(1, top + 1)
    low = np.zeros(top, dtype=np.int64)  # positive float32 have the order of their bits
    high = np.full(top, int(np.float32(1).view(np.int32)), dtype=np.int64)
    while (low < high).any():
        middle = (low + high) // 2
        reached = quantize(linear_to_srgb(middle.astype(np.int32).view(np.float32)), bits) >= codes
        high = np.where(reached, middle, high)
        low = np.where(reached, low, middle + 1)
    steps = np.concatenate([[0.0], high.astype(np.int32).view(np.float32)]).astype(np.float32)
    count = _BUCKETS[bits]
    begins = (np.arange(count + 1) / count).astype(np.float32)
    first = np.searchsorted(steps, begins, side="right") - 1
    return steps, np.maximum(first, 0).astype(np.int32)


@njit(parallel=True, cache=True, nogil=True, error_model="numpy")
def _light_codes(
    values: Float, steps: Float, first: NDArray[np.int32], turned: bool, codes: Any
) -> None:
    top = steps.size - 1
    buckets = np.float32(first.size - 1)
    for r in prange(values.shape[0]):
        for c in range(values.shape[1]):
            v = values[r, c]
            code = 0
            if v >= 1:
                code = top
            elif v > 0:  # NaN is not
                code = first[np.int32(v * buckets)]
                while code < top and v >= steps[code + 1]:
                    code += 1
                while v < steps[code]:
                    code -= 1
            codes[r, c] = top - code if turned else code


@njit(parallel=True, cache=True, nogil=True, error_model="numpy")
def _plain_codes(values: Float, top: np.float32, normal: bool, turned: bool, codes: Any) -> None:
    zero, half = np.float32(0), np.float32(0.5)
    for r in prange(values.shape[0]):
        for c in range(values.shape[1]):
            v = values[r, c]
            if normal:
                v = v * half + half
            scaled = v * top + half
            # NaN fails every comparison, so it ends as 0.
            code = zero if not scaled > 0 else np.floor(min(scaled, top))
            codes[r, c] = top - code if turned else code
