"""Blue noise for dithering, by void and cluster (Ulichney 1993) on a torus."""

from __future__ import annotations

from functools import cache

import numpy as np
from numba import njit, prange

from copper_sieve.core.image import array_pool
from copper_sieve.core.image.raster import Codes, Float

_SIDE = 64
_SIGMA = 1.5  # texels, as its author found best
_SEED = 5


@cache
def blue_noise() -> Float:
    """Return blue noise: (64, 64) float32, evenly distributed in (-0.5, 0.5), tileable."""
    steps = np.minimum(np.arange(_SIDE), _SIDE - np.arange(_SIDE))
    bell = np.exp(-(steps**2) / (2 * _SIGMA**2))
    kernel = np.outer(bell, bell)

    def around(flat: int) -> np.ndarray:
        return np.roll(kernel, divmod(flat, _SIDE), axis=(0, 1))

    count = _SIDE * _SIDE
    first = np.zeros((_SIDE, _SIDE), dtype=bool)
    first.ravel()[np.random.default_rng(_SEED).choice(count, count // 10, replace=False)] = True
    energy = sum((around(int(flat)) for flat in np.flatnonzero(first)), np.zeros_like(kernel))
    while True:  # move the tightest cluster into the largest void until they are the same
        tight = int(np.where(first, energy, -np.inf).argmax())
        first.ravel()[tight] = False
        energy -= around(tight)
        void = int(np.where(first, np.inf, energy).argmin())
        first.ravel()[void] = True
        energy += around(void)
        if void == tight:
            break
    rank = np.empty(count)
    ones, left = first.copy(), energy.copy()
    for n in range(int(first.sum()) - 1, -1, -1):
        tight = int(np.where(ones, left, -np.inf).argmax())
        ones.ravel()[tight] = False
        left -= around(tight)
        rank[tight] = n
    for n in range(int(first.sum()), count):
        void = int(np.where(first, np.inf, energy).argmin())
        first.ravel()[void] = True
        energy += around(void)
        rank[void] = n
    return ((rank + 0.5) / count - 0.5).astype(np.float32).reshape(_SIDE, _SIDE)


def dithered_codes(values: Float) -> Codes:
    """Quantize values to 8 bits with tiled blue noise of one code.

    Parameters
    ----------
    values : (H, W) float32, [0, 1]

    Returns
    -------
    (H, W) uint8; 0.5 always becomes the same code, because it is flat in a normal map
    """
    codes = array_pool.empty_of(np.uint8, *values.shape)
    _dither(np.ascontiguousarray(values), blue_noise() / np.float32(255), codes)
    return codes


@njit(parallel=True, cache=True, nogil=True, error_model="numpy")
def _dither(values: Float, noise: Float, codes: Codes) -> None:
    zero, half, top = np.float32(0), np.float32(0.5), np.float32(255)
    width = values.shape[1]
    for r in prange(values.shape[0]):
        over = noise[r % _SIDE]
        for first in range(0, width, _SIDE):
            for k in range(min(_SIDE, width - first)):
                v = values[r, first + k]
                scaled = (v if v == half else v + over[k]) * top + half
                # NaN fails every comparison, so it ends as 0.
                scaled = min(scaled, top) if scaled > zero else zero
                codes[r, first + k] = np.int32(scaled)
