"""Conversion of a map to another meaning, for operations that take any map."""

from __future__ import annotations

import numpy as np

from copper_sieve.core.errors import ShapeError
from copper_sieve.core.image.encoding import linear_to_srgb, luminance
from copper_sieve.core.image.map_kind import Meaning
from copper_sieve.core.image.raster import Float


def can_be_read_as(have: Meaning, wanted: Meaning) -> bool:
    """Return True if `as_meaning` supports a conversion."""
    return (
        have is wanted or wanted is Meaning.DATA or (have, wanted) == (Meaning.DATA, Meaning.COLOR)
    )


def as_meaning(pixels: Float, have: Meaning, wanted: Meaning) -> Float:
    """Convert the values of a map to another meaning.

    Color as data is its lightness (sRGB-encoded Rec. 709 luminance). Normals as data are their
    tilt, 0 for flat to 1 for 90 degrees. Data as color is gray.

    Parameters
    ----------
    pixels : (H, W, C) float32, values as in `Raster`
    have : meaning of the values
    wanted : meaning of the result

    Returns
    -------
    (H, W, C) float32

    Raises
    ------
    ShapeError : if there is no conversion; nothing but normals can be read as normals
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
