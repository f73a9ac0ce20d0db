"""Reduces maps so that the surface keeps its appearance: for smaller files and mipmaps.

Colors are averaged in linear light. Normals are averaged and normalized, and the lost length goes
into the roughness (Toksvig 2005; Han et al. 2007, fitted): kappa = (3 r - r^3) / (1 - r^2) of the
length r, alpha'^2 = min(1, mean alpha^2 + 2 / kappa), roughness = sqrt(alpha'). Opacity keeps its
coverage at the threshold 0.5.
"""

from __future__ import annotations

from collections.abc import Iterator, Mapping
from typing import Literal

import cv2
import numpy as np
from numba import njit, prange
from numpy.typing import NDArray

from copper_sieve.core.image import array_pool
from copper_sieve.core.image.map_kind import MapKind, Meaning
from copper_sieve.core.image.normals import normalize
from copper_sieve.core.image.raster import Float, Raster
from copper_sieve.core.image.resize import resize

Maps = Mapping[MapKind, Raster]
Reduction = Literal["plain", "appearance", "nearest"]
_CUT = np.float32(0.5)
_JUST_BELOW = np.float32(127 / 255)
_NO_NORMAL = np.empty((0, 0, 3), dtype=np.float32)
_NEAR_ENOUGH = 0.01  # share of texels by which the coverage may be off before ties are broken


def reduce_picture(
    maps: Maps, width: int, height: int, how: Reduction = "appearance"
) -> dict[MapKind, Raster]:
    """Resize all maps of a set; larger sizes are interpolated.

    Parameters
    ----------
    maps : rasters by map kind, all of one size
    width, height : texels
    how : "appearance": preserve the lit appearance, e.g. roughness gains the variance of averaged
        normals; "plain": each map separately, as `resize`; "nearest": for pixel art

    Returns
    -------
    rasters by map kind
    """
    if how == "appearance" and all(_covers(one, width, height) for one in maps.values()):
        return _Average.of(maps).at(width, height).maps()
    if how == "nearest":
        return {kind: reduce_nearest(one, width, height) for kind, one in maps.items()}
    return {kind: resize(one, width, height) for kind, one in maps.items()}


