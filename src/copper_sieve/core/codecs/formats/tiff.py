"""TIFF 6.0 and BigTIFF; also with tiles and mip levels, as renderers stream textures."""

from __future__ import annotations

from collections.abc import Sequence
from pathlib import Path

import numpy as np

from copper_sieve.core.codecs.codec import Codec, Format, Writing, starts_with
from copper_sieve.core.codecs.color_profile import profile_of
from copper_sieve.core.codecs.libraries.openimage import (
    read_oiio,
    read_oiio_codes,
    read_oiio_spec,
    write_oiio,
)
from copper_sieve.core.codecs.libraries.tiff import read_tiles, write_rows
from copper_sieve.core.codecs.spec import PictureSpec
from copper_sieve.core.image.raster import Codes, Picture

# The Exif value of an unknown time, so that repeated deliveries have identical bytes.
_NO_TIME = "    :  :     :  :  "
_PACKING = {"deflate": "zip"}  # what OpenImageIO calls it


def _read_spec(path: Path) -> PictureSpec:
    return read_oiio_spec(path, "tiff")


def _write(path: Path, picture: Picture, mips: Sequence[Codes], how: Writing) -> None:
    """Write tiles with OpenImageIO, strips with tifffile."""
    packing = how.compression or ""
    if not how.tiles:
        write_rows(path, picture, deflated=packing == "deflate")
        return
    kind = str(picture.codes.dtype).replace("float32", "float")
    write_oiio(
        path, "tiff", [picture.codes, *mips], picture.channels, kind, more="AppendSubimage",
        tiles=True, profile=profile_of(picture), DateTime=_NO_TIME,
        compression=_PACKING.get(packing, packing),
    )  # fmt: skip


def _reopen(path: Path, level: int) -> Codes:
    """Read the file with the library that didn't write it."""
    tiles = read_tiles(path, level)
    return read_oiio_codes(path, level) if tiles is None else np.asarray(tiles)


CODEC = Codec(
    name="tiff",
    title="TIFF",
    place=30,
    endings=(".tif", ".tiff"),
    sniff=starts_with(b"II*\x00", b"MM\x00*", b"II+\x00", b"MM\x00+"),
    read_spec=_read_spec,
    read=read_oiio,
    holds=Format(
        bits=(8, 16, 32), channels=(1, 2, 3, 4), compressions=("deflate", "none"),
        floating_bits=(32,), mips=True, tiles=True,
    ),
    write=_write,
    reopen=_reopen,
    reader="OpenImageIO, tiles by tifffile",
    color_tag="colors",
)  # fmt: skip
