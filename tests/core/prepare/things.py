"""Pictures of things and patterns, drawn larger than they are cut: nothing meets at the borders."""

from __future__ import annotations

import cv2
import numpy as np
from scipy.ndimage import gaussian_filter

from copper_sieve.core.image.encoding import srgb_to_linear

SIDE = 448
_MARGIN = 160


def _photo(codes: np.ndarray, grain: float, seed: int) -> np.ndarray:
    noisy = codes + np.random.default_rng(seed).normal(0, grain, codes.shape)
    cut = noisy[_MARGIN // 2 - 9 :][:SIDE, _MARGIN // 2 - 5 :][:, :SIDE]
    return srgb_to_linear(np.clip(cut, 0, 1).astype(np.float32))


def bricks(brick: tuple[int, int] = (72, 30), loose: float = 0.0, seed: int = 0) -> np.ndarray:
    """Courses in running bond; loose : how far bricks lie off, in parts of their length."""
    rng = np.random.default_rng(seed)
    wide, high = brick
    codes = np.full((SIDE + _MARGIN, SIDE + _MARGIN, 3), 0.6)
    for row, y in enumerate(range(0, SIDE + _MARGIN, high)):
        for x in range(-wide + row % 2 * wide // 2, SIDE + _MARGIN, wide):
            color = np.array([0.5, 0.25, 0.18]) + rng.normal(0, 0.03, 3)
            left = int(x + rng.normal(0, loose * wide))
            ends = (left + 3, y + 3), (left + wide - 3, y + high - 3)
            cv2.rectangle(codes, *ends, tuple(map(float, color)), -1)
    return _photo(codes, 0.015, seed)


def basket(strand: int = 32) -> np.ndarray:
    """Strands over and under each other."""
    y, x = np.mgrid[0 : SIDE + _MARGIN, 0 : SIDE + _MARGIN]
    over = (x // strand + y // strand) % 2 == 0
    round_ = np.where(over, np.sin(np.pi * (y % strand) / strand),
                      np.sin(np.pi * (x % strand) / strand))  # fmt: skip
    along = np.where(over, np.sin(np.pi * (x % strand) / strand),
                     np.sin(np.pi * (y % strand) / strand))  # fmt: skip
    light = 0.25 + 0.45 * round_ * (0.6 + 0.4 * along)
    return _photo(light[:, :, None] * np.array([1, 0.85, 0.6]), 0.015, 1)


def boards(width: int = 64, seed: int = 3) -> np.ndarray:
    """Planks side by side, with grain along them that begins anew each SIDE."""
    rng = np.random.default_rng(seed)
    side = SIDE + _MARGIN
    lines = gaussian_filter(rng.normal(0, 1, (SIDE, side)), (40, 1.2), mode="wrap")
    lines = np.concatenate([lines, lines])[:side]
    codes = np.repeat((0.45 + 0.012 * lines / lines.std())[:, :, None], 3, axis=2)
    for x in range(0, side, width):
        codes[:, x : x + width] *= np.array([1, 0.8, 0.6])
        codes[:, x : x + 3] = 0.12
    return _photo(codes, 0.01, seed)


def coins(count: int = 28, seed: int = 0) -> np.ndarray:
    """Round things on a plain ground."""
    rng = np.random.default_rng(seed)
    codes = np.full((SIDE + _MARGIN, SIDE + _MARGIN, 3), (0.3, 0.22, 0.16))
    for _ in range(count):
        color = tuple(map(float, rng.uniform((0.6, 0.5, 0.3), (0.8, 0.7, 0.4))))
        middle = tuple(int(one) for one in rng.integers(0, SIDE + _MARGIN, 2))
        cv2.circle(codes, middle, 30, color, -1)
        cv2.circle(codes, middle, 23, tuple(one * 0.8 for one in color), 3)
    return _photo(codes, 0.02, seed)


def grit(seed: int = 5) -> np.ndarray:
    """Random detail of all sizes."""
    rng = np.random.default_rng(seed)
    side = SIDE + _MARGIN
    field = sum(
        cv2.GaussianBlur(rng.normal(0, 1, (side, side)), (0, 0), sigma) * sigma
        for sigma in (1, 2, 4, 8)
    )
    return _photo(np.repeat(0.4 + 0.07 * (field / field.std())[:, :, None], 3, axis=2), 0.01, seed)
