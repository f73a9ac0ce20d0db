"""Vignetting and uneven light, from a picture of plain paper."""

from __future__ import annotations

import cv2
import numpy as np

from copper_sieve.core.errors import MeasureError
from copper_sieve.core.image.encoding import srgb_to_linear
from copper_sieve.core.image.raster import Codes, Float

_SIDE = 64  # texels of the longer side: it changes slowly
_DEGREE = 4
_CLIPPED, _DARK = 0.02, 0.03  # shares of texels, and of full scale in linear light
_PLAIN = 0.04  # of its brightness: what paper's own grain may be, at that size


def flat_field_of(codes: Codes | Float, name: str = "the flat-field picture") -> Float:
    """Return the brightness of plain paper over the picture.

    Parameters
    ----------
    codes : (H, W, 3) of the paper, which fills the picture
    name : for messages

    Returns
    -------
    (h, w) float32, reduced, 1 at the center

    Raises
    ------
    MeasureError : if the picture is overexposed, too dark, or doesn't show plain paper
    """
    if codes.dtype.kind == "f":
        light = np.asarray(codes, np.float32)
        clipped = float((~np.isfinite(light)).mean())
    else:
        most = np.iinfo(codes.dtype).max
        clipped = float((codes >= most).any(-1).mean())
        light = srgb_to_linear(np.arange(most + 1, dtype=np.float64) / most)[codes]
    if clipped > _CLIPPED:
        raise MeasureError(
            f"{name}: {clipped:.0%} of it is overexposed, so it doesn't show how uneven the "
            "light is. Take it with less exposure"
        )
    height, width = light.shape[:2]
    scale = max(1.0, max(width, height) / _SIDE)
    size = max(1, round(width / scale)), max(1, round(height / scale))
    grey = cv2.resize(np.ascontiguousarray(light.mean(-1)), size, interpolation=cv2.INTER_AREA)
    if float(np.median(grey)) < _DARK:
        raise MeasureError(
            f"{name} is too dark to measure how uneven the light is. Increase the exposure"
        )
    soft = _fitted(np.asarray(grey, np.float32))
    if float(np.std(grey / soft)) > _PLAIN:
        raise MeasureError(
            f"{name} doesn't show plain paper only. Use a sheet without print or folds that "
            "fills the picture"
        )
    return np.asarray(soft / soft[soft.shape[0] // 2, soft.shape[1] // 2], np.float32)


def _fitted(grey: Float) -> Float:
    """Fit the logarithm by a polynomial of degree four; grain and borders change it little."""
    y, x = (np.linspace(-1, 1, length) for length in grey.shape)
    powers = [
        np.outer(y**down, x**across).ravel()
        for down in range(_DEGREE + 1) for across in range(_DEGREE + 1 - down)
    ]  # fmt: skip
    basis = np.stack(powers, axis=1)
    level = np.log(np.maximum(grey, 1e-4)).ravel()
    shares = np.linalg.lstsq(basis, level, rcond=None)[0]
    return np.asarray(np.exp(basis @ shares).reshape(grey.shape), np.float32)
