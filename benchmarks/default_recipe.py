"""Time and peak memory of the default recipe from one photo, by size.

Height, normal, occlusion at default quality, roughness, metallic and a delighted base color of an
8-bit photo, computed by `evaluate` as in a delivery. Each size runs in a separate process, so that
peak memory is separate; times are in passes (one float32 read and write of the picture).
"""

from __future__ import annotations

import resource
import subprocess
import sys
import time

import cv2
import numpy as np

from copper_sieve.core.graph.evaluate import evaluate
from copper_sieve.core.graph.plan import plan
from copper_sieve.core.image.map_kind import MapKind
from copper_sieve.core.image.raster import Encoding, Picture
from copper_sieve.core.models.texture_set import Derived, Imported, compose

SHA = "0" * 64
QUICK = (128, 256)


def measure(side: int) -> None:
    """One size, twice."""
    small = np.random.default_rng(1).integers(40, 200, (side // 4, side // 4, 3), dtype=np.uint8)
    codes = cv2.resize(small, (side, side), interpolation=cv2.INTER_LINEAR)
    picture = Picture(codes, ("R", "G", "B"), Encoding.SRGB)
    made = compose("photo", {MapKind.BASE_COLOR: Imported(source=SHA)})
    delit = Derived(operation="base_color_from_photo", slots={"photo": Imported(source=SHA)})
    graph = plan(made.with_map(MapKind.BASE_COLOR, delit), {SHA: (side, side)})
    source = np.zeros((side, side), np.float32)
    target = np.empty_like(source)
    np.copyto(target, source)
    start = time.perf_counter()
    for _ in range(5):
        np.copyto(target, source)
    single = (time.perf_counter() - start) / 5
    del source, target
    for run in ("first", "second"):
        start = time.perf_counter()
        maps = evaluate(graph, lambda _: picture)
        taken = time.perf_counter() - start
        del maps
        peak = resource.getrusage(resource.RUSAGE_SELF).ru_maxrss / 2**20
        print(
            f"{side} x {side}, {run} run: {taken:.2f} s, {taken / single:.0f} passes of "
            f"{single * 1000:.1f} ms, peak memory {peak:.2f} GiB",
            flush=True,
        )


def main(side: int = 4096, larger: int = 8192) -> None:
    """Print a line per size and run."""
    code = "import sys; from benchmarks.default_recipe import measure; measure(int(sys.argv[1]))"
    for one in (side, larger):
        subprocess.run([sys.executable, "-c", code, str(one)], check=True)
