"""Perceptually uniform encoding for mixing texels of a map, and its inverse."""

from __future__ import annotations

import numpy as np

from copper_sieve.core.image.encoding import linear_to_srgb, srgb_to_linear
from copper_sieve.core.image.map_kind import Meaning
from copper_sieve.core.image.normals import normalize
from copper_sieve.core.image.raster import Float

_LEAST_Z = np.float32(0.05)


def to_perceptual(pixels: Float, meaning: Meaning) -> Float:
    """Convert a map to a perceptually uniform encoding.

    Parameters
    ----------
    pixels : (H, W, C) float32
    meaning : of the values

    Returns
    -------
    float32: (H, W, C) sRGB-encoded colors, (H, W, 2) slopes of normals, or (H, W, C) data
    """
    if meaning is Meaning.COLOR:
        return linear_to_srgb(np.clip(pixels, 0, None))
    if meaning is Meaning.NORMAL:
        return np.ascontiguousarray(pixels[:, :, :2] / np.maximum(pixels[:, :, 2:], _LEAST_Z))
    return np.ascontiguousarray(pixels, dtype=np.float32)


def from_perceptual(values: Float, source: Float, meaning: Meaning) -> Float:
    """Invert `to_perceptual`.

    Parameters
    ----------
    values : result of `to_perceptual`, modified
    source : the original map; data is limited to its range
    meaning : of the map

    Returns
    -------
    (H, W, C) float32
    """
    if meaning is Meaning.COLOR:
        return srgb_to_linear(np.clip(values, 0, max(1.0, float(values.max()))))
    if meaning is Meaning.NORMAL:
        return normalize(np.dstack([values, np.ones(values.shape[:2], np.float32)]))
    return np.clip(values, source.min(), source.max())
