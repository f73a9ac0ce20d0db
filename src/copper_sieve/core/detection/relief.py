"""Detect an inverted relief from other maps of the set; the result is only a hint.

An inverted relief negates both slopes, which doesn't affect the measured green direction. A
height map of the same set shows it directly; occlusion is open where the relief is convex.
"""

from __future__ import annotations

from dataclasses import dataclass
from typing import Literal

import cv2
import numpy as np

from copper_sieve.core.image.raster import Float

_SIDE = 512
_LEAST = 0.08  # of correlation
_LEAST_Z = np.float32(0.1)


@dataclass(frozen=True, slots=True)
class ReliefHint:
    """Agreement of another map with the relief, with its strength."""

    sense: Literal["upright", "inverted", "unknown"]
    correlation: float
    by: Literal["height", "occlusion"]


def relief_by_height(normal: Float, height: Float) -> ReliefHint:
    """Compare the slopes of a normal map with those of a height map of the same set.

    Parameters
    ----------
    normal : (H, W, 3) float32, unit vectors, Y up
    height : (H, W) float32, any size
    """
    p, q = _slopes(normal)
    h = _fitted(height, p)
    across, down = cv2.Sobel(h, cv2.CV_32F, 1, 0), cv2.Sobel(h, cv2.CV_32F, 0, 1)
    return _hint(_alike(np.stack([p, q]), np.stack([across, down])), "height")


def relief_by_occlusion(normal: Float, occlusion: Float) -> ReliefHint:
    """Compare the convexity of a normal map with occlusion: raised areas are unoccluded.

    Parameters
    ----------
    normal : (H, W, 3) float32, unit vectors, Y up
    occlusion : (H, W) float32, 1 = open, any size
    """
    p, q = _slopes(normal)
    convex = np.asarray(-(cv2.Sobel(p, cv2.CV_32F, 1, 0) + cv2.Sobel(q, cv2.CV_32F, 0, 1)))
    convex = np.asarray(cv2.GaussianBlur(convex, (0, 0), 1.5), dtype=np.float32)
    return _hint(_alike(convex, _fitted(occlusion, p)), "occlusion")


def _slopes(normal: Float) -> tuple[Float, Float]:
    """Return dh/dx and dh/dr, with r downward."""
    scale = min(1.0, _SIDE / max(normal.shape[:2]))
    size = (max(4, round(normal.shape[1] * scale)), max(4, round(normal.shape[0] * scale)))
    small = cv2.resize(np.ascontiguousarray(normal), size, interpolation=cv2.INTER_AREA)
    z = np.maximum(small[:, :, 2], _LEAST_Z)
    return np.ascontiguousarray(-small[:, :, 0] / z), np.ascontiguousarray(small[:, :, 1] / z)


def _fitted(values: Float, like: Float) -> Float:
    size = (like.shape[1], like.shape[0])
    fitted = cv2.resize(np.ascontiguousarray(values), size, interpolation=cv2.INTER_AREA)
    return np.asarray(fitted, dtype=np.float32)


def _alike(a: Float, b: Float) -> float:
    a, b = a - a.mean(), b - b.mean()
    size = float(np.sqrt((a * a).sum() * (b * b).sum()))
    return float((a * b).sum()) / size if size > 1e-9 else 0.0


def _hint(alike: float, by: Literal["height", "occlusion"]) -> ReliefHint:
    if abs(alike) < _LEAST:
        return ReliefHint("unknown", alike, by)
    return ReliefHint("upright" if alike > 0 else "inverted", alike, by)
