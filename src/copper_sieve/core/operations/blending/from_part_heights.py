"""Coverage of the upper of two sets, from their heights and a mask."""

from __future__ import annotations

from collections.abc import Mapping
from typing import Any

import cv2
import numpy as np

from copper_sieve.core.image.map_kind import KindGroup, MapKind
from copper_sieve.core.image.raster import Float
from copper_sieve.core.operations.declaration import (
    Inputs,
    OperationInput,
    Parameter,
    SurfaceContext,
    operation,
)

_GRID = 256  # texels a side at which noise is drawn, so that every size shows the same
_LEAST = 1 / 512  # share of the transition below which softness has no visible effect

DEPTHS = (
    Parameter("below_depth", "Lower depth", 0.01, "depth of the lower set's relief", high=1.0,
              unit="m", group="Heights"),
    Parameter("above_depth", "Upper depth", 0.01, "depth of the upper set's relief", high=1.0,
              unit="m", group="Heights"),
)  # fmt: skip

_SLOTS = (
    OperationInput("below_height", "Lower height", "the lower set's height", takes=MapKind.HEIGHT,
         required=True, group="Heights"),
    OperationInput("above_height", "Upper height", "the upper set's height", takes=MapKind.HEIGHT,
         required=True, group="Heights"),
    OperationInput("mask_source", "Mask source", "a map or picture; white shows the upper set",
         takes=MapKind.DETAIL_MASK, group="Mask source", laid_over=True),
)  # fmt: skip

_PARAMETERS = (
    Parameter("offset", "Offset", 0.0, "shifts the mask: above 0 more of the upper set, below "
                                       "0 more of the lower set",
              low=-1.0, group="Transition"),
    Parameter("transition", "Softness", 0.15, "width of the transition",
              group="Transition"),
    Parameter("contrast", "Contrast", 0.7,
              "weight of the heights: raised areas show through; 0 uses the mask alone",
              high=2.0, group="Transition"),
    Parameter("pattern", "Mask", "even", "where the upper set lies, before the heights decide",
              choices=("even", "map", "gradient", "noise"), group="Mask", form="choice"),
    Parameter("strength", "Strength", 1.0, "weight of the mask", high=2.0, group="Mask"),
    Parameter("angle", "Direction", 90.0, "direction in which a gradient increases, in "
                                          "degrees; 0 is right, 90 is up",
              high=360.0, unit="deg", group="Mask"),
    Parameter("patch_size", "Patch size", 0.15, "size of the noise patches", low=0.01, high=0.5,
              unit="tile", group="Mask"),
    Parameter("seed", "Seed", 1.0, "each whole number gives another noise "
                                   "pattern", low=0.0, high=99.0,
              group="Mask"),
    Parameter("invert", "Invert", False, "swaps black and white of the mask",
              group="Mask", form="switch"),
    *DEPTHS,
)  # fmt: skip


@operation(
    "mask_from_part_heights",
    version=1,
    title="Coverage of the upper set",
    output=KindGroup.MASKS,
    inputs=(),
    blends=True,
    surface_reads=("wrap",),
    slots=_SLOTS,
    parameters=_PARAMETERS,
)
def upper_weight(inputs: Inputs, parameters: Mapping[str, Any], surface: SurfaceContext) -> Float:
    """Compute the weight of the upper set per texel.

    With heights a below and b above, both relative to the larger of the two depths, and a mask m
    in [0, 1]: x = 2 offset + strength (2 m - 1) + 2 contrast (b - a); the weight is a smooth step
    of x with the width `transition` around 0.

    Parameters
    ----------
    inputs : below_height, above_height, mask: (H, W, 1) float32, [0, 1]

    Returns
    -------
    (H, W, 1) float32, 0 = lower set, 1 = upper set
    """
    below, above = inputs["below_height"][:, :, 0], inputs["above_height"][:, :, 0]
    deepest = max(parameters["below_depth"], parameters["above_depth"], 1e-6)
    apart = above * np.float32(parameters["above_depth"] / deepest)
    apart = apart - below * np.float32(parameters["below_depth"] / deepest)
    x = apart * np.float32(2 * parameters["contrast"])
    x += np.float32(2 * parameters["offset"])
    mask = _mask(inputs, parameters, surface, (below.shape[0], below.shape[1]))
    if mask is not None:
        sign = -1 if parameters["invert"] else 1
        x = x + (mask * np.float32(2) - np.float32(1)) * np.float32(sign * parameters["strength"])
    share = x * np.float32(0.5 / max(parameters["transition"], _LEAST)) + np.float32(0.5)
    np.clip(share, 0, 1, out=share)
    share = share * share * (np.float32(3) - np.float32(2) * share)
    return np.asarray(share, dtype=np.float32)[:, :, None]


def _mask(
    inputs: Inputs, parameters: Mapping[str, Any], surface: SurfaceContext, shape: tuple[int, int]
) -> Float | None:
    by = parameters["pattern"]
    if by == "map":
        drawn = inputs.get("mask_source")
        return None if drawn is None else drawn[:, :, 0]
    if by == "gradient":
        return _gradient(parameters["angle"], surface, shape)
    if by == "noise":
        return _noise(parameters["patch_size"], int(parameters["seed"]), shape)
    return None


def _gradient(angle: float, surface: SurfaceContext, shape: tuple[int, int]) -> Float:
    """Return a linear gradient; in tileable directions, waves that tile."""
    rows, columns = shape
    right, up = np.cos(np.radians(angle)), np.sin(np.radians(angle))
    x = (np.arange(columns, dtype=np.float32) + 0.5) / columns
    y = 1 - (np.arange(rows, dtype=np.float32) + 0.5) / rows
    if surface.wrap:
        across, down = round(float(right)), round(float(up))
        phase = x[None, :] * across + y[:, None] * down
        return np.asarray(0.5 - 0.5 * np.cos(2 * np.pi * phase), np.float32)
    along = x[None, :] * np.float32(right) + y[:, None] * np.float32(up)
    low, high = min(0.0, right) + min(0.0, up), max(0.0, right) + max(0.0, up)
    return np.asarray((along - low) / max(high - low, 1e-6), np.float32)


def _noise(patch: float, seed: int, shape: tuple[int, int]) -> Float:
    """Return tileable patches of a size, half of them above 0.5; independent of the resolution."""
    rng = np.random.default_rng(seed)
    waves = np.fft.rfft2(rng.standard_normal((_GRID, _GRID)))
    f = np.hypot(np.fft.fftfreq(_GRID)[:, None] * _GRID, np.fft.rfftfreq(_GRID)[None, :] * _GRID)
    middle = 0.5 / max(patch, 1e-3)
    waves *= np.exp(-0.5 * (np.log(np.maximum(f, 1e-3) / middle) / 0.6) ** 2)
    field = np.fft.irfft2(waves, (_GRID, _GRID))
    # By rank, so that the share of the picture that is above a value is known.
    order = field.ravel().argsort().argsort().reshape(field.shape)
    even = (order / (field.size - 1)).astype(np.float32)
    edge = 8  # texels around, so that enlarging meets at the borders
    padded = np.pad(even, edge, mode="wrap")
    rows, columns = shape
    wide, high = columns / _GRID, rows / _GRID
    x = (np.arange(columns, dtype=np.float32) + 0.5) / wide - 0.5 + edge
    y = (np.arange(rows, dtype=np.float32) + 0.5) / high - 0.5 + edge
    at_x, at_y = np.meshgrid(x.astype(np.float32), y.astype(np.float32))
    return np.asarray(np.clip(cv2.remap(padded, at_x, at_y, cv2.INTER_CUBIC), 0, 1), np.float32)
