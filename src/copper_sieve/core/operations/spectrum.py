"""Filtering by spatial frequency, in cycles per tile, so that every resolution agrees.

Tiling fields go through the Fourier transform (they wrap), others through the cosine transform
(they reflect): the borders are right by construction.
"""

from __future__ import annotations

from collections.abc import Callable
from typing import Any

import cv2
import numpy as np
from numba import njit, prange
from numpy.typing import NDArray
from scipy import fft

from copper_sieve.core.image.raster import Float

Spectrum = NDArray[Any]  # complex64 of a tile, float32 where the borders end

_TEXELS_PER_SIGMA = 5
_PER_CYCLE = 16  # entries of a response's table


def filter_spectrum(field: Float, response: Callable[[Float], Float], *, wrap: bool) -> Float:
    """Multiply the spectrum of a field by a response.

    field : (H, W) float32
    response : function of the frequency in cycles per tile width, array to array; it is asked for
        sixteen values per cycle, between which it is taken as straight
    wrap : the borders meet; otherwise they reflect
    Returns (H, W) float32.
    """
    return filter_transformed(transform(field, wrap=wrap), field.shape, response, wrap=wrap)


def transform(field: Float, *, wrap: bool) -> Spectrum:
    """The spectrum of a field as `filter_transformed` takes it: Fourier on a tile, else cosine."""
    if wrap:
        return np.asarray(fft.rfft2(field, workers=-1))
    return np.asarray(fft.dctn(field, type=2, workers=-1))


def filter_transformed(
    spectrum: Spectrum, shape: tuple[int, ...], response: Callable[[Float], Float], *, wrap: bool
) -> Float:
    """The field of that shape whose spectrum is the given one times a response; see above."""
    height, width = shape
    aspect = width / height
    if wrap:
        fx = np.asarray(fft.rfftfreq(width, 1 / width), dtype=np.float32)
        fy = np.asarray(fft.fftfreq(height, 1 / height) * aspect, dtype=np.float32)
    else:
        fx = np.asarray(np.arange(width) / 2, dtype=np.float32)
        fy = np.asarray(np.arange(height) * (aspect / 2), dtype=np.float32)
    scaled = np.empty_like(spectrum)
    _scale(spectrum, fx, fy, _table(fx, fy, response), scaled)
    if wrap:
        back = fft.irfft2(scaled, s=shape, workers=-1, overwrite_x=True)
    else:
        back = fft.idctn(scaled, type=2, workers=-1, overwrite_x=True)
    return np.asarray(back, dtype=np.float32)


def filter_directed(
    field: Float, response: Callable[[Float, Float], NDArray[np.complex64]], *, wrap: bool
) -> Float:
    """The same for a response that depends on the direction: of cycles per tile across and down.

    Where the borders do not meet, the field is continued by reflection for an eighth of its size.
    """
    border = 0 if wrap else max(1, max(field.shape) // 8)
    padded = np.pad(field, border, mode="symmetric") if border else field
    height, width = padded.shape
    tile = field.shape[1]
    fx = (fft.rfftfreq(width) * tile).astype(np.float32)
    fy = (fft.fftfreq(height) * tile).astype(np.float32)
    spectrum = fft.rfft2(padded, workers=-1)
    spectrum *= response(fx[None, :], fy[:, None])
    back = fft.irfft2(spectrum, s=padded.shape, workers=-1)
    inside = slice(border, -border or None)
    return np.ascontiguousarray(back[inside, inside], dtype=np.float32)


def _table(fx: Float, fy: Float, response: Callable[[Float], Float]) -> Float:
    highest = float(np.hypot(np.abs(fx).max(), np.abs(fy).max()))
    entries = int(highest * _PER_CYCLE) + 3
    return response(np.arange(entries, dtype=np.float32) / np.float32(_PER_CYCLE))


@njit(parallel=True, cache=True, nogil=True, error_model="numpy")
def _scale(spectrum: Spectrum, fx: Float, fy: Float, table: Float, out: Spectrum) -> None:
    per = np.float32(_PER_CYCLE)
    for r in prange(spectrum.shape[0]):
        square = fy[r] * fy[r]
        for c in range(spectrum.shape[1]):
            at = np.sqrt(square + fx[c] * fx[c]) * per
            i = int(at)
            share = at - np.float32(i)
            factor = table[i] + (table[i + 1] - table[i]) * share
            out[r, c] = spectrum[r, c] * factor


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
