"""Measuring a surface: `python -m benchmarks.measuring [SIDE] [PICTURES]`.

Prints seconds and the peak of memory for pictures in memory, decoded; default: twelve of 4096
texels, for which a minute is the bound.
"""

from __future__ import annotations

import resource
import sys
import time

import numpy as np

from copper_sieve.core.measuring.measure import measure
from copper_sieve.core.measuring.stack import Capture
from copper_sieve.demo import lamp_pictures as drawn

_TILE = 512


def main() -> None:
    """Repeat a drawn surface over the side, and measure it."""
    side = int(sys.argv[1]) if len(sys.argv) > 1 else 4096
    count = int(sys.argv[2]) if len(sys.argv) > 2 else 12
    lamps = drawn.ring_of_lamps(count)
    for kind in ("plaster", "painted"):
        rng = np.random.default_rng(1)
        pictures, exposure = drawn.pictures_of(drawn.SURFACES[kind](_TILE, rng), lamps, rng)
        times = (max(1, side // _TILE), max(1, side // _TILE), 1)
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


if __name__ == "__main__":
    main()
