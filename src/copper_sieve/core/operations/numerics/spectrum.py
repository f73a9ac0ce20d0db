"""Filtering by spatial frequency in cycles per tile, independent of the resolution.

Axes that are tileable use the Fourier transform (wraps), others the cosine transform (reflects), so
borders are correct by construction.
"""

from __future__ import annotations

from collections.abc import Callable
from typing import Any

import cv2
import numpy as np
import scipy  # its parts are loaded when they are used
from numba import njit, prange
from numpy.typing import NDArray

from copper_sieve.core.image.raster import Float
from copper_sieve.core.image.wrap import Wrap, as_wrap, pad

Spectrum = NDArray[Any]  # complex64 where any borders meet, float32 where all end

_TEXELS_PER_SIGMA = 5
_PER_CYCLE = 16  # entries of a response's table


def filter_spectrum(
    field: Float, response: Callable[[Float], Float], *, wrap: Wrap | bool
) -> Float:
    """Multiply the spectrum of a field by a response.

    Parameters
    ----------
    field : (H, W) float32
    response : function of the frequency in cycles per tile width, array to array; sampled at
        sixteen values per cycle with linear interpolation
    wrap : tiling directions; other borders are mirrored

    Returns
    -------
    (H, W) float32
    """
    return filter_transformed(transform(field, wrap=wrap), field.shape, response, wrap=wrap)


def transform(field: Float, *, wrap: Wrap | bool) -> Spectrum:
    """Return the spectrum of a field (H, W) for `filter_transformed`.

    For real input, the last tileable axis is halved.
    """
    meet = as_wrap(wrap)
    if meet.across and meet.down:
        return np.asarray(scipy.fft.rfft2(field, workers=-1))
    if meet.across:
        return np.asarray(
            scipy.fft.rfft(scipy.fft.dct(field, axis=0, workers=-1), axis=1, workers=-1)
        )
    if meet.down:
        return np.asarray(
            scipy.fft.rfft(scipy.fft.dct(field, axis=1, workers=-1), axis=0, workers=-1)
        )
    return np.asarray(scipy.fft.dctn(field, workers=-1))


def transform_back(spectrum: Spectrum, shape: tuple[int, ...], *, wrap: Wrap | bool) -> Float:
    """Return the field (H, W) of a spectrum, whose memory may be reused."""
    meet = as_wrap(wrap)
    height, width = shape
    if meet.across and meet.down:
        back = scipy.fft.irfft2(spectrum, s=shape, workers=-1, overwrite_x=True)
    elif meet.across:
        half = scipy.fft.irfft(spectrum, n=width, axis=1, workers=-1)
        back = scipy.fft.idct(half, axis=0, workers=-1, overwrite_x=True)
    elif meet.down:
        half = scipy.fft.irfft(spectrum, n=height, axis=0, workers=-1)
        back = scipy.fft.idct(half, axis=1, workers=-1, overwrite_x=True)
    else:
        back = scipy.fft.idctn(spectrum, workers=-1, overwrite_x=True)
    return np.asarray(back, dtype=np.float32)


def frequencies(shape: tuple[int, ...], *, wrap: Wrap | bool) -> tuple[Float, Float]:
    """Return the signed frequencies of a spectrum's columns and rows, in cycles per texel."""
    meet = as_wrap(wrap)
    height, width = shape
    fx = scipy.fft.rfftfreq(width) if meet.across else np.arange(width) / (2 * width)
    if not meet.down:
        fy = np.arange(height) / (2 * height)
    else:
        fy = scipy.fft.fftfreq(height) if meet.across else scipy.fft.rfftfreq(height)
    return np.asarray(fx, np.float32), np.asarray(fy, np.float32)


def filter_transformed(
    spectrum: Spectrum,
    shape: tuple[int, ...],
    response: Callable[[Float], Float],
    *,
    wrap: Wrap | bool,
) -> Float:
    """Multiply a spectrum by a response and transform it back; see `filter_spectrum`.

    Parameters
    ----------
    spectrum : from `transform`
    shape : (H, W) of the field
    response : see `filter_spectrum`
    wrap : as for `transform`

    Returns
    -------
    (H, W) float32
    """
    fx, fy = (one * np.float32(shape[1]) for one in frequencies(shape, wrap=wrap))
    scaled = np.empty_like(spectrum)
    _scale(spectrum, fx, fy, _table(fx, fy, response), scaled)
    return transform_back(scaled, shape, wrap=wrap)


def filter_directed(
    field: Float, response: Callable[[Float, Float], NDArray[np.complex64]], *, wrap: Wrap | bool
) -> Float:
    """Multiply the spectrum of a field by a response that depends on the direction.

    If the field doesn't tile in both directions, it is extended by an eighth of its size.

    Parameters
    ----------
    field : (H, W) float32
    response : function of the cycles per tile across and down, arrays to complex64 array
    wrap : tiling directions

    Returns
    -------
    (H, W) float32
    """
    border = 0 if as_wrap(wrap) else max(1, max(field.shape) // 8)
    padded = pad(field, border, wrap) if border else field
    height, width = padded.shape
    tile = field.shape[1]
    fx = (scipy.fft.rfftfreq(width) * tile).astype(np.float32)
    fy = (scipy.fft.fftfreq(height) * tile).astype(np.float32)
    spectrum = scipy.fft.rfft2(padded, workers=-1)
    spectrum *= response(fx[None, :], fy[:, None])
    back = scipy.fft.irfft2(spectrum, s=padded.shape, workers=-1)
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
    """Return the response of a Gaussian blur; sigma is a fraction of the tile."""
    factor = np.float32(-2 * (np.pi * sigma) ** 2)
    return lambda frequency: np.exp(factor * frequency * frequency)


def blur(field: Float, sigma: float, *, wrap: Wrap | bool) -> Float:
    """Blur a field with a Gaussian.

    Wide blurs use a reduced copy whose texels are at most an eighth of sigma, enlarged by cubic
    interpolation; the error is below a thousandth of the field's range.

    Parameters
    ----------
    field : (H, W) float32
    sigma : standard deviation as a fraction of the tile's width
    wrap : tiling directions

    Returns
    -------
    (H, W) float32
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
    edge = 2  # margin of the cubic interpolation
    small = pad(small, edge, wrap)
    large = cv2.resize(small, None, fx=factor, fy=factor, interpolation=cv2.INTER_CUBIC)
    edge *= factor
    return np.asarray(large[edge:-edge, edge:-edge], np.float32)
