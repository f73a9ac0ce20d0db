"""JPEG 2000, as a file or a codestream: read only."""

from __future__ import annotations

from pathlib import Path

from copper_sieve.core.codecs.codec import Codec, starts_with
from copper_sieve.core.codecs.libraries.openimage import read_oiio, read_oiio_spec
from copper_sieve.core.codecs.spec import PictureSpec


def _read_spec(path: Path) -> PictureSpec:
    return read_oiio_spec(path, "jpeg2000")


CODEC = Codec(
    name="jpeg2000",
    title="JPEG 2000",
    place=100,
    endings=(".jp2", ".j2k", ".jpf", ".jpx", ".j2c"),
    sniff=starts_with(b"\x00\x00\x00\x0cjP  \r\n\x87\n", b"\xff\x4f\xff\x51"),
    read_spec=_read_spec,
    read=read_oiio,
)
