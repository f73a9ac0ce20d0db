"""A map read as another meaning, where an operation takes any map."""

from __future__ import annotations

import numpy as np

from copper_sieve.core.errors import ShapeError
from copper_sieve.core.image.encoding import linear_to_srgb, luminance
from copper_sieve.core.image.map_kind import Meaning
from copper_sieve.core.image.raster import Float


def can_be_read_as(have: Meaning, wanted: Meaning) -> bool:
    """Does `as_meaning` know the way?"""
    return (
        have is wanted or wanted is Meaning.DATA or (have, wanted) == (Meaning.DATA, Meaning.COLOR)
    )


def as_meaning(pixels: Float, have: Meaning, wanted: Meaning) -> Float:
    """The values of a map as another meaning.

    Color as data is its lightness (sRGB-encoded Rec. 709 luminance, as the eye reads it); normals
    as data are their tilt, 0 flat to 1 at 90 degrees; data as color is grey. pixels : (H, W, C)
    float32 as `Raster` has them. Raises ShapeError where there is no way (nothing but normals can
    be read as normals).
    """
    if have is wanted:
        return pixels
    if not can_be_read_as(have, wanted):
        raise ShapeError(f"a {have} map can't be used as {wanted}. Choose another map")
    if wanted is Meaning.COLOR:
        return np.repeat(pixels, 3, axis=2)
    if have is Meaning.COLOR:
        return linear_to_srgb(np.clip(luminance(pixels), 0, 1))[:, :, None]
    tilt = np.arccos(np.clip(pixels[:, :, 2:], -1, 1)) / np.float32(np.pi / 2)
    return np.asarray(tilt, dtype=np.float32)
