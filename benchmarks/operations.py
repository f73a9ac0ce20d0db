"""Times each operation as a multiple of one float32 read-and-write pass over the same picture.

usage: PYTHONPATH=src .venv/bin/python benchmarks/operations.py [SIDE] [RUNS]

The pass is the yardstick: machines differ and drift, the ratio stays. Each figure is the median
of the runs, the pass measured anew before each of them.
"""

from __future__ import annotations

import resource
import sys
import time
from collections.abc import Callable

import numpy as np

from copper_sieve.core.image.map_kind import MapKind
from copper_sieve.core.operations import OPERATIONS, Surface


def seconds(work: Callable[[], object]) -> float:
    """Wall time of one call."""
    start = time.perf_counter()
    work()
    return time.perf_counter() - start


def photo(side: int) -> np.ndarray:
    """A bumpy picture in linear light, (side, side, 3) float32."""
    rng = np.random.default_rng(1)
    r, c = np.mgrid[0:side, 0:side].astype(np.float32) / side
    waves = 0.4 + 0.2 * np.sin(190 * c) * np.cos(170 * r)
    waves += 0.05 * rng.standard_normal((side, side), dtype=np.float32)
    return np.repeat(np.clip(waves, 0, 1)[:, :, None], 3, axis=2).astype(np.float32)


def main(side: int = 2048, runs: int = 5) -> None:
    """Print a line per operation."""
    source = np.zeros((side, side), dtype=np.float32)
    target = np.empty_like(source)
    maps: dict[MapKind, np.ndarray] = {MapKind.BASE_COLOR: photo(side)}
    maps[MapKind.GLOSSINESS] = maps[MapKind.BASE_COLOR][:, :, :1].copy()
    surface = Surface(1.0, 0.02, wrap=False)
    print(f"{side} x {side}, {runs} runs")
    waiting = list(OPERATIONS.values())
    while waiting:  # each after its inputs
        operation = next(one for one in waiting if set(one.inputs) <= set(maps))
        waiting.remove(operation)
        settled = operation.settle({})

        def work(operation=operation, settled=settled) -> None:  # type: ignore[no-untyped-def]
            maps[operation.output] = operation.compute(maps, settled, surface)

        work()  # compiled before it is timed
        pairs = [(seconds(lambda: np.copyto(target, source)), seconds(work)) for _ in range(runs)]
        taken = np.median([mine for _, mine in pairs])
        ratio = np.median([mine / single for single, mine in pairs])
        print(f"{operation.name:32} {taken * 1000:8.0f} ms {ratio:8.1f} passes")
    peak = resource.getrusage(resource.RUSAGE_SELF).ru_maxrss / 1024
    print(f"peak memory {peak:.0f} MB")


if __name__ == "__main__":
    main(*map(int, sys.argv[1:3]))
