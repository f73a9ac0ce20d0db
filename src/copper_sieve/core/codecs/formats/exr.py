"""OpenEXR: half or float, linear light."""

from __future__ import annotations

from collections.abc import Sequence
from pathlib import Path

import numpy as np

from copper_sieve.core.codecs.codec import Codec, Format, Writing, starts_with
from copper_sieve.core.codecs.libraries.openexr import read_openexr_codes
from copper_sieve.core.codecs.libraries.openimage import (
    read_oiio,
    read_oiio_codes,
    read_oiio_spec,
    write_oiio,
)
from copper_sieve.core.codecs.spec import PictureSpec
from copper_sieve.core.errors import WriteError
from copper_sieve.core.image.raster import Codes, Picture


def _read_spec(path: Path) -> PictureSpec:
    return read_oiio_spec(path, "exr")


def _write(path: Path, picture: Picture, mips: Sequence[Codes], how: Writing) -> None:
    if picture.codes.dtype != np.float32:
        raise WriteError("exr requires floating-point values")
    kind = "float" if how.bits == 32 else "half"
    write_oiio(
        path, "openexr", [picture.codes, *mips], picture.channels, kind,
        tiles=how.tiles, DateTime="", compression=how.compression or "",
    )  # fmt: skip


def _reopen(path: Path, level: int) -> Codes:
    return read_oiio_codes(path, level) if level else read_openexr_codes(path)


CODEC = Codec(
    name="exr",
    title="EXR",
    place=40,
    endings=(".exr",),
    sniff=starts_with(b"\x76\x2f\x31\x01"),
    read_spec=_read_spec,
    read=read_oiio,
    packed=True,
    holds=Format(
        bits=(16, 32), channels=(1, 2, 3, 4),
        compressions=("zip", "piz", "zips", "rle", "none", "dwaa"), lossy=("dwaa",),
        floating_bits=(16, 32), mips=True, tiles=True,
    ),
    write=_write,
    reopen=_reopen,
    reader="OpenEXR, smaller levels by OpenImageIO",
)  # fmt: skip
