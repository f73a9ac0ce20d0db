"""A photo-like picture of a tatami mat under uneven light, generated procedurally."""

from __future__ import annotations

import cv2
import numpy as np
from numpy.typing import NDArray

from copper_sieve.core.image.encoding import linear_to_srgb, quantize
from copper_sieve.core.image.raster import Encoding, Float, Picture

_RIBS = 30  # warp ribs across the picture, each with rush stalks running over it
_STALKS = 132  # rush stalks down the picture
_GREEN_STRAW = np.array([0.46, 0.41, 0.16], dtype=np.float32)  # linear light
_OLD_STRAW = np.array([0.62, 0.47, 0.22], dtype=np.float32)


def _noise(rng: np.random.Generator, size: int, cells_x: int, cells_y: int) -> Float:
    """Return smooth noise, about -1 to 1, with this number of cells across and down."""
    grid = rng.standard_normal((cells_y + 1, cells_x + 1)).astype(np.float32)
    return np.asarray(cv2.resize(grid, (size, size), interpolation=cv2.INTER_CUBIC))


def draw_tatami_weave(size: int = 1024, seed: int = 7) -> Picture:
    """Draw the color photo: (size, size, 3) uint8 sRGB codes, identical for the same seed."""
    rng = np.random.default_rng(seed)
    y, x = np.mgrid[0:size, 0:size].astype(np.float32) / size
    # Ribs are never quite even, and the mat is slightly rotated.
    x = x + 0.0016 * _noise(rng, size, 6, 9) + 0.006 * y
    y = y + 0.0011 * _noise(rng, size, 14, 8) - 0.004 * x
    rib = x * _RIBS
    stalk = y * _STALKS + 0.25 * _noise(rng, size, 3, 40)
    over = (np.floor(rib) + np.floor(stalk)) % 2  # plain weave: stalks pass over every other rib
    across_rib = np.sin(np.pi * (rib % 1))
    across_stalk = np.sin(np.pi * (stalk % 1)) ** 0.7
    arch = np.where(over > 0, across_rib, 0.55 * across_rib - 0.1)
    relief = 0.25 + 0.5 * arch * across_stalk + 0.25 * across_stalk
    fibre = _noise(rng, size, 64, size // 2)
    relief += 0.035 * fibre + 0.01 * rng.standard_normal((size, size)).astype(np.float32)
    # Each stalk has its own tint that varies along its length.
    stalk_row = np.floor(stalk).astype(np.int64) % _STALKS
    tint = rng.random(_STALKS).astype(np.float32)[stalk_row] * 0.55
    tint = np.clip(tint + 0.25 + 0.22 * _noise(rng, size, 10, 90), 0, 1)
    color = _GREEN_STRAW + (_OLD_STRAW - _GREEN_STRAW) * tint[:, :, None]
    worn = np.clip(_noise(rng, size, 4, 5) - 0.5, 0, 1)
    color = color * (1 - 0.28 * worn[:, :, None]) + 0.05 * worn[:, :, None]
    slope = np.gradient(relief, axis=1) + 0.7 * np.gradient(relief, axis=0)
    shading = (0.42 + 0.58 * np.clip(relief, 0, 1)) * (1 - 1.5 * np.clip(slope, -0.25, 0.25))
    light = _uneven_light(x, y)
    photo = color * shading[:, :, None] * light[:, :, None]
    photo *= np.array([1.04, 1.0, 0.93], dtype=np.float32)  # late sun
    photo += 0.004 * rng.standard_normal((size, size, 1)).astype(np.float32)
    codes = quantize(linear_to_srgb(np.clip(photo, 0, 1)), 8)
    return Picture(codes, ("R", "G", "B"), Encoding.SRGB)


def _uneven_light(x: Float, y: Float) -> NDArray[np.float32]:
    """Return light from a window at the upper left, a soft shadow at the bottom, darker corners."""
    window = 0.75 * np.exp(-((x - 0.12) ** 2 + (y - 0.1) ** 2) / 0.28)
    shadow = 0.3 / (1 + np.exp(-(y - 0.86 - 0.1 * x) * 26))
    corners = 0.35 * ((x - 0.5) ** 2 + (y - 0.5) ** 2)
    return np.asarray(0.72 + window - shadow - corners, dtype=np.float32)
