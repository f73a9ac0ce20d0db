"""A terrazzo counter: base color, and one packed texture with undocumented channels."""

from __future__ import annotations

import cv2
import numpy as np

from copper_sieve.core.image.raster import Float, Picture
from copper_sieve.demo.drawing import Cells, cells, color_picture, data_picture, rgb, tiling_noise

_CEMENT = rgb(0.60, 0.57, 0.52)
_STONES = (
    rgb(0.80, 0.77, 0.72), rgb(0.36, 0.33, 0.31), rgb(0.52, 0.30, 0.22),
    rgb(0.24, 0.29, 0.26), rgb(0.70, 0.56, 0.40),
)  # fmt: skip
_BRASS = rgb(0.88, 0.70, 0.38)


def _chips(rng: np.random.Generator, size: int, count: int, gap: float) -> tuple[Float, Cells]:
    """Return 1 inside stone chips with straight broken edges, and the index of the chip."""
    found = cells(rng, size, count)
    edge = (found.second - found.first) - gap * (0.6 + rng.random(count).astype(np.float32))[
        found.nearest
    ]
    edge += 0.15 * gap * tiling_noise(rng, size, 60)
    return np.asarray(np.clip(edge * size / 1.6, 0, 1), np.float32), found


def draw_terrazzo_counter(size: int = 1024, seed: int = 23) -> dict[str, Picture]:
    """Draw base color, and a picture with roughness, metallic, occlusion in R, G and B."""
    rng = np.random.default_rng(seed)
    color = _CEMENT * (1 + 0.07 * tiling_noise(rng, size, 120, 0.8))[:, :, None]
    rough = 0.5 + 0.06 * tiling_noise(rng, size, 60)
    metal = np.zeros((size, size), dtype=np.float32)
    occlusion = np.ones((size, size), dtype=np.float32)
    for count, gap in ((40 * 40, 0.010), (17 * 17, 0.022)):
        inside, found = _chips(rng, size, count, gap)
        number = found.nearest
        there = rng.random(count) < (0.45 if count > 1000 else 0.62)
        brass = rng.random(count) < 0.04
        tint = np.array([_STONES[i] for i in rng.integers(0, len(_STONES), count)])
        tint = tint * rng.uniform(0.82, 1.12, (count, 1))
        tint[brass] = _BRASS
        share = inside * there[number]
        vein = 1 + 0.12 * tiling_noise(rng, size, 25, 0.9) * ~brass[number]
        chip = tint[number].astype(np.float32) * vein[:, :, None]
        color = color * (1 - share[:, :, None]) + chip * share[:, :, None]
        smooth = np.where(brass, 0.22, rng.uniform(0.10, 0.2, count))[number]
        rough = rough * (1 - share) + smooth.astype(np.float32) * share
        metal = metal * (1 - share) + brass[number].astype(np.float32) * share
        rim = np.exp(-(((inside - 0.5) / 0.3) ** 2)) * there[number]
        occlusion = np.minimum(occlusion, 1 - 0.22 * cv2.GaussianBlur(rim, (0, 0), 1.2))
    polish = 0.04 * tiling_noise(rng, size, 4)
    return {
        "base_color": color_picture(color),
        "packed": data_picture(rough + polish, metal, occlusion),
    }
