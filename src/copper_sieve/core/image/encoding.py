"""The sRGB curve (IEC 61966-2-1) and integer quantization, both exact."""

from __future__ import annotations

from typing import Literal

import numpy as np
from numba import njit, prange
from numpy.typing import ArrayLike

from copper_sieve.core.errors import RangeError
from copper_sieve.core.image import array_pool
from copper_sieve.core.image.raster import Codes, Float

Curve = Literal["none", "encoded", "decoded"]
REC709_LUMINANCE = np.array([0.2126, 0.7152, 0.0722], dtype=np.float32)


def srgb_to_linear(values_srgb: ArrayLike) -> Float:
    """Decode sRGB to linear light (IEC 61966-2-1, exact piecewise curve).

    Parameters
    ----------
    values_srgb : any shape, sRGB-encoded, [0, 1]

    Returns
    -------
    same shape, float32, linear light
    """
    v = np.asarray(values_srgb, dtype=np.float32)
    return np.where(v <= 0.04045, v / 12.92, ((np.maximum(v, 0) + 0.055) / 1.055) ** 2.4).astype(
        np.float32
    )


def linear_to_srgb(values_linear: ArrayLike) -> Float:
    """Encode linear light as sRGB (IEC 61966-2-1, exact piecewise curve).

    Parameters
    ----------
    values_linear : any shape, linear light, [0, 1]

    Returns
    -------
    same shape, float32, sRGB-encoded
    """
    v = np.ascontiguousarray(values_linear, dtype=np.float32)
    encoded = array_pool.empty(*v.shape)
    _encode_srgb(v.ravel(), encoded.ravel())
    return encoded if np.ndim(values_linear) else encoded.reshape(())


@njit(parallel=True, cache=True, nogil=True, error_model="numpy")
def _encode_srgb(light: Float, encoded: Float) -> None:
    slope, knee, exponent = np.float32(12.92), np.float32(0.0031308), np.float32(1 / 2.4)
    factor, offset = np.float32(1.055), np.float32(0.055)
    for i in prange(light.size):
        v = light[i]
        # NaN fails the comparison and is unchanged.
        encoded[i] = v * slope if not v > knee else factor * v**exponent - offset


def without_curve(values: Float, curve: Curve) -> Float:
    """Undo an sRGB curve that was applied by mistake.

    Parameters
    ----------
    values : any shape, float32, [0, 1]
    curve : "encoded": values were encoded and are too light; "decoded": they were decoded and are
        too dark; "none": unchanged

    Returns
    -------
    same shape, float32
    """
    if curve == "encoded":
        return srgb_to_linear(values)
    return linear_to_srgb(values) if curve == "decoded" else values


def max_code(bits: int) -> int:
    """Return the largest integer code of a bit depth of 8 or 16."""
    if bits not in (8, 16):
        raise RangeError(f"integer codes must have 8 or 16 bits, not {bits}")
    return (1 << bits) - 1


def quantize(values: ArrayLike, bits: int) -> Codes:
    """Round values to the nearest integer code: code c of b bits represents c / (2^b - 1).

    Parameters
    ----------
    values : any shape; values outside [0, 1] are clamped, NaN becomes 0
    bits : {8, 16}

    Returns
    -------
    same shape, uint8 or uint16
    """
    flat = np.ascontiguousarray(values, dtype=np.float32)
    codes = np.empty(flat.shape, dtype=np.uint8 if bits == 8 else np.uint16)
    _round_codes(flat.ravel(), np.float32(max_code(bits)), codes.ravel())
    return codes


@njit(cache=True, nogil=True, error_model="numpy")
def _round_codes(values: Float, top: np.float32, codes: Codes) -> None:
    for i in range(values.size):
        scaled = values[i] * top + np.float32(0.5)
        # NaN fails every comparison, so it ends as 0.
        codes[i] = 0 if not scaled > 0 else min(scaled, top)


def dequantize(codes: Codes) -> Float:
    """Convert integer codes to values: c / (2^b - 1).

    Parameters
    ----------
    codes : any shape, uint8 or uint16; floating-point codes are converted to float32 only

    Returns
    -------
    same shape, float32, [0, 1] for integer codes
    """
    if codes.dtype in (np.uint8, np.uint16):
        top = np.iinfo(codes.dtype).max
        return (codes.astype(np.float32) / np.float32(top)).astype(np.float32)
    return codes.astype(np.float32)


def decode_color(codes: Codes, srgb: bool) -> Float:
    """Convert the codes of a color picture to linear light.

    Parameters
    ----------
    codes : any shape, uint8, uint16 or floating point
    srgb : True if integer codes are sRGB-encoded

    Returns
    -------
    same shape, float32, linear light; each code has exactly one value
    """
    if srgb and codes.dtype in (np.uint8, np.uint16):
        top = np.iinfo(codes.dtype).max
        table = srgb_to_linear(np.arange(top + 1, dtype=np.float64) / top)
        return table[codes]
    values = dequantize(codes)
    return srgb_to_linear(values) if srgb else values


def luminance(color_linear: Float) -> Float:
    """Return the Rec. 709 luminance of linear light: (..., 3) to (...) float32."""
    light = np.ascontiguousarray(color_linear, dtype=np.float32)
    grey = array_pool.empty(*light.shape[:-1])
    _weigh(light.reshape(-1, 3), REC709_LUMINANCE, grey.reshape(-1))
    return grey


@njit(parallel=True, cache=True, nogil=True, error_model="numpy")
def _weigh(light: Float, weights: Float, grey: Float) -> None:
    red, green, blue = weights[0], weights[1], weights[2]
    for i in prange(grey.size):
        grey[i] = light[i, 0] * red + light[i, 1] * green + light[i, 2] * blue
