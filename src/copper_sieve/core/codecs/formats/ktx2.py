"""KTX 2.0 (Khronos): texels as a GPU keeps them, in blocks or plain, with mips.

No library at hand reads it: the container is read by our own code, which its writer shares, and the
blocks by OpenImageIO.
"""

from __future__ import annotations

from collections.abc import Sequence
from pathlib import Path

import numpy as np

from copper_sieve.core.codecs.codec import Codec, Format, Loss, Writing, starts_with
from copper_sieve.core.codecs.encoders.blocks import BLOCKS, check_block
from copper_sieve.core.codecs.encoders.gpu_containers import (
    encode_ktx2,
    read_ktx2_codes,
    read_ktx2_spec,
)
from copper_sieve.core.codecs.spec import NAMES_BY_COUNT, PictureSpec
from copper_sieve.core.image.raster import Codes, Picture

_BLOCKS = tuple(name for name in BLOCKS if name != "none")


def _read(path: Path, spec: PictureSpec) -> Picture:
    codes = read_ktx2_codes(path)
    if codes.shape[2] == 2:  # x and y of a normal map: as red and green
        codes = np.dstack([codes, np.full_like(codes[:, :, :1], 255)])
    return Picture(codes, NAMES_BY_COUNT[codes.shape[2]], spec.encoding)


def _loss(_: Path) -> Loss:
    return "heavy"


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
    loss=_loss,
    media_type="image/ktx2",
    holds=Format(
        bits=(8,), channels=(1, 2, 3, 4), compressions=tuple(BLOCKS), lossy=_BLOCKS, mips=True,
        blocks=True,
    ),
    write=_write,
    reopen=read_ktx2_codes,
    reader="our own code, its blocks by OpenImageIO",
    own_reader=True,
    color_tag="all",
)  # fmt: skip
