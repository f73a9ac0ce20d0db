"""Every operation with one thread and with two, in a process of its own.

Says which give other bytes: `python -m tests.core.with_threads`, NUMBA_NUM_THREADS being 2 or more.
"""

from __future__ import annotations

import hashlib
import sys

import numba
import numpy as np

from copper_sieve.core.operations import OPERATIONS, Operation, SurfaceContext
from tests.core.operating import any_inputs, on_ball


def bytes_of(operation: Operation, threads: int) -> str:
    """SHA-256 of what it makes of random maps with so many threads."""
    numba.set_num_threads(threads)
    inputs = any_inputs(operation, (150, 130), seed=4)
    given = {p.name: "#808080" for p in operation.parameters if p.form == "colors"}
    surface = on_ball(SurfaceContext.of(1.0, 0.05, wrap=True), (150, 130))
    result = operation.compute(inputs, operation.resolve(given), surface)
    return hashlib.sha256(np.ascontiguousarray(result).tobytes()).hexdigest()


def main() -> int:
    """1 where an operation gives other bytes with another number of threads."""
    differ = []
    for name, operation in sorted(OPERATIONS.items()):
        if len({bytes_of(operation, threads) for threads in (1, 2, 1)}) > 1:
            differ.append(name)
    print(f"{len(OPERATIONS)} operations; other bytes: {', '.join(differ) or 'none'}")
    return 1 if differ else 0


if __name__ == "__main__":
    sys.exit(main())