def mip_chain(maps: Maps, how: Reduction = "appearance") -> Iterator[dict[MapKind, Raster]]:
    """Yield the mip levels after the first, each half as large (rounded down), to 1 x 1."""
    width, height = next(iter(maps.values())).size
    average = _Average.of(maps)
    while width > 1 or height > 1:
        width, height = max(1, width // 2), max(1, height // 2)
        if how == "nearest":
            yield reduce_picture(maps, width, height, how)
        else:
            average = average.at(width, height)
            yield average.maps()


def mip_sizes(width: int, height: int) -> list[tuple[int, int]]:
    """Return the sizes of all mip levels, including the first."""
    sizes = [(width, height)]
    while sizes[-1] != (1, 1):
        sizes.append((max(1, sizes[-1][0] // 2), max(1, sizes[-1][1] // 2)))
    return sizes


def reduce_nearest(raster: Raster, width: int, height: int) -> Raster:
    """Resize by nearest neighbor: each texel takes the value at its center."""
    rows = (np.arange(height) * 2 + 1) * raster.size[1] // (2 * height)
    columns = (np.arange(width) * 2 + 1) * raster.size[0] // (2 * width)
    return Raster(np.ascontiguousarray(raster.pixels[rows[:, None], columns]), raster.meaning)


def _covers(raster: Raster, width: int, height: int) -> bool:
    return width <= raster.size[0] and height <= raster.size[1]


class _Average:
    """Quantities that may be averaged: unnormalized normals, alpha squared for roughness."""

    def __init__(self, held: dict[MapKind, Float], coverage: float | None) -> None:
        self._held, self._coverage = held, coverage

    @classmethod
    def of(cls, maps: Maps) -> _Average:
        held = {}
        for kind, raster in maps.items():
            held[kind] = raster.pixels
            if kind.widened_by:
                held[kind] = array_pool.empty(*raster.pixels.shape)
                _square_alpha(raster.pixels, kind.facts.reduction == "glossiness", held[kind])
        opacity = maps.get(MapKind.OPACITY)
        coverage = None if opacity is None else float((opacity.pixels >= _CUT).mean())
        return cls(held, coverage)

    def at(self, width: int, height: int) -> _Average:
        """Reduce the averages to a smaller size."""
        smaller = {}
        for kind, pixels in self._held.items():
            one = cv2.resize(
                np.ascontiguousarray(pixels), (width, height), interpolation=cv2.INTER_AREA
            )
            smaller[kind] = np.asarray(one, dtype=np.float32).reshape(height, width, -1)
        return _Average(smaller, self._coverage)

    def maps(self) -> dict[MapKind, Raster]:
        """Return the maps that these averages represent."""
        out = {}
        for kind, pixels in self._held.items():
            values = pixels
            if kind.facts.meaning is Meaning.NORMAL:
                values = normalize(pixels)
            elif kind.widened_by:
                values = array_pool.empty(*pixels.shape)
                normal = self._held.get(kind.widened_by or kind, _NO_NORMAL)
                _roughness(pixels, normal, kind.facts.reduction == "glossiness", values)
            elif kind is MapKind.OPACITY and self._coverage is not None:
                values = preserve_coverage(pixels, self._coverage)
            out[kind] = Raster(np.asarray(values, dtype=np.float32), kind.facts.meaning)
        return out


@njit(parallel=True, cache=True, nogil=True, error_model="numpy")
def _square_alpha(values: Float, glossy: bool, out: Float) -> None:
    for r in prange(values.shape[0]):
        for c in range(values.shape[1]):
            v = values[r, c, 0]
            v = np.float32(1) - v if glossy else v
            out[r, c, 0] = (v * v) * (v * v)


@njit(parallel=True, cache=True, nogil=True, error_model="numpy")
def _roughness(squared: Float, normal: Float, glossy: bool, out: Float) -> None:
    """Return the roughness from the mean of alpha^2 and, by 2 / kappa, the variation of the
    normals.
    """
    one, two, three = np.float32(1), np.float32(2), np.float32(3)
    for r in prange(squared.shape[0]):
        for c in range(squared.shape[1]):
            spread = np.float32(0)
            if normal.size:
                x, y, z = normal[r, c, 0], normal[r, c, 1], normal[r, c, 2]
                least = np.float32(1e-12)
                length = np.sqrt(min(max(x * x + y * y + z * z, least), one))
                # Below what float32 keeps of a unit vector, nothing was lost.
                if one - length >= np.float32(1e-6):
                    lost = max(one - length * length, np.float32(0))
                    spread = two * lost / (three * length - length * length * length)
            rough = np.sqrt(np.sqrt(min(squared[r, c, 0] + spread, one)))
            out[r, c, 0] = one - rough if glossy else rough


def preserve_coverage(opacity: Float, coverage: float) -> Float:
    """Scale opacity so that the share of texels at or above 0.5 is as stated.

    Parameters
    ----------
    opacity : (H, W, 1) float32, [0, 1]
    coverage : share of opaque texels to preserve, [0, 1]

    Returns
    -------
    (H, W, 1) float32, [0, 1]; where many texels have the same value, an even pattern selects some
    """
    if coverage in (0.0, 1.0):
        return opacity
    flat = opacity.ravel()
    standing = min(max(round(coverage * flat.size), 0), flat.size)
    if standing == 0:
        return np.minimum(opacity, _JUST_BELOW)
    at = np.partition(flat, flat.size - standing)[flat.size - standing]
    if at <= 0:
        return opacity
    scaled = np.clip(opacity * (_CUT / at), 0, 1)
    scaled = np.where(opacity >= at, np.maximum(scaled, _CUT), np.minimum(scaled, _JUST_BELOW))
    if abs(float((scaled >= _CUT).mean()) - standing / flat.size) <= _NEAR_ENOUGH:
        return np.asarray(scaled)
    tied = np.flatnonzero(flat == at)
    over = int((scaled >= _CUT).sum()) - standing
    order = np.argsort(_even_order(*opacity.shape[:2]).ravel()[tied], kind="stable")
    out: Float = np.asarray(scaled, dtype=np.float32).ravel().copy()
    out[tied[order[:over]]] = _JUST_BELOW
    return out.reshape(opacity.shape)


def _even_order(height: int, width: int) -> NDArray[np.float64]:
    """Return a rank per texel so that the first n are evenly distributed (Bayer 1973)."""
    rank = np.zeros((1, 1), dtype=np.float64)
    while rank.shape[0] < min(max(height, width), 64):
        rank = np.block([[rank * 4, rank * 4 + 2], [rank * 4 + 3, rank * 4 + 1]])
    side = rank.shape[0]
    return np.tile(rank, (-(-height // side), -(-width // side)))[:height, :width]
