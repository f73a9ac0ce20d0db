"""Maps as pictures for the eye: colors sRGB, normals with green up, data value for value."""

from __future__ import annotations

import numpy as np

from copper_sieve.core.image.encoding import linear_to_srgb, quantize
from copper_sieve.core.image.map_kind import Meaning
from copper_sieve.core.image.normals import vectors_to_encoded
from copper_sieve.core.image.raster import Encoding, Picture, Raster


def displayed(raster: Raster) -> Picture:
    """8-bit codes of a map as a window shows it, (H, W, 1 or 3)."""
    values = raster.pixels
    if raster.meaning is Meaning.COLOR:
        values = linear_to_srgb(np.clip(values, 0, 1))
    elif raster.meaning is Meaning.NORMAL:
        values = vectors_to_encoded(values)
    names = ("Y",) if values.shape[2] == 1 else ("R", "G", "B")
    return Picture(quantize(values, 8), names, Encoding.LINEAR)
