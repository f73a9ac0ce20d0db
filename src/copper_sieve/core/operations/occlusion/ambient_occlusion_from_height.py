"""Ambient occlusion from height: horizons in several directions, cosine weighted."""

from __future__ import annotations

from collections.abc import Mapping
from typing import Any

import numpy as np
from numba import njit, prange
from numpy.typing import NDArray

from copper_sieve.core.image.map_kind import MapKind
from copper_sieve.core.image.raster import Float
from copper_sieve.core.operations.declaration import Inputs, Parameter, SurfaceContext, operation
from copper_sieve.core.operations.numerics.memo import memoized
from copper_sieve.core.operations.numerics.spectrum import blur
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
    "ambient_occlusion_from_height",
    version=3,
    title="Horizon-based from height",
    output=MapKind.AMBIENT_OCCLUSION,
    inputs=(MapKind.HEIGHT,),
    surface_reads=("tile_size", "depth", "wrap"),
    parameters=(
        REACH,
        Parameter(
            "intensity", "Intensity", 1.0, "exponent of the visibility; 1 is physically correct",
            high=4.0, group="Shade",
        ),
        Parameter("softness", "Softness", 0.0,
            "blur radius of the occlusion", high=0.02, unit="tile",
                  group="Shade"),
        QUALITY,
    ), default=True,
)  # fmt: skip
def ambient_occlusion_from_height(
    inputs: Inputs, parameters: Mapping[str, Any], surface: SurfaceContext
) -> Float:
    """Derive the visibility of the upper hemisphere, cosine weighted, from a height map.

    With slopes in texels per texel, gradient (gx, gr), nz = 1 / sqrt(1 + |g|^2), N azimuths and
    t = gx cos + gr sin, u = max(t, horizon slope), c = 1 / (1 + u^2):
    AO = nz / N * sum(c - t (arccot u - u c)). Horizons are found at log-spaced steps over a
    pyramid of means blended with maxima.

    Parameters
    ----------
    inputs : height (H, W, 1) float32, [0, 1]

    Returns
    -------
    (H, W, 1) float32, [0, 1], 1 = open
    """
    height = inputs[MapKind.HEIGHT]
    shade = memoized(
        "ambient_occlusion_from_height", height,
        (parameters["radius"], parameters["quality"], surface),
        lambda: over_horizons(_visibility, height, parameters, surface),
    )  # fmt: skip
    if parameters["softness"]:
        shade = np.clip(blur(shade, parameters["softness"], wrap=surface.wrap), 0, 1)
    if parameters["intensity"] != 1:
        shade = np.power(shade, np.float32(parameters["intensity"]))
    return shade[:, :, None]


@njit(
    parallel=True, cache=True, nogil=True, error_model="numpy", fastmath={"contract", "nsz", "nnan"}
)
def _visibility(  # noqa: PLR0917
    atlas: Float,
    starts: NDArray[np.int64],
    levels: NDArray[np.int64],
    steps: Float,
    directions: Float,
    border: int,
    out: Float,
) -> None:
    rows, columns = out.shape
    one = np.float32(1)
    wide = -(-columns // TILE_WIDTH)
    for tile in prange(wide * -(-rows // TILE_ROWS)):
        first = tile % wide * TILE_WIDTH
        many = min(columns - first, TILE_WIDTH)
        gx = np.empty(many, dtype=np.float32)
        gr = np.empty(many, dtype=np.float32)
        along = np.empty(many, dtype=np.float32)
        highest = np.empty(many, dtype=np.float32)
        total = np.empty(many, dtype=np.float32)
        for r in range(tile // wide * TILE_ROWS, min(rows, (tile // wide + 1) * TILE_ROWS)):
            slopes_of_run(atlas, border, r, first, gx, gr)
            total[:] = 0
            for k in range(len(directions)):
                across, down = directions[k, 0], directions[k, 1]
                for c in range(many):
                    along[c] = gx[c] * across + gr[c] * down
                    highest[c] = along[c]
                raise_horizon(highest, r, first, atlas, starts, levels, steps, across, down, border)
                for c in range(many):
                    t = along[c]
                    u = highest[c]
                    share = one / (one + u * u)
                    total[c] += share - t * (arccot(u) - u * share)
            for c in range(many):
                steep = np.sqrt(one + gx[c] * gx[c] + gr[c] * gr[c])
                visible = total[c] / (np.float32(len(directions)) * steep)
                out[r, first + c] = min(max(visible, np.float32(0)), one)
