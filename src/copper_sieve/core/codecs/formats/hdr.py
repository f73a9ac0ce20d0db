"""Radiance HDR: colors in linear light with a shared exponent."""

from __future__ import annotations

from collections.abc import Sequence
from pathlib import Path

import numpy as np

from copper_sieve.core.codecs.codec import Codec, Format, Writing, starts_with
from copper_sieve.core.codecs.libraries.opencv import read_opencv_codes
from copper_sieve.core.codecs.libraries.openimage import read_oiio, read_oiio_spec, write_oiio
from copper_sieve.core.codecs.spec import PictureSpec
from copper_sieve.core.errors import WriteError
from copper_sieve.core.image.raster import Codes, Picture


def _read_spec(path: Path) -> PictureSpec:
    return read_oiio_spec(path, "hdr")


def _write(path: Path, picture: Picture, _: Sequence[Codes], __: Writing) -> None:
    if picture.codes.dtype != np.float32:
        raise WriteError("hdr requires floating-point values")
    write_oiio(path, "hdr", [picture.codes], picture.channels, "float", DateTime="")


CODEC = Codec(
    name="hdr",
    title="HDR",
    place=50,
    endings=(".hdr", ".rgbe", ".pic"),
    sniff=starts_with(b"#?RADIANCE", b"#?RGBE"),
    read_spec=_read_spec,
    read=read_oiio,
    holds=Format(bits=(32,), channels=(3,), lossy=True, floating_bits=(32,)),
    write=_write,
    reopen=read_opencv_codes,
    reader="OpenCV",
)
