"""Horizons over a height field: log-spaced steps in several directions over a pyramid.

Shared by operations that need the visible part of the sky.
"""

from __future__ import annotations

from collections.abc import Callable, Mapping
from dataclasses import dataclass
from typing import Any

import numpy as np
from numba import njit, prange
from numpy.typing import NDArray

from copper_sieve.core.image import array_pool
from copper_sieve.core.image.raster import Float
from copper_sieve.core.image.wrap import Wrap
from copper_sieve.core.operations.declaration import Parameter, SurfaceContext

_NEAR_STEP, _NEAR = 0.5, 3.5  # texels: even steps as far as that, then a ratio
_STEP_RATIO = 1.15
_BETWEEN = 8  # texels: nearer steps, which decide most, are read between the texels
_FINER = 3  # a step reads texels of at most an eighth of its length
_MOST_SHARE = 0.25  # of the maximum in the levels; the rest is the mean
# Tiles small enough that the data read by one row stays in the cache.
TILE_WIDTH, TILE_ROWS = 1024, 64
# Odd, so that opposite walls, such as those of a joint, are sampled in different directions.
_AZIMUTHS = {"draft": 7, "good": 13, "best": 25}

REACH = Parameter(
    "radius", "Distance", 0.05, "largest distance at which relief occludes",
    low=0.002, high=0.25, unit="tile", group="Shade",
)  # fmt: skip
QUALITY = Parameter(
    "quality", "Quality", "good", "number of directions that are sampled",
    choices=tuple(_AZIMUTHS), group="Shade", form="choice"
)  # fmt: skip


@dataclass(frozen=True, slots=True)
class Search:
    """Inputs of the kernels: the field in texels with its pyramid, steps and directions.

    atlas : level 0 with a margin of `border` texels, followed by levels of half the rows each
    starts : first row of each level in the atlas
    levels : level of each step
    """

    atlas: Float
    starts: NDArray[np.int64]
    levels: NDArray[np.int64]
    steps: Float
    directions: Float
    border: int


def prepare_search(
    height: Float, surface: SurfaceContext, *, radius: float, quality: str
) -> Search:
    """Scale a height map to texels and prepare the horizon search.

    Parameters
    ----------
    height : (H, W) float32, [0, 1]
    surface : size, depth and tiling
    radius : search distance as a fraction of the tile
    quality : number of azimuths and steps; see `QUALITY`

    Returns
    -------
    Search
    """
    columns = height.shape[1]
    scale = np.float32(surface.depth * columns / surface.tile_size)
    reach = max(1.0, radius * columns)
    steps = _distances(reach)
    levels = np.maximum(np.floor(np.log2(steps)).astype(np.int64) - _FINER, 0)
    border = int(np.ceil(reach)) + 2
    atlas, starts = _pyramid(height, scale, int(levels.max()), border, surface.wrap)
    azimuths = _AZIMUTHS[quality]
    angles = 2 * np.pi * (np.arange(azimuths) + 0.5) / azimuths
    directions = np.stack([np.cos(angles), np.sin(angles)], axis=1).astype(np.float32)
    return Search(atlas, starts, levels, steps, directions, border)


def over_horizons(
    kernel: Callable[..., None],
    height: Float,
    parameters: Mapping[str, Any],
    surface: SurfaceContext,
    *channels: int,
) -> Float:
    """Apply a kernel to the horizons of every texel.

    Parameters
    ----------
    kernel : takes the fields of a `Search` and the output array
    height : (H, W, 1) float32, [0, 1]
    parameters : those of `REACH` and `QUALITY`
    surface : size, depth and tiling
    channels : further dimensions of the output

    Returns
    -------
    (H, W, *channels) float32
    """
    search = prepare_search(
        height[:, :, 0], surface, radius=parameters["radius"], quality=parameters["quality"]
    )
    out = array_pool.empty(*height.shape[:2], *channels)
    kernel(
        search.atlas, search.starts, search.levels, search.steps, search.directions,
        search.border, out,
    )  # fmt: skip
    return out


def _distances(reach: float) -> Float:
    near = np.arange(_NEAR_STEP, min(_NEAR, reach) + 1e-6, _NEAR_STEP)
    many = max(0, int(np.ceil(np.log(reach / near[-1]) / np.log(_STEP_RATIO))))
    return np.concatenate([near[:-1], np.geomspace(near[-1], reach, many + 1)]).astype(np.float32)


