"""KTX 2.0 (Khronos): GPU texels, block-compressed or plain, with mipmaps.

No available library reads it: the container is read by this package, the blocks by OpenImageIO.
"""

from __future__ import annotations

from collections.abc import Sequence
from pathlib import Path

from copper_sieve.core.codecs.codec import Codec, Writing, starts_with
from copper_sieve.core.codecs.encoders.blocks import BLOCK_FORMAT, check_block, loss_in_blocks
from copper_sieve.core.codecs.encoders.gpu_containers import (
    encode_ktx2,
    read_ktx2_codes,
    read_ktx2_spec,
)
from copper_sieve.core.codecs.libraries.openimage import with_full_blue
from copper_sieve.core.codecs.spec import NAMES_BY_COUNT, PictureSpec
from copper_sieve.core.image.raster import Codes, Picture


def _read(path: Path, spec: PictureSpec) -> Picture:
    codes = read_ktx2_codes(path)
    if codes.shape[2] == 2:
        codes = with_full_blue(codes)
    return Picture(codes, NAMES_BY_COUNT[codes.shape[2]], spec.encoding)


def _write(path: Path, picture: Picture, mips: Sequence[Codes], how: Writing) -> None:
    block = check_block(picture, how)
    path.write_bytes(encode_ktx2([picture.codes, *mips], block, picture.encoding))


CODEC = Codec(
    name="ktx2",
    title="KTX2",
    place=90,
    endings=(".ktx2",),
    sniff=starts_with(b"\xabKTX 20\xbb\r\n\x1a\n"),
    read_spec=read_ktx2_spec,
    read=_read,
    loss=loss_in_blocks,
    media_type="image/ktx2",
    holds=BLOCK_FORMAT,
    write=_write,
    reopen=read_ktx2_codes,
    reader="our own code, its blocks by OpenImageIO",
    own_reader=True,
    color_tag="all",
)
