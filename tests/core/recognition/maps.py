"""Height fields of many kinds, normal maps from them, and what happens to such files."""

from __future__ import annotations

import io
from collections.abc import Callable
from functools import cache

import cv2
import numpy as np
from PIL import Image
from scipy import ndimage
from scipy.spatial import cKDTree

Field = np.ndarray


def _grid(n: int) -> tuple[Field, Field]:
    y, x = np.mgrid[0:n, 0:n] / n
    return y, x


def fractal(seed: int, n: int, slope: float, low: float = 1, high: float | None = None) -> Field:
    spectrum = np.fft.rfft2(np.random.default_rng(seed).normal(size=(n, n)))
    f = np.hypot(np.fft.fftfreq(n)[:, None] * n, np.fft.rfftfreq(n)[None] * n)
    gain = np.where((f >= low) & (f <= (high or n / 4)), np.maximum(f, 1) ** -slope, 0)
    field = np.fft.irfft2(spectrum * gain)
    return (field - field.min()) / np.ptp(field)


def _bumps(seed: int, n: int, count: int, low: float, high: float) -> Field:
    rng, along = np.random.default_rng(seed), np.arange(n) / n
    field = np.zeros((n, n))
    for (py, px), radius in zip(rng.random((count, 2)), rng.uniform(low, high, count), strict=True):
        dy, dx = ((along - place + 0.5) % 1 - 0.5 for place in (py, px))
        rows, columns = (np.flatnonzero(np.abs(one) <= radius) for one in (dy, dx))
        there = np.ix_(rows, columns)
        left = radius**2 - dy[rows, None] * dy[rows, None] - dx[columns] * dx[columns]
        field[there] = np.maximum(field[there], np.sqrt(np.maximum(0, left)))
    return ndimage.gaussian_filter(field / field.max(), 1, mode="wrap")


def _bricks(seed: int, n: int) -> Field:
    y, x = _grid(n)
    down, across = y * 8 % 1, (x * 4 + 0.5 * ((y * 8).astype(int) % 2)) % 1
    rim = np.minimum(np.minimum(across, 1 - across) * 2, np.minimum(down, 1 - down))
    soft = ndimage.gaussian_filter(np.clip((rim - 0.04) / 0.08, 0, 1), 1.5, mode="wrap")
    return soft + 0.04 * fractal(seed, n, 1.5)


def _weave(seed: int, n: int) -> Field:
    y, x = (2 * np.pi * one for one in _grid(n))
    over = np.abs(np.sin(12 * x)) * (0.5 + 0.5 * np.sin(12 * y))
    under = np.abs(np.sin(12 * y)) * (0.5 - 0.5 * np.sin(12 * x))
    return ndimage.gaussian_filter(over + under, 1, mode="wrap") / 2 + 0.03 * fractal(seed, n, 1.5)


def _scratches(seed: int, n: int) -> Field:
    rng, field = np.random.default_rng(seed), np.ones((n, n), np.float32)
    for _ in range(n * 3 // 5):
        start, angle = rng.integers(0, n, 2), rng.uniform(0, np.pi)
        end = start + rng.integers(20, 200) * np.array([np.cos(angle), np.sin(angle)])
        ends = [tuple(int(v) for v in one) for one in (start, end)]
        cv2.line(field, *ends, float(rng.uniform(0.2, 0.8)), int(rng.integers(1, 3)), cv2.LINE_AA)
    return ndimage.gaussian_filter(field, 1)


def _cracks(seed: int, n: int) -> Field:
    points = np.random.default_rng(seed).random((80, 2))
    around = [points + np.array([i, j]) for i in (-1, 0, 1) for j in (-1, 0, 1)]
    near, _ = cKDTree(np.concatenate(around)).query(np.stack(_grid(n), -1), k=2)
    field = np.clip((near[..., 1] - near[..., 0]) * 25, 0, 1)
    return ndimage.gaussian_filter(field, 1.2, mode="wrap") + 0.1 * fractal(seed, n, 2)


def _wood(seed: int, n: int) -> Field:
    _, x = _grid(n)
    rings = np.sin(2 * np.pi * (14 * x + 4 * fractal(seed, n, 2.5, high=12)))
    return 0.5 + 0.4 * rings + 0.08 * fractal(seed + 3, n, 1.2)


def _stones(seed: int, n: int) -> Field:
    return 0.8 * fractal(seed, n, 2.2) + 0.2 * np.abs(fractal(seed + 1, n, 1.2) - 0.5)


FIELDS: dict[str, Callable[[int, int], Field]] = {
    "bricks": _bricks,
    "pebbles": lambda seed, n: _bumps(seed, n, 250, 0.02, 0.06),
    "hammered": lambda seed, n: 1 - _bumps(seed, n, 120, 0.05, 0.1),
    "weave": _weave,
    "scratches": _scratches,
    "cracks": _cracks,
    "stones": _stones,
    "wood": _wood,
    "rough": lambda seed, n: fractal(seed, n, 1.0),
    "soft": lambda seed, n: fractal(seed, n, 2.0, high=30),
    "fine": lambda seed, n: fractal(seed, n, 0.5, low=20),
}


@cache
def relief(kind: str, seed: int, n: int) -> Field:
    """A height field in [0, 1], (n, n), which cannot be written to."""
    field = FIELDS[kind](seed, n)
    field = (field - field.min()) / np.ptp(field)
    field.flags.writeable = False
    return field


def normals(field: Field, strength: float, *, down: bool, kernel: str = "central") -> Field:
    """Unit vectors of a tiling field; strength 1 is a slope of 0.35, root mean square."""
    if kernel == "central":
        gx = (np.roll(field, -1, 1) - np.roll(field, 1, 1)) / 2
        gr = (np.roll(field, -1, 0) - np.roll(field, 1, 0)) / 2
    elif kernel == "sobel":
        gx, gr = (ndimage.sobel(field, axis, mode="wrap") / 8 for axis in (1, 0))
    else:
        gx, gr = np.roll(field, -1, 1) - field, np.roll(field, -1, 0) - field
    gain = strength * 0.35 / np.sqrt(np.mean(gx**2 + gr**2))
    vectors = np.stack([-gx * gain, gr * gain * (-1 if down else 1), np.ones_like(gx)], -1)
    return vectors / np.linalg.norm(vectors, axis=-1, keepdims=True)


def encoded(vectors: Field) -> np.ndarray:
    """8-bit codes."""
    return np.round((np.clip(vectors, -1, 1) * 0.5 + 0.5) * 255).astype(np.uint8)


def jpeg(codes: np.ndarray, quality: int) -> np.ndarray:
    held = io.BytesIO()
    Image.fromarray(codes).save(held, "JPEG", quality=quality)
    return np.asarray(Image.open(held))


def noisy(codes: np.ndarray, sigma: float) -> np.ndarray:
    noise = np.random.default_rng(5).normal(size=codes.shape) * sigma
    return np.clip(np.round(codes + noise), 0, 255).astype(np.uint8)


def blended(a: Field, b: Field) -> Field:
    """The normals of the summed heights."""
    out = a * b[..., 2:] + b * a[..., 2:]
    out[..., 2] = a[..., 2] * b[..., 2]
    return out / np.linalg.norm(out, axis=-1, keepdims=True)
