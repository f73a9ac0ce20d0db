"""Ambient occlusion from height: horizons in several directions, cosine weighted."""

from __future__ import annotations

from collections.abc import Mapping
from typing import Any

import numpy as np
from numba import njit, prange
from numpy.typing import NDArray

from copper_sieve.core.image.map_kind import MapKind
from copper_sieve.core.image.raster import Float
from copper_sieve.core.operations.declaration import Inputs, Parameter, Surface, operation
from copper_sieve.core.operations.horizon import (
    QUALITY,
    REACH,
    arccot,
    prepare_search,
    raise_horizon,
    slopes_of_row,
)
from copper_sieve.core.operations.spectrum import blur


@operation(
    "ambient_occlusion_from_height",
    version=2,
    title="From the height's horizons",
    output=MapKind.AMBIENT_OCCLUSION,
    inputs=(MapKind.HEIGHT,),
    surface_reads=("tile_size", "depth", "wrap"),
    parameters=(
        REACH,
        Parameter(
            "intensity", "Intensity", 1.0, "1 is physical; the exponent of the visibility",
            high=4.0, group="Shade",
        ),
        Parameter("softness", "Softness", 0.0, "blur of the shade", high=0.02, unit="tile",
                  group="Shade"),
        QUALITY,
    ),
)  # fmt: skip
def ambient_occlusion_from_height(
    inputs: Inputs, parameters: Mapping[str, Any], surface: Surface
) -> Float:
    """Derive the visibility of the upper hemisphere, cosine weighted, from a height map.

    With slopes in texel per texel, gradient (gx, gr), nz = 1 / sqrt(1 + |g|^2), N azimuths and
    t = gx cos + gr sin, u = max(t, horizon slope), c = 1 / (1 + u^2):
    AO = nz / N * sum(c - t (arccot u - u c)). Horizons are found at log-spaced steps over a
    pyramid that mixes mean and maximum.

    inputs : height (H, W, 1) float32, [0, 1]. Returns (H, W, 1) float32, [0, 1], 1 = open.
    """
    search = prepare_search(
        inputs[MapKind.HEIGHT][:, :, 0], surface,
        radius=parameters["radius"], quality=parameters["quality"],
    )  # fmt: skip
    shade = _visibility(
        search.field, search.atlas, search.starts, search.levels, search.steps,
        search.directions, search.border, surface.wrap,
    )  # fmt: skip
    if parameters["softness"]:
        shade = np.clip(blur(shade, parameters["softness"], wrap=surface.wrap), 0, 1)
    if parameters["intensity"] != 1:
        np.power(shade, np.float32(parameters["intensity"]), out=shade)
    return shade[:, :, None]


@njit(
    parallel=True, cache=True, nogil=True, error_model="numpy", fastmath={"contract", "nsz", "nnan"}
)
def _visibility(  # noqa: PLR0917
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
    out = np.empty((rows, columns), dtype=np.float32)
    one = np.float32(1)
    for r in prange(rows):
        gx = np.empty(columns, dtype=np.float32)
        gr = np.empty(columns, dtype=np.float32)
        along = np.empty(columns, dtype=np.float32)
        highest = np.empty(columns, dtype=np.float32)
        total = np.zeros(columns, dtype=np.float32)
        slopes_of_row(field, r, wrap, gx, gr)
        for k in range(len(directions)):
            across, down = directions[k, 0], directions[k, 1]
            for c in range(columns):
                along[c] = gx[c] * across + gr[c] * down
                highest[c] = along[c]
            raise_horizon(highest, field[r], r, atlas, starts, levels, steps, across, down, border)
            for c in range(columns):
                t = along[c]
                u = highest[c]
                share = one / (one + u * u)
                total[c] += share - t * (arccot(u) - u * share)
        for c in range(columns):
            steep = np.sqrt(one + gx[c] * gx[c] + gr[c] * gr[c])
            visible = total[c] / (np.float32(len(directions)) * steep)
            out[r, c] = min(max(visible, np.float32(0)), one)
    return out
