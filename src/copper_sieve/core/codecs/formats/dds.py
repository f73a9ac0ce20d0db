"""DDS with DX10 header: GPU texels, block-compressed or plain, with mip levels."""

from __future__ import annotations

from collections.abc import Sequence
from dataclasses import replace
from pathlib import Path

from copper_sieve.core.codecs.codec import Codec, Writing, starts_with
from copper_sieve.core.codecs.encoders.blocks import BLOCK_FORMAT, check_block, loss_in_blocks
from copper_sieve.core.codecs.encoders.gpu_containers import encode_dds
from copper_sieve.core.codecs.libraries.openimage import read_oiio, read_oiio_codes, read_oiio_spec
from copper_sieve.core.codecs.libraries.pillow import read_pillow, read_pillow_spec
from copper_sieve.core.codecs.spec import PictureSpec
from copper_sieve.core.errors import DamagedPictureError
from copper_sieve.core.image.raster import Codes, Picture


def _read_spec(path: Path) -> PictureSpec:
    """Read the facts with the first library that supports the block format."""
    try:
        spec = read_oiio_spec(path, "dds", bits=8)
    except DamagedPictureError:
        return read_pillow_spec(path, "dds")
    # Two channels are the x and y of a normal map: red and green, and a full blue.
    return replace(spec, channels=("R", "G", "B")) if len(spec.channels) == 2 else spec


def _read(path: Path, spec: PictureSpec) -> Picture:
    try:
        return read_oiio(path, spec)
    except DamagedPictureError:
        return read_pillow(path, spec)


def _write(path: Path, picture: Picture, mips: Sequence[Codes], how: Writing) -> None:
    block = check_block(picture, how)
    path.write_bytes(encode_dds([picture.codes, *mips], block, picture.encoding))


CODEC = Codec(
    name="dds",
    title="DDS",
    place=80,
    endings=(".dds",),
    sniff=starts_with(b"DDS "),
    read_spec=_read_spec,
    read=_read,
    loss=loss_in_blocks,
    media_type="image/vnd-ms.dds",
    holds=BLOCK_FORMAT,
    write=_write,
    reopen=read_oiio_codes,
    reader="OpenImageIO",
)
