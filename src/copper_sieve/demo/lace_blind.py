"""A lace blind: a color picture of the thread, and a black and white opacity picture."""

from __future__ import annotations

from typing import Any

import cv2
import numpy as np
from numpy.typing import NDArray

from copper_sieve.core.image.raster import Picture
from copper_sieve.demo.drawing import color_picture, data_picture, grid, mix, rgb, tiling_noise

_MESH = 32  # diamonds of the net across the picture
_MOTIFS = 2


def _flower(y: NDArray[Any], x: NDArray[Any]) -> NDArray[Any]:
    """Return petals around a ring, in a cell from -1 to 1; positive inside."""
    radius, angle = np.hypot(x, y), np.arctan2(y, x)
    petals = 0.62 + 0.2 * np.cos(8 * angle) - radius
    ring = 0.06 - np.abs(radius - 0.2)
    leaf = 0.045 - np.abs(radius - 0.86 - 0.05 * np.cos(16 * angle))
    slits = 0.035 - np.abs(np.sin(4 * angle)) * radius * 0.5
    parts = [np.minimum(petals, -np.minimum(slits, radius - 0.26)), ring, leaf]
    return np.asarray(np.maximum.reduce(parts))


def draw_lace_blind(size: int = 1024, seed: int = 43) -> dict[str, Picture]:
    """Draw the color picture and the opacity picture (white is thread)."""
    rng = np.random.default_rng(seed)
    y, x = grid(size)
    wave_x = x + 0.0012 * tiling_noise(rng, size, 6)
    wave_y = y + 0.0012 * tiling_noise(rng, size, 6)
    across = np.abs(((wave_x + wave_y) * _MESH) % 1 - 0.5)
    down = np.abs(((wave_x - wave_y) * _MESH) % 1 - 0.5)
    net = 0.5 - np.minimum(0.5 - across, 0.5 - down) - 0.405
    cell_x, cell_y = (wave_x * _MOTIFS % 1) * 2 - 1, (wave_y * _MOTIFS % 1) * 2 - 1
    flower = _flower(cell_y, cell_x)
    offset = _flower(((wave_y * _MOTIFS + 0.5) % 1) * 2 - 1, ((wave_x * _MOTIFS + 0.5) % 1) * 2 - 1)
    solid = np.maximum(flower, np.where(offset > -0.62, offset - 0.34, -1))
    cover = np.clip(np.maximum(net * 26, solid * 90) * 0.5 + 0.5, 0, 1)
    cover = cv2.GaussianBlur(cover.astype(np.float32), (0, 0), 0.8)
    # The weave of the thread itself, finer in the solid parts.
    twist = 0.5 + 0.5 * np.sin(2 * np.pi * (wave_x * 190 + wave_y * 210))
    weave = np.sin(2 * np.pi * wave_x * 128) * np.sin(2 * np.pi * wave_y * 128)
    thread = np.where(solid > 0, 0.5 + 0.5 * weave, twist)
    relief = cv2.GaussianBlur(cover, (0, 0), 3.0)
    color = mix(rgb(0.58, 0.52, 0.43), rgb(0.85, 0.81, 0.74), 0.35 + 0.45 * thread * relief)
    color *= (1 + 0.04 * tiling_noise(rng, size, 6))[:, :, None]
    shade = 0.45 + 0.55 * np.clip(relief * 1.4, 0, 1)
    return {
        "base_color": color_picture(color * shade[:, :, None]),
        "opacity": data_picture((cover > 0.5).astype(np.float32)),
    }
