"""Converts metallic materials to diffuse and specular color and back, in linear light, per texel.

With F0 the reflectance of dielectrics, b the base color, m the metallic:

specular = F0 + (b - F0) m
diffuse = b (1 - m) for "simple"; for "energy", the diffuse color that the glTF extension
KHR_materials_pbrSpecularGlossiness multiplies by 1 - max(specular): b (1 - F0) (1 - m) / (1 -
max(specular))

The inverse of "simple" and "energy" solves exactly for the metallic on channel means; "perceived"
is the approximation by perceived brightness in that extension's appendix, which other programs use.
"""

from __future__ import annotations

from typing import Any

import numpy as np
from numba import njit, prange

from copper_sieve.core.image import array_pool
from copper_sieve.core.image.raster import Float

READINGS = ("simple", "energy", "perceived")
# Tolerance of the specular color of dielectrics after 8-bit sRGB quantization.
_NEAR_F0 = np.float32(0.0008)
_LEAST = np.float32(1e-6)


def diffuse_of(base: Float, metallic: Float, f0: float, *, energy: bool) -> Float:
    """Return the diffuse color of the metallic workflow's maps.

    Parameters
    ----------
    base : (H, W, 3) float32, linear light
    metallic : (H, W, 1) float32, [0, 1]
    f0 : reflectance of non-metals at normal incidence
    energy : preserve energy: base (1 - metallic)(1 - specular); otherwise base (1 - metallic)

    Returns
    -------
    (H, W, 3) float32, linear light, [0, 1]
    """
    out = array_pool.empty(*base.shape)
    _diffuse(np.ascontiguousarray(base), np.ascontiguousarray(metallic[:, :, 0]),
             np.float32(f0), energy, out)  # fmt: skip
    return out


def metal_rough_of(diffuse: Float, specular: Float, f0: float, reading: str) -> tuple[Float, Float]:
    """Return base color and metallic of the specular workflow's maps.

    Parameters
    ----------
    diffuse, specular : (H, W, 3) float32, linear light
    f0 : reflectance of non-metals at normal incidence
    reading : interpretation of the specular workflow; one of READINGS

    Returns
    -------
    base color (H, W, 3) float32, linear light, [0, 1]; metallic (H, W, 1) float32, [0, 1]
    """
    base = array_pool.empty(*diffuse.shape)
    metallic = array_pool.empty(*diffuse.shape[:2], 1)
    arguments = np.ascontiguousarray(diffuse), np.ascontiguousarray(specular), np.float32(f0)
    if reading == "perceived":
        _by_brightness(*arguments, base, metallic[:, :, 0])
    else:
        _by_means(*arguments, reading == "energy", base, metallic[:, :, 0])
    return base, metallic


@njit(parallel=True, cache=True, nogil=True, error_model="numpy")
def _diffuse(base: Float, metallic: Float, f0: np.float32, energy: bool, out: Float) -> None:
    one = np.float32(1)
    for r in prange(base.shape[0]):
        for c in range(base.shape[1]):
            m = metallic[r, c]
            share = one - m
            if energy:
                top = max(base[r, c, 0], base[r, c, 1], base[r, c, 2])
                left = one - (f0 + (top - f0) * m)
                share = share * (one - f0) / left if left > _LEAST else np.float32(0)
            for i in range(3):
                out[r, c, i] = min(base[r, c, i] * share, one)


@njit(parallel=True, cache=True, nogil=True, error_model="numpy")
def _by_means(  # noqa: PLR0917
    diffuse: Float, specular: Float, f0: np.float32, energy: bool, base: Float, metallic: Float
) -> None:
    zero, one = np.float32(0), np.float32(1)
    k = one - f0 if energy else one
    for r in prange(diffuse.shape[0]):
        for c in range(diffuse.shape[1]):
            factor = one / k
            if energy:
                top = max(specular[r, c, 0], specular[r, c, 1], specular[r, c, 2])
                factor = max(one - top, zero) / k
            d = (diffuse[r, c, 0] + diffuse[r, c, 1] + diffuse[r, c, 2]) / 3 * factor
            s = (specular[r, c, 0] + specular[r, c, 1] + specular[r, c, 2]) / 3
            away = np.float32(0)
            for i in range(3):
                away = max(away, abs(specular[r, c, i] - f0))
            m = _metallic(d, s, f0) if away > _NEAR_F0 else zero
            weights = (one - m) * (one - m) + m * m
            for i in range(3):
                lit = diffuse[r, c, i] * factor * (one - m)
                shine = (specular[r, c, i] - f0 * (one - m)) * m
                base[r, c, i] = min(max((lit + shine) / weights, zero), one)
            metallic[r, c] = m


@njit(cache=True, nogil=True, error_model="numpy", inline="always")
def _metallic(d: Any, s: Any, f0: Any) -> Any:
    """Return the positive root of F0 m² + (d + s - 2 F0) m + (F0 - s) = 0, if it is determined."""
    if d > _LEAST and d + s <= 2 * f0:
        return np.float32(0)  # darker than its own reflection: no metal is
    half = (d + s) / 2 - f0
    root = np.sqrt(max(half * half - f0 * (f0 - s), 0.0))
    m = (root - half) / f0 if f0 > _LEAST else s / (d + s + 1e-6)
    return np.float32(min(max(m, 0.0), 1.0))


@njit(parallel=True, cache=True, nogil=True, error_model="numpy")
def _by_brightness(
    diffuse: Float, specular: Float, f0: np.float32, base: Float, metallic: Float
) -> None:
    zero, one = np.float32(0), np.float32(1)
    for r in prange(diffuse.shape[0]):
        for c in range(diffuse.shape[1]):
            top = max(specular[r, c, 0], specular[r, c, 1], specular[r, c, 2])
            left = max(one - top, zero)
            d = _brightness(diffuse[r, c, 0], diffuse[r, c, 1], diffuse[r, c, 2])
            s = _brightness(specular[r, c, 0], specular[r, c, 1], specular[r, c, 2])
            m = zero
            if s > f0:
                b = d * left / (one - f0) + s - 2 * f0
                root = np.sqrt(max(b * b - 4 * f0 * (f0 - s), 0.0))
                m = np.float32(min(max((root - b) / max(2 * f0, _LEAST), 0.0), 1.0))
            for i in range(3):
                lit = diffuse[r, c, i] * left / (one - f0) / max(one - m, _LEAST)
                shine = (specular[r, c, i] - f0 * (one - m)) / max(m, _LEAST)
                base[r, c, i] = min(max(lit + (shine - lit) * m * m, zero), one)
            metallic[r, c] = m


@njit(cache=True, nogil=True, error_model="numpy", inline="always")
def _brightness(r: float, g: float, b: float) -> Any:
    return np.sqrt(0.299 * r * r + 0.587 * g * g + 0.114 * b * b)
