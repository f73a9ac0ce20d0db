"""Maps of a blend of two sets, by the coverage of the upper one."""

from __future__ import annotations

from collections.abc import Mapping
from typing import Any

import numpy as np

from copper_sieve.core.image.map_kind import KindGroup, MapKind
from copper_sieve.core.image.normals import normalize
from copper_sieve.core.image.raster import Float
from copper_sieve.core.operations.blending.from_part_heights import DEPTHS
from copper_sieve.core.operations.declaration import (
    Inputs,
    OperationInput,
    SurfaceContext,
    operation,
)

_LEAST_Z = np.float32(0.02)


_PARTS = (
    OperationInput("below", "Lower", "the lower set's map", as_output=True, required=True,
         group="Parts"),
    OperationInput("above", "Upper", "the upper set's map", as_output=True, required=True,
         group="Parts"),
    OperationInput("mask", "Mask", "coverage by the upper set", required=True, group="Parts"),
)  # fmt: skip
_HEIGHTS = (
    OperationInput("below_height", "Lower height", "the lower set's height", takes=MapKind.HEIGHT,
         group="Heights"),
    OperationInput("above_height", "Upper height", "the upper set's height", takes=MapKind.HEIGHT,
         group="Heights"),
)  # fmt: skip


@operation(
    "value_from_parts",
    version=1,
    title="Blend of two sets",
    output=KindGroup.VALUES,
    inputs=(),
    blends=True,
    slots=_PARTS,
)
def blend_values(inputs: Inputs, parameters: Mapping[str, Any], surface: SurfaceContext) -> Float:
    """Blend colors or data: below + weight (above - below).

    Parameters
    ----------
    inputs : below, above: (H, W, C) float32, colors in linear light; weight: (H, W, 1), [0, 1]

    Returns
    -------
    (H, W, C) float32
    """
    below, share = inputs["below"], inputs["mask"]
    return np.asarray(below + share * (inputs["above"] - below), np.float32)


@operation(
    "height_from_parts",
    version=1,
    title="Blend of two sets",
    output=MapKind.HEIGHT,
    inputs=(),
    blends=True,
    slots=_PARTS,
    parameters=DEPTHS,
)
def blend_heights(inputs: Inputs, parameters: Mapping[str, Any], surface: SurfaceContext) -> Float:
    """Blend heights in meters, then divide by the larger of the two depths.

    Parameters
    ----------
    inputs : below, above, weight: (H, W, 1) float32, [0, 1]

    Returns
    -------
    (H, W, 1) float32, [0, 1]
    """
    deepest = max(parameters["below_depth"], parameters["above_depth"], 1e-6)
    below = inputs["below"] * np.float32(parameters["below_depth"] / deepest)
    above = inputs["above"] * np.float32(parameters["above_depth"] / deepest)
    return np.asarray(below + inputs["mask"] * (above - below), np.float32)


@operation(
    "normal_from_parts",
    version=1,
    title="Blend of two sets",
    output=KindGroup.VECTORS,
    inputs=(),
    blends=True,
    surface_reads=("wrap", "tile_size"),
    slots=(*_PARTS, *_HEIGHTS),
    parameters=DEPTHS,
)
def blend_part_normals(
    inputs: Inputs, parameters: Mapping[str, Any], surface: SurfaceContext
) -> Float:
    """Blend normals by their slopes.

    If both heights are given, the step between the two reliefs has a slope, too: the slope of a
    blended height is (1 - s) a' + s b' + s' (b - a).

    Parameters
    ----------
    inputs : below, above: (H, W, 3) float32, unit vectors, Y up; weight and optional heights:
        (H, W, 1), [0, 1]

    Returns
    -------
    (H, W, 3) float32, unit vectors, Y up
    """
    below, above, share = _slopes(inputs["below"]), _slopes(inputs["above"]), inputs["mask"]
    slopes = below + share * (above - below)
    if "below_height" in inputs and "above_height" in inputs:
        metres = inputs["above_height"][:, :, 0] * np.float32(parameters["above_depth"])
        metres = metres - inputs["below_height"][:, :, 0] * np.float32(parameters["below_depth"])
        texel = surface.tile_size / share.shape[1]
        right, down = _gradient(share[:, :, 0], surface, texel)
        slopes[:, :, 0] -= right * metres
        slopes[:, :, 1] += down * metres
    ones = np.ones((*slopes.shape[:2], 1), np.float32)
    return normalize(np.concatenate([slopes, ones], axis=2))


def _slopes(normal: Float) -> Float:
    """Return x/z and y/z."""
    return np.asarray(normal[:, :, :2] / np.maximum(normal[:, :, 2:], _LEAST_Z), np.float32)


def _gradient(values: Float, surface: SurfaceContext, texel: float) -> tuple[Float, Float]:
    """Return the gradient per meter, to the right and downward, by central differences."""
    found = []
    for axis, meets in ((1, surface.wrap.across), (0, surface.wrap.down)):
        edges = [(1, 1) if n == axis else (0, 0) for n in (0, 1)]
        padded = np.pad(values, edges, mode="wrap" if meets else "edge")
        ahead = padded[2:] if axis == 0 else padded[:, 2:]
        behind = padded[:-2] if axis == 0 else padded[:, :-2]
        found.append(np.asarray((ahead - behind) / np.float32(2 * texel), np.float32))
    return found[0], found[1]
