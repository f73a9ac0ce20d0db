"""Predicts each picture: from the other pictures, or from the surface they imply."""

from __future__ import annotations

from dataclasses import replace
from typing import Any

import cv2
import numpy as np
from numba import njit
from numpy.typing import NDArray

from copper_sieve.core.image.raster import Float
from copper_sieve.core.measuring.roughness import measure_roughness
from copper_sieve.core.measuring.simd_batch import specular_of
from copper_sieve.core.measuring.solving import Solved, by_rows, solve

_TURNS = 4
_OUTLIER = 3.0  # times the median


def predict_by_others(grey: Float, valid: np.ndarray, rank: int = 3) -> Float:
    """Predict each picture as a linear combination of the others, for any lights.

    Parameters
    ----------
    grey : (L, N) float32, at the current placements
    valid : (N,) bool, texels present in all pictures
    rank : number of basis pictures; a diffuse surface under distant light has three

    Returns
    -------
    (L, N) float32

    References
    ----------
    A. Shashua, On photometric issues in 3D visual recognition from a single 2D image, 1997.
    """
    seen = grey[:, valid].astype(np.float64)
    count = len(grey)
    out = np.zeros_like(grey)
    for n in range(count):
        others = np.delete(np.arange(count), n)
        of = seen[others]
        _, vectors = np.linalg.eigh(of @ of.T)
        directions = vectors[:, -min(rank, len(others)) :].T
        basis = directions @ of
        shares = _fitted(basis, seen[n])
        out[n] = (shares @ directions) @ grey[others]
    return out


def _fitted(basis: NDArray[np.float64], values: NDArray[np.float64]) -> NDArray[np.float64]:
    """Return the coefficients (K, N) of values (N,) in a basis, with robust weights."""
    weight = np.ones_like(values)
    shares: NDArray[np.float64] = np.zeros(len(basis))
    for _ in range(_TURNS):
        weighted = basis * weight
        found = np.linalg.lstsq(weighted @ basis.T, weighted @ values, rcond=1e-8)[0]
        shares = np.asarray(found, np.float64)
        off = np.abs(values - shares @ basis)
        weight = 1 / (1 + (off / (_OUTLIER * np.median(off) + 1e-9)) ** 2)
    return shares


def roughness_of(light: Float, towards: Float, noise: float) -> Float:
    """Return the roughness at every other texel, (H, W) float32; see `measure_roughness`."""
    few = np.ascontiguousarray(light[:, ::2, ::2])
    some = towards if towards.ndim == 2 else np.ascontiguousarray(towards[:, ::2, ::2])
    size = light.shape[2], light.shape[1]
    value = measure_roughness(few, some, noise).value
    return np.asarray(cv2.resize(value, size, interpolation=cv2.INTER_LINEAR), np.float32)


def predict_by_surface(light: Float, towards: Float, rough: Float, noise: float) -> Float:
    """Predict each picture from the surface that all pictures imply.

    Parameters
    ----------
    light, towards : as in `solve`
    rough : (H, W) roughness
    noise : standard deviation in linear light

    Returns
    -------
    (L, H, W) float32, grayscale
    """
    found = solve(light, towards, rough, noise)
    near = towards if towards.ndim == 4 else np.empty((0, 0, 0, 3), np.float32)
    far = np.ascontiguousarray(towards if towards.ndim == 2 else towards[:, 0, 0])
    return _seen(found, rough, far, near)


def predict_capture(found: Solved, rough: Float, towards: Float) -> Float:
    """Predict the pictures of a surface under lights with directions per texel.

    Parameters
    ----------
    found : the surface
    rough : (H, W) roughness
    towards : (L, H, W, 3) unit vectors

    Returns
    -------
    (L, H, W) float32, grayscale
    """
    return _seen(found, rough, np.ascontiguousarray(towards[:, 0, 0]), towards)


def specular_part(found: Solved, rough: Float, towards: Float) -> Float:
    """Return the highlights of `predict_capture`."""
    return predict_capture(replace(found, color=np.zeros_like(found.color)), rough, towards)


def _seen(found: Solved, rough: Float, far: Float, near: Float) -> Float:
    height, width = rough.shape
    out = np.empty((len(far), height, width), np.float32)
    color = np.ascontiguousarray(found.color.mean(-1))
    alpha = np.maximum(rough * rough, 0.02).astype(np.float32)
    by_rows(
        height,
        lambda first, last: _show(found.normal, color, alpha, far, near, out, first, last),
    )
    return out


@njit(cache=True, nogil=True, fastmath=True)
def _show(  # noqa: PLR0917
    normal: Any, color: Any, alpha: Any, far: Any, near: Any, out: Any, first: int, last: int,
) -> None:  # fmt: skip
    for n in range(out.shape[0]):
        for row in range(first, last):
            for column in range(out.shape[2]):
                lx, ly, lz = far[n]
                if near.shape[0]:
                    lx, ly, lz = near[n, row, column]
                x, y, z = normal[row, column]
                lit = max(x * lx + y * ly + z * lz, np.float32(0))
                shine = specular_of(x, y, z, lx, ly, lz, alpha[row, column])
                out[n, row, column] = color[row, column] * lit + shine
