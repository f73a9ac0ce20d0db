"""Resizing that preserves meaning: colors in linear light, normals of unit length."""

from __future__ import annotations

from typing import TypeVar

import cv2
import numpy as np
from numpy.typing import NDArray

from copper_sieve.core.errors import RangeError
from copper_sieve.core.image.map_kind import Meaning
from copper_sieve.core.image.normals import normalize
from copper_sieve.core.image.raster import Raster

Number = TypeVar("Number", bound=np.generic)


def resize(raster: Raster, width: int, height: int) -> Raster:
    """Resize to (width, height) texels: area average for reduction, cubic for enlargement.

    Parameters
    ----------
    raster : values; colors in linear light
    width, height : texels, > 0

    Returns
    -------
    Raster; normals are renormalized, data and colors keep their range

    Raises
    ------
    RangeError : if the size is empty
    """
    if width < 1 or height < 1:
        raise RangeError(f"a picture of {width} x {height} texels is empty")
    if raster.size == (width, height):
        return raster
    reducing = width <= raster.size[0] and height <= raster.size[1]
    method = cv2.INTER_AREA if reducing else cv2.INTER_CUBIC
    source = np.ascontiguousarray(raster.pixels)
    resized = cv2.resize(source, (width, height), interpolation=method)
    pixels = np.asarray(resized, dtype=np.float32).reshape(height, width, source.shape[2])
    if raster.meaning is Meaning.NORMAL:
        pixels = normalize(pixels)
    elif not reducing:
        pixels = np.clip(pixels, source.min(), source.max())
    return Raster(pixels, raster.meaning)


def fit_size(width: int, height: int, longer_side: int | None) -> tuple[int, int]:
    """Return the size with the given longer side and the same aspect ratio, at least 1 x 1."""
    if longer_side is None:
        return width, height
    if longer_side < 1:
        raise RangeError(f"size {longer_side}: must be at least 1 texel")
    scale = longer_side / max(width, height)
    return max(1, round(width * scale)), max(1, round(height * scale))


def area_average(values: NDArray[Number], longer_side: int) -> NDArray[Number]:
    """Reduce by area average to a longer side; smaller input is unchanged.

    For measurements and thumbnails: codes are averaged without decoding.

    Parameters
    ----------
    values : (H, W[, C]), values or codes
    longer_side : texels

    Returns
    -------
    (H', W'[, C]), same number type
    """
    rows, columns = values.shape[:2]
    if max(rows, columns) <= longer_side:
        return values
    size = fit_size(columns, rows, longer_side)
    small = cv2.resize(np.ascontiguousarray(values), size, interpolation=cv2.INTER_AREA)
    return np.asarray(small, dtype=values.dtype).reshape(size[1], size[0], *values.shape[2:])
