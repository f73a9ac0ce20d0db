"""JPEG: 8 bits, lossy, written without chroma subsampling."""

from __future__ import annotations

from collections.abc import Sequence
from pathlib import Path

from copper_sieve.core.codecs.codec import Codec, Format, Loss, Writing, starts_with
from copper_sieve.core.codecs.libraries.openimage import read_oiio_codes
from copper_sieve.core.codecs.libraries.pillow import (
    encode_pillow,
    quantization_of,
    read_pillow,
    read_pillow_spec,
)
from copper_sieve.core.codecs.spec import USUAL_QUALITY, PictureSpec
from copper_sieve.core.errors import WriteError
from copper_sieve.core.image.raster import Codes, Picture

_LIGHT = 18.0  # mean of the luminance table at quality 85


def _read_spec(path: Path) -> PictureSpec:
    return read_pillow_spec(path, "jpeg")


def _loss(path: Path) -> Loss:
    """Return the loss: light up to the usual JPEG quality of 85."""
    table = quantization_of(path)
    return "light" if table and sum(table) / len(table) <= _LIGHT else "heavy"


def _write(path: Path, picture: Picture, _: Sequence[Codes], how: Writing) -> None:
    if picture.codes.shape[2] not in (1, 3):
        raise WriteError("JPEG doesn't support alpha. Choose another format")
    quality = how.quality or USUAL_QUALITY
    path.write_bytes(encode_pillow(picture, "jpeg", quality=quality, subsampling=0))


CODEC = Codec(
    name="jpeg",
    title="JPEG",
    place=70,
    endings=(".jpg", ".jpeg", ".jpe", ".jfif"),
    sniff=starts_with(b"\xff\xd8\xff"),
    read_spec=_read_spec,
    read=read_pillow,
    loss=_loss,
    media_type="image/jpeg",
    packed=True,
    holds=Format(bits=(8,), channels=(1, 3), lossy=True, quality=True),
    write=_write,
    reopen=read_oiio_codes,
    reader="OpenImageIO",
    color_tag="colors",
)
