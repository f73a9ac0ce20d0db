"""Time the preview while a light is dragged: `python -m benchmarks.moved_light [SIDE] [PICTURES]`.

Prints the time in which the server computes both views of a measured set (base color, normal,
roughness, occlusion at the dragging resolution) after one light has changed; the limit is 1.5 s for
twelve pictures of 2048 texels. The pictures are already in memory.
"""

from __future__ import annotations

import hashlib
import sys
import time

import numpy as np

from copper_sieve.core.graph.evaluate import evaluate
from copper_sieve.core.graph.plan import plan
from copper_sieve.core.image.map_kind import MapKind
from copper_sieve.core.image.raster import Encoding, Picture
from copper_sieve.core.ingest.light_captures import ReadCapture, calibrated_captures
from copper_sieve.core.models.measured_set import compose_measured
from copper_sieve.demo import lamp_pictures as drawn
from copper_sieve.store.cache import MemoryCache

_TILE = 512
_SHOWN, _DERIVED, _MEASURED = 512, 1024, 384  # texels, while a hand moves
_KINDS = (MapKind.BASE_COLOR, MapKind.NORMAL, MapKind.ROUGHNESS, MapKind.AMBIENT_OCCLUSION)


def main() -> None:
    """Import, preview once, then move the first light repeatedly."""
    side = int(sys.argv[1]) if len(sys.argv) > 1 else 2048
    count = int(sys.argv[2]) if len(sys.argv) > 2 else 12
    lamps = drawn.ring_of_lamps(count)
    rng = np.random.default_rng(1)
    codes, white = drawn.pictures_of(drawn.leather(_TILE, rng), lamps, rng)
    tiled = [np.tile(one, (side // _TILE, side // _TILE, 1)) for one in codes]
    pictures = {
        hashlib.sha256(one.tobytes()).hexdigest(): Picture(one, ("R", "G", "B"), Encoding.SRGB)
        for one in tiled
    }
    taken = [ReadCapture(sha, one) for sha, one in pictures.items()]
    captures = calibrated_captures(taken, lamps=lamps, static_camera=True, white=white)
    definition = compose_measured("hide", captures, (side, side))
    sizes = {sha: one.size for sha, one in pictures.items()}
    cache = MemoryCache(1 << 30)
    for turn in range(6):
        first = captures.captures[0]
        lamp = first.lamp.model_copy(update={"azimuth": 3.0 * turn})
        each = (first.model_copy(update={"lamp": lamp}), *captures.captures[1:])
        moved = definition.model_copy(
            update={"captures": captures.model_copy(update={"captures": each})}
        )
        start = time.perf_counter()
        for wanted in ([MapKind.NORMAL], _KINDS):  # the chosen map first and alone
            graph = plan(
                moved, sizes, wanted=wanted, longer_side=_SHOWN, compute_side=_DERIVED,
                measured_side=_MEASURED,
            )  # fmt: skip
            evaluate(graph, pictures.__getitem__, cache=cache)
            spent = time.perf_counter() - start
            print(f"turn {turn}: {', '.join(wanted)}: {spent:.2f} s")


if __name__ == "__main__":
    main()
