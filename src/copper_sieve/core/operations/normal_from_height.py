"""Normals from height by central differences, on the physical slope of the surface."""

from __future__ import annotations

from collections.abc import Mapping
from typing import Any

import numpy as np
from numba import njit, prange

from copper_sieve.core.image.map_kind import MapKind
from copper_sieve.core.image.raster import Float
from copper_sieve.core.operations.declaration import Parameter, Surface, operation
from copper_sieve.core.operations.spectrum import blur


@operation(
    "normal_from_height",
    version=1,
    title="From the height's slope",
    output=MapKind.NORMAL,
    inputs=(MapKind.HEIGHT,),
    surface_reads=("tile_size", "depth", "wrap"),
    parameters=(
        Parameter(
            "strength", "Strength", 1.0, "factor on the physical slope (depth / tile size)",
            high=8.0, group="Relief",
        ),
        Parameter(
            "smoothing", "Smoothing", 0.0, "blur of the height before the slope is taken",
            high=0.02, unit="tile", group="Relief",
        ),
        Parameter("invert", "Inside out", False, "bumps become dents", group="Relief"),
    ),
)  # fmt: skip
def normal_from_height(
    inputs: Mapping[MapKind, Float], parameters: Mapping[str, Any], surface: Surface
) -> Float:
    """Derive tangent-space normals from a height map.

    n is proportional to (-dh/dx, +dh/dr, 1), h in metres, x to the right, rows r downwards;
    central differences, wrapped or reflected at the borders.

    inputs : height (H, W, 1) float32, [0, 1]. Returns (H, W, 3) float32, unit vectors, Y up.
    """
    height = blur(inputs[MapKind.HEIGHT][:, :, 0], parameters["smoothing"], wrap=surface.wrap)
    factor = surface.depth * parameters["strength"] * height.shape[1] / surface.tile_size
    if parameters["invert"]:
        factor = -factor
    return _central(np.ascontiguousarray(height), np.float32(factor / 2), surface.wrap)


@njit(parallel=True, cache=True, nogil=True, error_model="numpy")
def _central(height: Float, half: np.float32, wrap: bool) -> Float:
    rows, columns = height.shape
    out = np.empty((rows, columns, 3), dtype=np.float32)
    for r in prange(rows):
        above = r - 1 if r > 0 else (rows - 1 if wrap else 0)
        below = r + 1 if r < rows - 1 else (0 if wrap else rows - 1)
        for c in range(columns):
            left = c - 1 if c > 0 else (columns - 1 if wrap else 0)
            right = c + 1 if c < columns - 1 else (0 if wrap else columns - 1)
            x = (height[r, left] - height[r, right]) * half
            y = (height[below, c] - height[above, c]) * half
            inverse = np.float32(1) / np.sqrt(x * x + y * y + np.float32(1))
            out[r, c, 0] = x * inverse
            out[r, c, 1] = y * inverse
            out[r, c, 2] = inverse
    return out
