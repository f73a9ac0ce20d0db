"""The one way out: what each format can hold, and writing it to a path."""

from __future__ import annotations

from dataclasses import dataclass
from pathlib import Path

import numpy as np
import tifffile

from copper_sieve.core.codecs.lossy import encode_pillow
from copper_sieve.core.codecs.openimage import write_exr
from copper_sieve.core.codecs.png_writing import encode_png
from copper_sieve.core.errors import WriteError
from copper_sieve.core.image.raster import Picture


@dataclass(frozen=True, slots=True)
class Format:
    """What a format can hold: its file ending, depths and channel counts, and if it is exact."""

    ending: str
    bits: tuple[int, ...]
    channels: tuple[int, ...]
    lossless: bool = True
    floating: bool = False


FORMATS: dict[str, Format] = {
    "png": Format(".png", (8, 16), (1, 3, 4)),
    "tga": Format(".tga", (8,), (1, 3, 4)),
    "tiff": Format(".tif", (8, 16, 32), (1, 3, 4)),
    "exr": Format(".exr", (16,), (1, 3, 4), floating=True),
    "webp": Format(".webp", (8,), (3, 4)),
    "jpeg": Format(".jpg", (8,), (1, 3), lossless=False),
}
_BY_ENDING = {
    ".png": "png",
    ".tga": "tga",
    ".tif": "tiff",
    ".tiff": "tiff",
    ".exr": "exr",
    ".webp": "webp",
    ".jpg": "jpeg",
    ".jpeg": "jpeg",
}


def format_of(path: Path) -> str:
    """The format a file name asks for by its ending. Raises WriteError for an unknown one."""
    name = _BY_ENDING.get(path.suffix.lower())
    if name is None:
        raise WriteError(
            f"{path.name}: the ending says no format that can be written; use one of "
            + ", ".join(sorted(set(_BY_ENDING)))
        )
    return name


def write_picture(path: Path, picture: Picture, name: str) -> None:
    """Write codes in the named format. Raises WriteError where it cannot hold them."""
    if name == "exr":
        write_exr(path, picture)
    elif name == "tiff":
        _write_tiff(path, picture)
    elif name == "png":
        path.write_bytes(encode_png(picture))
    elif name in ("jpeg", "webp", "tga"):
        path.write_bytes(encode_pillow(picture, name))
    else:
        raise WriteError(f"{name} is no format that can be written: {', '.join(FORMATS)}")


def _write_tiff(path: Path, picture: Picture) -> None:
    count = picture.codes.shape[2]
    codes = picture.codes[:, :, 0] if count == 1 else picture.codes
    tifffile.imwrite(
        path,
        np.ascontiguousarray(codes),
        photometric="minisblack" if count == 1 else "rgb",
        extrasamples=["unassalpha"] if count == 4 else None,
        compression="zlib",
        predictor=picture.codes.dtype != np.float32,
        metadata=None,
    )
