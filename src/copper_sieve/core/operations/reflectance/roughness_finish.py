"""Common steps of roughness operations: local lightness, median, blur and range."""

from __future__ import annotations

from collections.abc import Mapping
from typing import Any

import numpy as np

from copper_sieve.core.image.encoding import linear_to_srgb, luminance
from copper_sieve.core.image.raster import Float
from copper_sieve.core.image.wrap import Wrap
from copper_sieve.core.operations.declaration import Parameter, SurfaceContext
from copper_sieve.core.operations.numerics.spectrum import blur

_LIGHT_SIGMA = 1 / 8  # of the tile: larger is the light, not the surface
_SAMPLES = 1 << 18  # enough texels to know the median of a picture

ROUGHNESS_FINISH = (
    Parameter("low", "Minimum", 0.0, "lower limit", group="Range"),
    Parameter("high", "Maximum", 1.0, "upper limit", group="Range"),
    Parameter("smoothing", "Smoothing", 0.0, "blur radius of the result", high=0.02, unit="tile",
              group="Range"),
)  # fmt: skip


def local_lightness(color: Float, wrap: Wrap) -> Float:
    """Return lightness minus the mean lightness of the neighborhood.

    Parameters
    ----------
    color : (H, W, 3) float32, linear light
    wrap : tiling directions

    Returns
    -------
    (H, W) float32
    """
    grey = luminance(color)
    light = linear_to_srgb(np.clip(grey, 0, 1, out=grey))
    light -= blur(light, _LIGHT_SIGMA, wrap=wrap)
    return light


def move_median(rough: Float, median: float | None, contrast: float) -> Float:
    """Scale values around their median by `contrast`, then move the median; None keeps it."""
    if median is None and contrast == 1:
        return rough
    step = max(1, int(np.sqrt(rough.size / _SAMPLES)))
    present = np.float32(np.median(rough[::step, ::step]))
    wanted = present if median is None else np.float32(median)
    moved = rough * np.float32(contrast)
    moved += wanted - present * np.float32(contrast)
    return moved


def finish_roughness(rough: Float, parameters: Mapping[str, Any], surface: SurfaceContext) -> Float:
    """Blur and clamp roughness: (H, W) float32 to (H, W, 1) float32, within the stated range."""
    rough = blur(rough, parameters["smoothing"], wrap=surface.wrap)
    low, high = sorted((parameters["low"], parameters["high"]))
    return np.clip(rough, np.float32(low), np.float32(high))[:, :, None]
