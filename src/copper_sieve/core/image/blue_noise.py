"""Blue noise for dither, by void and cluster (Ulichney 1993) on a torus."""

from __future__ import annotations

from functools import cache

import numpy as np

from copper_sieve.core.image.raster import Float

_SIDE = 64
_SIGMA = 1.5  # texels, as its author found best
_SEED = 5


@cache
def blue_noise() -> Float:
    """(64, 64) float32 evenly distributed in (-0.5, 0.5), without coarse structure; it tiles."""
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


def blue_noise_over(height: int, width: int) -> Float:
    """The same, repeated over a picture: (H, W)."""
    noise = blue_noise()
    return np.tile(noise, (-(-height // _SIDE), -(-width // _SIDE)))[:height, :width]