def _pyramid(
    height: Float, scale: np.float32, highest: int, border: int, wrap: Wrap
) -> tuple[Float, NDArray[np.int64]]:
    """Return levels of half the rows each, means blended with maxima, in one array.

    The field is padded by `border` texels first, so that no step leaves a level.

    Returns
    -------
    the array, and the first row of each level
    """
    size = 1 << highest
    rows, columns = (-(-(side + 2 * border) // size) * size for side in height.shape)
    heights = np.array([rows >> level for level in range(highest + 1)], dtype=np.int64)
    starts = np.concatenate([[0], np.cumsum(heights)[:-1]])
    atlas = array_pool.empty(int(heights.sum()), columns)
    across, down = (
        np.pad(
            np.arange(side), (border, padded - side - border), mode="wrap" if meet else "symmetric"
        )
        for side, padded, meet in (
            (height.shape[1], columns, wrap.across), (height.shape[0], rows, wrap.down)
        )
    )  # fmt: skip
    _scale_padded(height, scale, across, down, atlas)
    mean = most = atlas[:rows]
    for level in range(1, highest + 1):
        half = (rows >> level, columns >> level)
        coarse = array_pool.empty(*half), array_pool.empty(*half)
        # Full width again, so that a row is read texel by texel without stepping.
        _halve(mean, most, 1 << level, *coarse, atlas[starts[level] : starts[level] + half[0]])
        mean, most = coarse
    return atlas, starts


@njit(parallel=True, cache=True, nogil=True, error_model="numpy")
def _scale_padded(
    height: Float,
    scale: np.float32,
    across: NDArray[np.int64],
    down: NDArray[np.int64],
    atlas: Float,
) -> None:
    for r in prange(len(down)):
        row = height[down[r]]
        for c in range(len(across)):
            atlas[r, c] = row[across[c]] * scale


@njit(parallel=True, cache=True, nogil=True, error_model="numpy")
def _halve(  # noqa: PLR0917
    mean: Float, most: Float, width: int, half_mean: Float, half_most: Float, mixed: Float
) -> None:
    rows, columns = half_mean.shape
    quarter, share = np.float32(0.25), np.float32(_MOST_SHARE)
    for r in prange(rows):
        for c in range(columns):
            a = mean[2 * r, 2 * c] + mean[2 * r, 2 * c + 1]
            a = (a + mean[2 * r + 1, 2 * c] + mean[2 * r + 1, 2 * c + 1]) * quarter
            upper = max(most[2 * r, 2 * c], most[2 * r, 2 * c + 1])
            lower = max(most[2 * r + 1, 2 * c], most[2 * r + 1, 2 * c + 1])
            b = max(upper, lower)
            half_mean[r, c], half_most[r, c] = a, b
            both = a + (b - a) * share
            for k in range(width):
                mixed[r, c * width + k] = both


@njit(cache=True, nogil=True, error_model="numpy")
def slopes_of_run(  # noqa: PLR0917
    atlas: Float, border: int, r: int, first: int, gx: Float, gr: Float
) -> None:
    """Write central differences in texels per texel into `gx` (across) and `gr` (down).

    The run is in row r, starts at column `first`, and has the length of `gx`.
    """
    half = np.float32(0.5)
    x, y = first + border, r + border
    here = atlas[y, x - 1 : x + len(gx) + 1]
    above = atlas[y - 1, x : x + len(gx)]
    below = atlas[y + 1, x : x + len(gx)]
    for c in range(len(gx)):
        gx[c] = (here[c + 2] - here[c]) * half
        gr[c] = (below[c] - above[c]) * half


@njit(cache=True, nogil=True, error_model="numpy", fastmath={"contract", "nsz", "nnan"})
def raise_horizon(  # noqa: PLR0917
    highest: Float,
    r: int,
    first: int,
    atlas: Float,
    starts: NDArray[np.int64],
    levels: NDArray[np.int64],
    steps: Float,
    across_1: np.float32,
    down_1: np.float32,
    border: int,
) -> None:
    """Raise the horizon slope of each texel of a run in one direction.

    The run is in row r, starts at column `first`, and has the length of `highest`.
    """
    many = len(highest)
    here = atlas[r + border, first + border : first + border + many]
    one = np.float32(1)
    half = np.float32(0.5)
    for i in range(len(steps)):
        across = steps[i] * across_1
        down = steps[i] * down_1
        inverse = one / steps[i]
        if steps[i] < np.float32(_BETWEEN):
            y = int(np.floor(r + down)) + border
            x = int(np.floor(across)) + border
            fy = np.float32(r + down + border - y)
            fx = np.float32(across + border - x)
            upper = atlas[y, x + first : x + first + many + 1]
            lower = atlas[y + 1, x + first : x + first + many + 1]
            w00, w01 = (one - fy) * (one - fx) * inverse, (one - fy) * fx * inverse
            w10, w11 = fy * (one - fx) * inverse, fy * fx * inverse
            for c in range(many):
                there = upper[c] * w00 + upper[c + 1] * w01
                there += lower[c] * w10 + lower[c + 1] * w11
                highest[c] = max(highest[c], there - here[c] * inverse)
        else:
            level = levels[i]
            y = int(np.floor(r + half + down)) + border
            x = int(np.floor(half + across)) + border + first
            scan = atlas[starts[level] + (y >> level), x : x + many]
            for c in range(many):
                highest[c] = max(highest[c], (scan[c] - here[c]) * inverse)


@njit(cache=True, nogil=True, error_model="numpy", inline="always")
def arccot(u: np.float32) -> np.float32:
    """Return pi/2 - arctan(u) with an error below 2e-5, in a form that vectorizes."""
    size = abs(u)
    large = size > np.float32(1)
    x = np.float32(1) / size if large else size
    s = x * x
    series = np.float32(0.05265332) - s * np.float32(0.01172120)
    series = np.float32(-0.11643287) + s * series
    series = np.float32(0.19354346) + s * series
    series = np.float32(-0.33262347) + s * series
    angle = x * (np.float32(0.99997726) + s * series)
    angle = np.float32(np.pi / 2) - angle if large else angle
    return np.float32(np.pi / 2) - (angle if u >= np.float32(0) else -angle)
