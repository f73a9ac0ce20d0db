"""Filtering by spatial frequency, in cycles per tile, so that every resolution agrees.

Tiling fields go through the Fourier transform (they wrap), others through the cosine transform
(they reflect): the borders are right by construction.
"""

from __future__ import annotations

from collections.abc import Callable

import cv2
import numpy as np
from scipy import fft

from copper_sieve.core.image.raster import Float

_TEXELS_PER_SIGMA = 8


def filter_spectrum(field: Float, response: Callable[[Float], Float], *, wrap: bool) -> Float:
    """Multiply the spectrum of a field by a response.

    field : (H, W) float32
    response : function of the frequency in cycles per tile width, array to array
    wrap : the borders meet; otherwise they reflect
    Returns (H, W) float32.
    """
    height, width = field.shape
    aspect = width / height
    if wrap:
        fx = fft.rfftfreq(width, 1 / width).astype(np.float32)
        fy = (fft.fftfreq(height, 1 / height) * aspect).astype(np.float32)
        spectrum = fft.rfft2(field, workers=-1)
        spectrum *= response(np.hypot(fy[:, None], fx[None, :]))
        return fft.irfft2(spectrum, s=field.shape, workers=-1).astype(np.float32)
    fx = np.arange(width, dtype=np.float32) / 2
    fy = np.arange(height, dtype=np.float32) * np.float32(aspect / 2)
    spectrum = fft.dctn(field, type=2, workers=-1)
    spectrum *= response(np.hypot(fy[:, None], fx[None, :]))
    return fft.idctn(spectrum, type=2, workers=-1).astype(np.float32)


def gaussian_response(sigma: float) -> Callable[[Float], Float]:
    """Response of a Gaussian blur with standard deviation sigma, a fraction of the tile."""
    factor = np.float32(-2 * (np.pi * sigma) ** 2)
    return lambda frequency: np.exp(factor * frequency * frequency)


def blur(field: Float, sigma: float, *, wrap: bool) -> Float:
    """Gaussian blur of an (H, W) field; sigma as a fraction of the tile's width.

    A wide blur is done on a reduced copy whose texels are at most an eighth of sigma, and brought
    back by cubic interpolation: within a thousandth of the field's range, and many times faster.
    """
    if sigma <= 0:
        return field
    rows, columns = field.shape
    factor = 1
    while (
        rows % (factor * 2) == columns % (factor * 2) == 0
        and sigma * columns / (factor * 2) >= _TEXELS_PER_SIGMA
    ):
        factor *= 2
    if factor == 1:
        return filter_spectrum(field, gaussian_response(sigma), wrap=wrap)
    small = np.asarray(
        cv2.resize(field, (columns // factor, rows // factor), interpolation=cv2.INTER_AREA),
        np.float32,
    )
    small = filter_spectrum(small, gaussian_response(sigma), wrap=wrap)
    edge = 2  # what the cubic reads beyond the border
    small = np.pad(small, edge, mode="wrap" if wrap else "symmetric")
    large = cv2.resize(small, None, fx=factor, fy=factor, interpolation=cv2.INTER_CUBIC)
    edge *= factor
    return np.asarray(large[edge:-edge, edge:-edge], np.float32)
