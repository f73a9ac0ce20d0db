"""Time the preview of a measured set while a light is dragged.

Prints the time in which the server computes both views (base color, normal, roughness, occlusion at
the dragging resolution) after one light has changed; the limit is 1.5 s for twelve pictures of 2048
texels. The pictures are already in memory.
"""

from __future__ import annotations

import hashlib
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

QUICK = (128, 5, 128)

_SHOWN, _DERIVED, _MEASURED = 512, 1024, 384  # texels, while a hand moves
_KINDS = (MapKind.BASE_COLOR, MapKind.NORMAL, MapKind.ROUGHNESS, MapKind.AMBIENT_OCCLUSION)


def main(side: int = 2048, count: int = 12, tile: int = 512) -> None:
    """Import, preview once, then move the first light repeatedly."""
    lamps = drawn.ring_of_lamps(count)
    rng = np.random.default_rng(1)
    codes, white = drawn.pictures_of(drawn.leather(tile, rng), lamps, rng)
    tiled = [np.tile(one, (side // tile, side // tile, 1)) for one in codes]
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
