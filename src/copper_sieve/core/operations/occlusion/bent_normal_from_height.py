"""Bent normals from height: the mean unoccluded direction."""

from __future__ import annotations

from collections.abc import Mapping
from typing import Any

import numpy as np
from numba import njit, prange
from numpy.typing import NDArray

from copper_sieve.core.image.map_kind import MapKind
from copper_sieve.core.image.raster import Float
from copper_sieve.core.operations.declaration import Inputs, SurfaceContext, operation
from copper_sieve.core.operations.occlusion.horizon import (
    QUALITY,
    REACH,
    TILE_ROWS,
    TILE_WIDTH,
    arccot,
    over_horizons,
    raise_horizon,
    slopes_of_run,
)


@operation(
    "bent_normal_from_height",
    version=2,
    title="Sky visibility",
    output=MapKind.BENT_NORMAL,
    inputs=(MapKind.HEIGHT,),
    surface_reads=("tile_size", "depth", "wrap"),
    parameters=(REACH, QUALITY),
    default=True,
)
def bent_normal_from_height(
    inputs: Inputs, parameters: Mapping[str, Any], surface: SurfaceContext
) -> Float:
    """Derive the mean unoccluded direction, with uniform weight over the visible sky.

    Per azimuth with horizon elevation e, the visible arc contributes (pi/2 - e)/2 - sin(2e)/4
    outward and cos(e)^2 / 2 upward; without occlusion, the result is the surface normal.

    Parameters
    ----------
    inputs : height (H, W, 1) float32, [0, 1]

    Returns
    -------
    (H, W, 3) float32, unit vectors, Y up
    """
    return over_horizons(_open_direction, inputs[MapKind.HEIGHT], parameters, surface, 3)


@njit(
    parallel=True, cache=True, nogil=True, error_model="numpy", fastmath={"contract", "nsz", "nnan"}
)
def _open_direction(  # noqa: PLR0917
    atlas: Float,
    starts: NDArray[np.int64],
    levels: NDArray[np.int64],
    steps: Float,
    directions: Float,
    border: int,
    out: Float,
) -> None:
    rows, columns, _ = out.shape
    one, half = np.float32(1), np.float32(0.5)
    wide = -(-columns // TILE_WIDTH)
    for tile in prange(wide * -(-rows // TILE_ROWS)):
        first = tile % wide * TILE_WIDTH
        many = min(columns - first, TILE_WIDTH)
        gx = np.empty(many, dtype=np.float32)
        gr = np.empty(many, dtype=np.float32)
        highest = np.empty(many, dtype=np.float32)
        total = np.empty((3, many), dtype=np.float32)
        for r in range(tile // wide * TILE_ROWS, min(rows, (tile // wide + 1) * TILE_ROWS)):
            slopes_of_run(atlas, border, r, first, gx, gr)
            total[:] = 0
            for k in range(len(directions)):
                across, down = directions[k, 0], directions[k, 1]
                for c in range(many):
                    highest[c] = gx[c] * across + gr[c] * down
                raise_horizon(highest, r, first, atlas, starts, levels, steps, across, down, border)
                for c in range(many):
                    u = highest[c]
                    share = one / (one + u * u)
                    outwards = (arccot(u) - u * share) * half
                    total[0, c] += outwards * across
                    total[1, c] -= outwards * down  # rows grow downwards, Y upwards
                    total[2, c] += share * half
            for c in range(many):
                x, y, z = total[0, c], total[1, c], total[2, c]
                inverse = one / max(np.sqrt(x * x + y * y + z * z), np.float32(1e-9))
                x, y, z = x * inverse, y * inverse, z * inverse
                out[r, first + c, 0], out[r, first + c, 1], out[r, first + c, 2] = x, y, z
