"""Maps as pictures for display: colors in sRGB, normals Y+, data as values."""

from __future__ import annotations

from functools import cache

import numpy as np
from numba import njit, prange

from copper_sieve.core.image.encoding import linear_to_srgb, quantize
from copper_sieve.core.image.map_kind import Meaning
from copper_sieve.core.image.raster import Codes, Encoding, Float, Picture, Raster

_STEPS = 1 << 16


@cache
def _srgb_codes() -> Codes:
    """Return a table from linear light to 8-bit sRGB codes, with steps of at most 1/20 code."""
    return quantize(linear_to_srgb(np.arange(_STEPS, dtype=np.float32) / (_STEPS - 1)), 8)


def displayed(raster: Raster) -> Picture:
    """Return 8-bit codes of a map for display, (H, W, 1 or 3)."""
    values = np.ascontiguousarray(raster.pixels)
    if raster.meaning is Meaning.COLOR:
        codes = _light_codes(values, _srgb_codes())
    elif raster.meaning is Meaning.NORMAL:
        codes = _vector_codes(values)
    else:
        codes = quantize(values, 8)
    names = ("Y",) if values.shape[2] == 1 else ("R", "G", "B")
    return Picture(codes, names, Encoding.LINEAR)


@njit(parallel=True, cache=True, nogil=True, error_model="numpy")
def _light_codes(values: Float, table: Codes) -> Codes:
    out = np.empty(values.shape, dtype=np.uint8)
    top = np.float32(len(table) - 1)
    for r in prange(values.shape[0]):
        for c in range(values.shape[1]):
            for i in range(values.shape[2]):
                v = min(max(values[r, c, i], np.float32(0)), np.float32(1))
                out[r, c, i] = table[int(v * top + np.float32(0.5))]
    return out


@njit(parallel=True, cache=True, nogil=True, error_model="numpy")
def _vector_codes(values: Float) -> Codes:
    out = np.empty(values.shape, dtype=np.uint8)
    half = np.float32(127.5)
    for r in prange(values.shape[0]):
        for c in range(values.shape[1]):
            for i in range(values.shape[2]):
                v = min(max(values[r, c, i], np.float32(-1)), np.float32(1))
                out[r, c, i] = int(v * half + half + np.float32(0.5))
    return out
