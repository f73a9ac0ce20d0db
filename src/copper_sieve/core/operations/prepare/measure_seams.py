"""Visibility of the seams of a repeated picture, and the contrast lost by closing them."""

from __future__ import annotations

from dataclasses import dataclass
from typing import Literal

import cv2
import numpy as np

from copper_sieve.core.image.raster import Float

_FINE = 1 / 128  # of the width: smaller than this counts as contrast


@dataclass(frozen=True, slots=True)
class SeamVisibility:
    """The worse axis; 1 is invisible.

    visibility : mean |difference| across the wrap over the median of the interior columns (rows)
    deviations : the same difference in median absolute deviations above that median
    axis : "x" (left and right borders) or "y" (top and bottom)
    """

    visibility: float
    deviations: float
    axis: Literal["x", "y"]


def seam_visibility(values: Float) -> SeamVisibility:
    """Measure the visibility of the seams when a picture is repeated.

    Parameters
    ----------
    values : (H, W) or (H, W, C) float32, in a perceptually uniform encoding
    """
    across, down = _along(values, "x"), _along(np.swapaxes(values, 0, 1), "y")
    return across if across.visibility >= down.visibility else down


def _along(values: Float, axis: Literal["x", "y"]) -> SeamVisibility:
    spare = tuple(n for n in range(values.ndim) if n != 1)
    inside = np.abs(np.diff(values, axis=1)).mean(axis=spare)
    wrap = float(np.abs(values[:, 0] - values[:, -1]).mean())
    middle = max(float(np.median(inside)), 1e-6)
    spread = max(float(np.median(np.abs(inside - middle))), 1e-6)
    return SeamVisibility(wrap / middle, (wrap - middle) / spread, axis)


def fine_contrast(values: Float) -> float:
    """Return the standard deviation of detail finer than 1/100 of the width; (H, W[, C])."""
    values = np.ascontiguousarray(values)
    sigma = max(1.0, max(values.shape[:2]) * _FINE)
    smooth = cv2.GaussianBlur(values, (0, 0), sigma).reshape(values.shape)
    return float((values - smooth).std())
