"""Common last steps of height operations: second height, mask, borders, range."""

from __future__ import annotations

from collections.abc import Mapping
from typing import Any

import numpy as np

from copper_sieve.core.image.map_kind import MapKind
from copper_sieve.core.image.raster import Float
from copper_sieve.core.image.wrap import Wrap
from copper_sieve.core.operations.declaration import (
    Inputs,
    OperationInput,
    Parameter,
    SurfaceContext,
)

HEIGHT_SLOTS = (
    OperationInput(
        "second", "Second height", "a second height that is blended in",
        takes=MapKind.HEIGHT, group="Blend", laid_over=True,
    ),
    OperationInput(
        "mask", "Mask", "white keeps the relief, black flattens it to the mid-level",
        takes=MapKind.DETAIL_MASK, group="Blend",
    ),
)  # fmt: skip

HEIGHT_FINISH = (
    Parameter(
        "weight", "Weight", 0.5, "weight of the second height; below 0 it is subtracted",
        low=-1.0, high=2.0, group="Blend",
    ),
    Parameter(
        "blend_mode", "Blend mode", "add",
        "add sums both heights; highest and lowest keep the higher or lower one",
        choices=("add", "max", "min"), group="Blend", form="choice"
    ),
    Parameter("bias", "Offset", 0.0, "moves all heights up or down", low=-0.5, high=0.5,
              group="Range"),
    Parameter("low", "Output minimum", 0.0, "height for 0", group="Range"),
    Parameter("high", "Output maximum", 1.0, "height for 1", group="Range"),
    Parameter(
        "flatten_borders", "Flatten borders", 0.0,
        "fades a border of this width to the mid-level; no effect on tileable borders",
        high=0.25, unit="tile", group="Range",
    ),
)  # fmt: skip


def finish_height(
    height: Float, inputs: Inputs, parameters: Mapping[str, Any], surface: SurfaceContext
) -> Float:
    """Blend with the input, apply the mask, level the edges, and fit the range.

    Parameters
    ----------
    height : (H, W) float32, approximately [0, 1]; may be modified
    inputs : of the operation, with its optional mask and height to blend with

    Returns
    -------
    (H, W, 1) float32, [0, 1]
    """
    half = np.float32(0.5)
    if (other := inputs.get("second")) is not None:
        weight = np.float32(parameters["weight"])
        offset = (other[:, :, 0] - half) * weight
        if parameters["blend_mode"] == "add":
            height = height + offset
        else:
            pick = np.maximum if parameters["blend_mode"] == "max" else np.minimum
            height = pick(height, offset + half)
    if (mask := inputs.get("mask")) is not None:
        height = (height - half) * mask[:, :, 0] + half
    if parameters["flatten_borders"] and not surface.wrap:
        rim = _rim(height.shape, parameters["flatten_borders"], surface.wrap)
        height = (height - half) * rim + half
    if parameters["bias"]:
        height = height + np.float32(parameters["bias"])
    height = np.clip(height, 0, 1, out=height)
    low, high = np.float32(parameters["low"]), np.float32(parameters["high"])
    if low != 0 or high != 1:
        height = height * (high - low) + low
    return np.asarray(height, dtype=np.float32)[:, :, None]


def _rim(shape: tuple[int, ...], width: float, wrap: Wrap) -> Float:
    """Return 0 at borders that don't tile, 1 from `width` (fraction of the tile) inward, smooth."""
    rows, columns = shape

    def ramp(size: int, meet: bool) -> Float:
        if meet:
            return np.ones(size, dtype=np.float32)
        from_border = np.minimum(np.arange(size) + 0.5, size - np.arange(size) - 0.5)
        share = np.clip(from_border / (width * columns), 0, 1)
        return np.asarray(share * share * (3 - 2 * share), dtype=np.float32)

    return ramp(rows, wrap.down)[:, None] * ramp(columns, wrap.across)[None, :]
