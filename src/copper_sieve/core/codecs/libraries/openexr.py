"""Decoding EXR with the OpenEXR library, to verify files written by OpenImageIO."""

from __future__ import annotations

from pathlib import Path

import numpy as np

from copper_sieve.core.codecs.spec import damaged
from copper_sieve.core.image.raster import Codes

_ORDER = "YRGBA"


def read_openexr_codes(path: Path) -> Codes:
    """Return the values of the data window: (H, W, C) float32, in the order R G B A or Y A.

    Raises
    ------
    DamagedPictureError
    """
    import OpenEXR

    try:
        with OpenEXR.File(str(path), separate_channels=True) as file:
            held = {name: channel.pixels for name, channel in file.channels().items()}
    except (OSError, RuntimeError, ValueError) as error:
        raise damaged(path) from error
    names = sorted(held, key=_ORDER.find)
    return np.stack([held[name].astype(np.float32) for name in names], axis=2)
