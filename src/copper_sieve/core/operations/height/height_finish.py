"""What every way to a height map ends with: other heights mixed in, a mask, edges, the range."""

from __future__ import annotations

from collections.abc import Mapping
from typing import Any

import numpy as np

from copper_sieve.core.image.map_kind import MapKind
from copper_sieve.core.image.raster import Float
from copper_sieve.core.image.wrap import Wrap
from copper_sieve.core.operations.declaration import Inputs, Parameter, Slot, Surface

HEIGHT_SLOTS = (
    Slot(
        "mixed_in", "Second height", "a second height that is mixed in",
        takes=MapKind.HEIGHT, group="Mixed in", laid_over=True,
    ),
    Slot(
        "mask", "Mask", "white keeps the relief, black levels it to the middle",
        takes=MapKind.DETAIL_MASK, group="Mixed in",
    ),
)  # fmt: skip

HEIGHT_FINISH = (
    Parameter(
        "weight", "Its weight", 0.5, "weight of the second height; below 0 it is subtracted",
        low=-1.0, high=2.0, group="Mixed in",
    ),
    Parameter(
        "mix_by", "Mixed by", "adding",
        "adding sums both; highest and lowest keep the higher or the lower of the two",
        choices=("adding", "highest", "lowest"), group="Mixed in", form="choice"
    ),
    Parameter("bias", "Shift", 0.0, "moves all heights up or down", low=-0.5, high=0.5,
              group="Range"),
    Parameter("low", "Lowest", 0.0, "the height that 0 becomes", group="Range"),
    Parameter("high", "Highest", 1.0, "the height that 1 becomes", group="Range"),
    Parameter(
        "edge_fade", "Level edges", 0.0,
        "fades a rim of this width to the middle height; no effect where borders meet",
        high=0.25, unit="tile", group="Range",
    ),
)  # fmt: skip


def finish_height(
    height: Float, inputs: Inputs, parameters: Mapping[str, Any], surface: Surface
) -> Float:
    """Mix, mask, level the edges and fit the range.

    height : (H, W) float32 about [0, 1]; may be written to. Returns (H, W, 1) float32, [0, 1].
    """
    half = np.float32(0.5)
    if (other := inputs.get("mixed_in")) is not None:
        weight = np.float32(parameters["weight"])
        offset = (other[:, :, 0] - half) * weight
        if parameters["mix_by"] == "adding":
            height = height + offset
        else:
            pick = np.maximum if parameters["mix_by"] == "highest" else np.minimum
            height = pick(height, offset + half)
    if (mask := inputs.get("mask")) is not None:
        height = (height - half) * mask[:, :, 0] + half
    if parameters["edge_fade"] and not surface.wrap:
        rim = _rim(height.shape, parameters["edge_fade"], surface.wrap)
        height = (height - half) * rim + half
    if parameters["bias"]:
        height = height + np.float32(parameters["bias"])
    height = np.clip(height, 0, 1, out=height)
    low, high = np.float32(parameters["low"]), np.float32(parameters["high"])
    if low != 0 or high != 1:
        height = height * (high - low) + low
    return np.asarray(height, dtype=np.float32)[:, :, None]


def _rim(shape: tuple[int, ...], width: float, wrap: Wrap) -> Float:
    """0 at borders that end, 1 from `width` (a fraction of the tile) inwards, smooth both ways."""
    rows, columns = shape

    def ramp(size: int, meet: bool) -> Float:
        if meet:
            return np.ones(size, dtype=np.float32)
        from_border = np.minimum(np.arange(size) + 0.5, size - np.arange(size) - 0.5)
        share = np.clip(from_border / (width * columns), 0, 1)
        return np.asarray(share * share * (3 - 2 * share), dtype=np.float32)

    return ramp(rows, wrap.down)[:, None] * ramp(columns, wrap.across)[None, :]
