"""TIFF with tifffile: writing strips, verifying tiles."""

from __future__ import annotations

from pathlib import Path

import numpy as np

from copper_sieve.core.codecs.color_profile import profile_of
from copper_sieve.core.errors import DamagedPictureError
from copper_sieve.core.image.raster import Codes, Picture


def write_rows(path: Path, picture: Picture, *, deflated: bool) -> None:
    """Write a TIFF with one picture and straight alpha."""
    import tifffile

    count = picture.codes.shape[2]
    codes = picture.codes[:, :, 0] if count == 1 else picture.codes
    tifffile.imwrite(
        path,
        np.ascontiguousarray(codes),
        photometric="minisblack" if count <= 2 else "rgb",
        planarconfig="contig" if count > 1 else None,
        extrasamples={2: ["unspecified"], 4: ["unassalpha"]}.get(count),
        compression="zlib" if deflated else None,
        predictor=deflated and picture.codes.dtype != np.float32,
        iccprofile=profile_of(picture),
        metadata=None,
    )


def read_tiles(path: Path, level: int) -> Codes | None:
    """Return the codes (H, W, C) of one level of a tiled file; None for a file in strips.

    Raises
    ------
    DamagedPictureError
    """
    import tifffile

    with tifffile.TiffFile(path) as file:
        if not file.pages.first.is_tiled:
            return None
        if level >= len(file.pages):
            raise DamagedPictureError(f"{path.name} has no mip level {level}. Deliver it again")
        codes: Codes = file.pages[level].asarray()
    return codes[:, :, None] if codes.ndim == 2 else codes
