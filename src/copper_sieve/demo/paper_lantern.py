"""A paper lantern: fibrous paper over bamboo ribs, and an emissive mask."""

from __future__ import annotations

import cv2
import numpy as np

from copper_sieve.core.image.raster import Float, Picture
from copper_sieve.demo.drawing import color_picture, data_picture, grid, mix, rgb, tiling_noise

_RIBS = 9


def _fibres(rng: np.random.Generator, size: int, count: int) -> Float:
    """Return crossing long fibers, tileable, 0 to about 1."""
    canvas = np.zeros((size * 3, size * 3), dtype=np.float32)
    for _ in range(count):
        start = rng.uniform(0, 1, 2) * size + size
        angle, bend = rng.uniform(0, 2 * np.pi), rng.normal(0, 0.9)
        steps = np.linspace(0, rng.uniform(0.06, 0.3) * size, 24)
        turn = angle + bend * steps / size * 4
        points = start + np.stack([np.cumsum(np.cos(turn)), np.cumsum(np.sin(turn))], axis=1) * (
            steps[1] - steps[0]
        )
        cv2.polylines(canvas, [np.round(points * 8).astype(np.int32)], isClosed=False,
                      color=float(rng.uniform(0.35, 1)), thickness=1, lineType=cv2.LINE_AA,
                      shift=3)  # fmt: skip
    folded = canvas.reshape(3, size, 3, size).max(axis=(0, 2))
    return np.asarray(cv2.GaussianBlur(folded, (0, 0), 0.7), dtype=np.float32)


def draw_paper_lantern(size: int = 1024, seed: int = 31) -> dict[str, Picture]:
    """Draw the color picture and the emissive mask."""
    rng = np.random.default_rng(seed)
    y, _ = grid(size)
    fibres = _fibres(rng, size, 900)
    rib = np.abs(((y * _RIBS + 0.02 * tiling_noise(rng, size, 3)) % 1) - 0.5) * 2
    bamboo = np.clip((rib - 0.9) / 0.05, 0, 1)
    clouds = tiling_noise(rng, size, 10)
    paper = mix(rgb(0.80, 0.73, 0.60), rgb(0.86, 0.81, 0.70), 0.5 + 0.5 * clouds)
    paper = mix(paper, rgb(0.66, 0.56, 0.42), 0.5 * fibres)
    color = mix(paper, rgb(0.34, 0.22, 0.12), 0.75 * bamboo)
    color *= (1 - 0.1 * np.clip((rib - 0.8) / 0.2, 0, 1))[:, :, None]
    glow = 0.72 + 0.14 * clouds - 0.22 * fibres + 0.1 * np.sin(2 * np.pi * (y - 0.25))
    glow *= 1 - 0.93 * bamboo
    return {"base_color": color_picture(color), "emissive_mask": data_picture(glow)}
