"""Time and peak memory of measuring a surface from decoded pictures; the limit is a minute."""

from __future__ import annotations

import resource
import time

import numpy as np

from copper_sieve.core.measuring.measure import measure
from copper_sieve.core.measuring.stack import Capture
from copper_sieve.demo import lamp_pictures as drawn

QUICK = (128, 5, 128)


def main(side: int = 4096, count: int = 12, tile: int = 512) -> None:
    """Repeat a synthetic surface over the side, and measure it."""
    lamps = drawn.ring_of_lamps(count)
    for kind in ("plaster", "painted"):
        rng = np.random.default_rng(1)
        pictures, exposure = drawn.pictures_of(drawn.SURFACES[kind](tile, rng), lamps, rng)
        times = (max(1, side // tile), max(1, side // tile), 1)
        captures = [
            Capture(np.tile(one, times), lamp) for one, lamp in zip(pictures, lamps, strict=True)
        ]
        small = [Capture(one, lamp) for one, lamp in zip(pictures, lamps, strict=True)]
        measure(small, white=exposure)  # kernels are there
        start = time.perf_counter()
        measure(captures, white=exposure)
        spent = time.perf_counter() - start
        peak = resource.getrusage(resource.RUSAGE_SELF).ru_maxrss / 2**20
        print(f"{kind}: {count} pictures of {side} texels, {spent:.1f} s, {peak:.2f} GiB at most")
