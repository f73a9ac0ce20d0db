"""Horizons over a height field: log-spaced steps in several directions over a pyramid.

Shared by what needs to know how much of the sky a point sees, and which part of it.
"""

from __future__ import annotations

from dataclasses import dataclass

import cv2
import numpy as np
from numba import njit
from numpy.typing import NDArray

from copper_sieve.core.image.raster import Float
from copper_sieve.core.operations.declaration import Parameter, Surface

_STEP_RATIO = 1.2
_FINER = 2  # a step reads texels of at most a quarter of its length
_AZIMUTHS = {"draft": 6, "good": 8, "best": 16}

REACH = Parameter(
    "radius", "Reach", 0.05, "how far occluders are looked for",
    low=0.002, high=0.25, unit="tile", group="Shade",
)  # fmt: skip
QUALITY = Parameter(
    "quality", "Quality", "good", "number of directions looked in",
    choices=tuple(_AZIMUTHS), group="Shade",
)  # fmt: skip


@dataclass(frozen=True, slots=True)
class Search:
    """What the sweeps read: the field in texels, its pyramid, the steps and the directions."""

    field: Float
    atlas: Float
    starts: NDArray[np.int64]
    levels: NDArray[np.int64]
    steps: Float
    directions: Float
    border: int


def prepare_search(height: Float, surface: Surface, *, radius: float, quality: str) -> Search:
    """Scale a height map (H, W) to texels and lay out how its horizons are looked for."""
    columns = height.shape[1]
    field = np.ascontiguousarray(height * np.float32(surface.depth * columns / surface.tile_size))
    reach = max(1.0, radius * columns)
    steps = np.exp(np.arange(0, np.log(reach) + 1e-9, np.log(_STEP_RATIO))).astype(np.float32)
    levels = np.maximum(np.floor(np.log2(steps)).astype(np.int64) - _FINER, 0)
    border = int(np.ceil(reach)) + 2
    atlas, starts = _pyramid(field, levels, border, surface.wrap)
    azimuths = _AZIMUTHS[quality]
    angles = 2 * np.pi * (np.arange(azimuths) + 0.5) / azimuths
    directions = np.stack([np.cos(angles), np.sin(angles)], axis=1).astype(np.float32)
    return Search(field, atlas, starts, levels, steps, directions, border)


def _pyramid(
    field: Float, levels: NDArray[np.int64], border: int, wrap: bool
) -> tuple[Float, NDArray[np.int64]]:
    """Levels of half the rows each, half mean and half maximum, below each other in one array.

    The field is padded by `border` texels first, so that no step ever leaves a level. Returns the
    array and the row at which each level starts.
    """
    size = 1 << int(levels.max())
    rows, columns = field.shape
    more = (-(rows + 2 * border) % size, -(columns + 2 * border) % size)
    mean = highest = np.pad(
        field,
        ((border, border + more[0]), (border, border + more[1])),
        mode="wrap" if wrap else "symmetric",
    )
    pyramid = [mean]
    for level in range(1, int(levels.max()) + 1):
        rows, columns = mean.shape[0] // 2, mean.shape[1] // 2
        highest = highest.reshape(rows, 2, columns, 2).max(axis=(1, 3))
        mean = np.asarray(
            cv2.resize(mean, (columns, rows), interpolation=cv2.INTER_AREA), np.float32
        )
        # Full width again, so that a row is read texel by texel without stepping.
        pyramid.append(np.repeat((mean + highest) / 2, 1 << level, axis=1))
    heights = np.array([level.shape[0] for level in pyramid], dtype=np.int64)
    starts = np.concatenate([[0], np.cumsum(heights)[:-1]])
    return np.concatenate(pyramid), starts


@njit(cache=True, nogil=True, error_model="numpy")
def slopes_of_row(field: Float, r: int, wrap: bool, gx: Float, gr: Float) -> None:
    """Central differences of one row, texel per texel, into gx (across) and gr (down)."""
    rows, columns = field.shape
    half = np.float32(0.5)
    here = field[r]
    above = r - 1 if r > 0 else (rows - 1 if wrap else 0)
    below = r + 1 if r < rows - 1 else (0 if wrap else rows - 1)
    for c in range(columns):
        left = c - 1 if c > 0 else (columns - 1 if wrap else 0)
        right = c + 1 if c < columns - 1 else (0 if wrap else columns - 1)
        gx[c] = (here[right] - here[left]) * half
        gr[c] = (field[below, c] - field[above, c]) * half


@njit(cache=True, nogil=True, error_model="numpy", fastmath={"contract", "nsz", "nnan"})
def raise_horizon(  # noqa: PLR0917
    highest: Float,
    here: Float,
    r: int,
    atlas: Float,
    starts: NDArray[np.int64],
    levels: NDArray[np.int64],
    steps: Float,
    across_1: np.float32,
    down_1: np.float32,
    border: int,
) -> None:
    """Raise the slope of the horizon of each texel of row r in one direction to what is there."""
    columns = len(here)
    one = np.float32(1)
    half = np.float32(0.5)
    for i in range(len(steps)):
        level = levels[i]
        across = steps[i] * across_1
        down = steps[i] * down_1
        inverse = one / steps[i]
        if level == 0:  # the near steps decide most: read them between the texels
            y = int(np.floor(r + down))
            x = int(np.floor(across)) + border
            fy = np.float32(r + down - y)
            fx = np.float32(across + border - x)
            upper = atlas[y + border, x : x + columns + 1]
            lower = atlas[y + border + 1, x : x + columns + 1]
            w00, w01 = (one - fy) * (one - fx), (one - fy) * fx
            w10, w11 = fy * (one - fx), fy * fx
            for c in range(columns):
                there = upper[c] * w00 + upper[c + 1] * w01
                there += lower[c] * w10 + lower[c + 1] * w11
                highest[c] = max(highest[c], (there - here[c]) * inverse)
        else:
            y = int(np.floor(r + half + down)) + border
            x = int(np.floor(half + across)) + border
            scan = atlas[starts[level] + (y >> level), x : x + columns]
            for c in range(columns):
                highest[c] = max(highest[c], (scan[c] - here[c]) * inverse)


@njit(cache=True, nogil=True, error_model="numpy", inline="always")
def arccot(u: np.float32) -> np.float32:
    """pi/2 - arctan(u) to within 2e-5, in a form that a compiler can do for many at once."""
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
