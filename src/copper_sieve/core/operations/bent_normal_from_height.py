"""Bent normals from height: the mean direction in which the sky is seen."""

from __future__ import annotations

from collections.abc import Mapping
from typing import Any

import numpy as np
from numba import njit, prange
from numpy.typing import NDArray

from copper_sieve.core.image.map_kind import MapKind
from copper_sieve.core.image.raster import Float
from copper_sieve.core.operations.declaration import Inputs, Surface, operation
from copper_sieve.core.operations.horizon import (
    QUALITY,
    REACH,
    arccot,
    prepare_search,
    raise_horizon,
    slopes_of_row,
)


@operation(
    "bent_normal_from_height",
    version=1,
    title="Where the sky is open",
    output=MapKind.BENT_NORMAL,
    inputs=(MapKind.HEIGHT,),
    surface_reads=("tile_size", "depth", "wrap"),
    parameters=(REACH, QUALITY),
)
def bent_normal_from_height(
    inputs: Inputs, parameters: Mapping[str, Any], surface: Surface
) -> Float:
    """Derive the mean unoccluded direction, each part of the visible sky weighted alike.

    Per azimuth with horizon elevation e the visible arc contributes (pi/2 - e)/2 - sin(2e)/4
    outwards and cos(e)^2 / 2 upwards; unoccluded, that is the surface's own normal.

    inputs : height (H, W, 1) float32, [0, 1]. Returns (H, W, 3) float32, unit vectors, Y up.
    """
    search = prepare_search(
        inputs[MapKind.HEIGHT][:, :, 0], surface,
        radius=parameters["radius"], quality=parameters["quality"],
    )  # fmt: skip
    return _open_direction(
        search.field, search.atlas, search.starts, search.levels, search.steps,
        search.directions, search.border, surface.wrap,
    )  # fmt: skip


@njit(
    parallel=True, cache=True, nogil=True, error_model="numpy", fastmath={"contract", "nsz", "nnan"}
)
def _open_direction(  # noqa: PLR0917
    field: Float,
    atlas: Float,
    starts: NDArray[np.int64],
    levels: NDArray[np.int64],
    steps: Float,
    directions: Float,
    border: int,
    wrap: bool,
) -> Float:
    rows, columns = field.shape
    out = np.empty((rows, columns, 3), dtype=np.float32)
    one, half = np.float32(1), np.float32(0.5)
    for r in prange(rows):
        gx = np.empty(columns, dtype=np.float32)
        gr = np.empty(columns, dtype=np.float32)
        highest = np.empty(columns, dtype=np.float32)
        total = np.zeros((3, columns), dtype=np.float32)
        slopes_of_row(field, r, wrap, gx, gr)
        for k in range(len(directions)):
            across, down = directions[k, 0], directions[k, 1]
            for c in range(columns):
                highest[c] = gx[c] * across + gr[c] * down
            raise_horizon(highest, field[r], r, atlas, starts, levels, steps, across, down, border)
            for c in range(columns):
                u = highest[c]
                share = one / (one + u * u)
                outwards = (arccot(u) - u * share) * half
                total[0, c] += outwards * across
                total[1, c] -= outwards * down  # rows grow downwards, Y upwards
                total[2, c] += share * half
        for c in range(columns):
            x, y, z = total[0, c], total[1, c], total[2, c]
            length = np.sqrt(x * x + y * y + z * z)
            inverse = one / max(length, np.float32(1e-9))
            out[r, c, 0], out[r, c, 1], out[r, c, 2] = x * inverse, y * inverse, z * inverse
    return out
