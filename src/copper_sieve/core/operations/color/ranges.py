"""Masks and values from a range of any map: stretched, or selected with soft borders."""

from __future__ import annotations

from collections.abc import Mapping
from typing import Any

import numpy as np
from numba import njit, prange

from copper_sieve.core.image import array_pool
from copper_sieve.core.image.map_kind import KindGroup
from copper_sieve.core.image.raster import Float
from copper_sieve.core.operations.declaration import (
    Inputs,
    OperationInput,
    Parameter,
    SurfaceContext,
    operation,
)
from copper_sieve.core.operations.numerics.spectrum import blur

_PARAMETERS = (
    Parameter(
        "mode", "Mode", "stretch",
        "stretch maps the range to 0–1; inside makes the range white and the rest black",
        choices=("stretch", "inside"), group="Range", form="choice"
    ),
    Parameter("low", "From", 0.0, "start of the range", group="Range"),
    Parameter("high", "To", 1.0, "end of the range", group="Range"),
    Parameter("invert", "Invert", False, "swaps white and black", group="Range",
              form="switch"),
    Parameter("softness", "Softness", 0.05, "width of the fade at the ends of the range "
                                            "(inside mode)",
              group="Finish"),
    Parameter("smoothing", "Smoothing", 0.0, "blur radius of the result", high=0.05, unit="tile",
              group="Finish"),
    Parameter("output_min", "Output minimum", 0.0, "output value for 0", group="Finish"),
    Parameter("output_max", "Output maximum", 1.0, "output value for 1", group="Finish"),
)  # fmt: skip


def soft_step(values: Float, edge: float, softness: float) -> Float:
    """Smooth step from 0 below to 1 above an edge, over a width of `softness`; any shape."""
    if softness <= 0:
        return np.asarray(values >= np.float32(edge), dtype=np.float32)
    out = array_pool.empty(*values.shape)
    _ease(np.ascontiguousarray(values).reshape(-1), np.float32(edge), np.float32(softness),
          out.reshape(-1))  # fmt: skip
    return out


@njit(parallel=True, cache=True, nogil=True, error_model="numpy")
def _ease(values: Float, edge: np.float32, softness: np.float32, out: Float) -> None:
    for i in prange(values.size):
        share = (values[i] - edge) / softness + np.float32(0.5)
        share = min(max(share, np.float32(0)), np.float32(1))
        out[i] = share * share * (np.float32(3) - np.float32(2) * share)


@operation(
    "value_from_range",
    version=1,
    title="Range of a map",
    output=KindGroup.RANGES,
    inputs=(),
    surface_reads=("wrap",),
    slots=(
        OperationInput("map", "Source map", "the map or picture that the range is taken from",
                       required=True, group="Range"),
    ),
    parameters=_PARAMETERS,
)  # fmt: skip
def value_from_range(
    inputs: Inputs, parameters: Mapping[str, Any], surface: SurfaceContext
) -> Float:
    """Derive a value from the range `low` to `high` of any map.

    Parameters
    ----------
    inputs : map (H, W, 1) float32, [0, 1]: the lightness of a color, the tilt of a normal

    Returns
    -------
    (H, W, 1) float32, [0, 1]
    """
    values = inputs["map"]
    low, high = sorted((parameters["low"], parameters["high"]))
    if parameters["mode"] == "inside":
        softness = parameters["softness"]
        # The end values belong to the range: the fade is outside.
        above = soft_step(values, low - softness / 2, softness) if low > 0 else np.float32(1)
        below = soft_step(values, high + softness / 2, softness) if high < 1 else np.float32(0)
        out = np.asarray(above * (1 - below) * np.ones_like(values), dtype=np.float32)
    else:
        out = np.asarray(values - np.float32(low), dtype=np.float32)
        out *= np.float32(1 / max(high - low, 1e-6))
        np.clip(out, 0, 1, out=out)
    if parameters["invert"]:
        np.subtract(np.float32(1), out, out=out)
    if parameters["smoothing"]:
        out = blur(np.ascontiguousarray(out[:, :, 0]), parameters["smoothing"], wrap=surface.wrap)
        out = np.clip(out, 0, 1, out=out)[:, :, None]
    least, most = np.float32(parameters["output_min"]), np.float32(parameters["output_max"])
    if least != 0 or most != 1:
        out *= most - least
        out += least
    return out
