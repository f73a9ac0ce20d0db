"""Low frequencies of a picture from a reduced copy, because large blurs are slow."""

from __future__ import annotations

import cv2
import numpy as np

from copper_sieve.core.image.raster import Float


def low_frequencies(values: Float, sigma: float) -> Float:
    """Apply a low-pass filter to (H, W, C) float32, sigma in texels; borders are mirrored."""
    height, width, channels = values.shape
    scale = max(1.0, sigma / 4)
    size = (max(2, round(width / scale)), max(2, round(height / scale)))
    small = cv2.resize(np.ascontiguousarray(values), size, interpolation=cv2.INTER_AREA)
    small = cv2.GaussianBlur(small, (0, 0), max(0.5, sigma / scale))
    back = cv2.resize(small, (width, height), interpolation=cv2.INTER_CUBIC)
    return np.asarray(back, dtype=np.float32).reshape(height, width, channels)
