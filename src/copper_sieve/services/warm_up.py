"""Compile ahead: run every operation once on a tiny picture, in the background of a start."""

from __future__ import annotations

import numpy as np

from copper_sieve.core.image.map_kind import MapKind
from copper_sieve.core.image.raster import Encoding, Picture
from copper_sieve.core.operations import OPERATIONS
from copper_sieve.core.pipeline.evaluate import evaluate
from copper_sieve.core.pipeline.plan import plan
from copper_sieve.core.presets.texture_set import Derived, Imported, SetDefinition


def warm_up() -> None:
    """Evaluate one map per operation at 16 texels, so that no first request pays for compiling."""
    sha = "0" * 64
    codes = np.arange(16 * 16 * 3, dtype=np.uint16).reshape(16, 16, 3).astype(np.uint8)
    picture = Picture(codes, ("R", "G", "B"), Encoding.SRGB)
    for operation in OPERATIONS.values():
        picked = Imported(source=sha)
        made = Derived(
            operation=operation.name,
            slots={slot.name: picked for slot in operation.slots},
            parameters={p.name: "#808080" for p in operation.parameters if p.form == "colors"},
        )
        maps: dict[MapKind, Imported | Derived] = {
            **dict.fromkeys(operation.inputs, picked), operation.output: made
        }  # fmt: skip
        graph = plan(
            SetDefinition(name="warm", maps=maps), {sha: (16, 16)}, wanted=[operation.output]
        )
        evaluate(graph, lambda _: picture)
