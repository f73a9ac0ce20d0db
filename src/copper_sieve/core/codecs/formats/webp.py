"""WebP: 8 bits, lossy or lossless."""

from __future__ import annotations

from collections.abc import Sequence
from pathlib import Path

from copper_sieve.core.codecs.codec import Codec, Format, Loss, Writing
from copper_sieve.core.codecs.libraries.opencv import read_opencv_codes
from copper_sieve.core.codecs.libraries.pillow import encode_pillow, read_pillow, read_pillow_spec
from copper_sieve.core.codecs.spec import USUAL_QUALITY, PictureSpec
from copper_sieve.core.image.raster import Codes, Picture


def _sniff(head: bytes) -> bool:
    return head[:4] == b"RIFF" and head[8:12] == b"WEBP"


def _read_spec(path: Path) -> PictureSpec:
    return read_pillow_spec(path, "webp")


def _loss(path: Path) -> Loss:
    with path.open("rb") as file:
        return "none" if b"VP8L" in file.read(64) else "heavy"


def _write(path: Path, picture: Picture, _: Sequence[Codes], how: Writing) -> None:
    lossy = how.compression == "lossy"
    way = {"quality": how.quality or USUAL_QUALITY} if lossy else {"lossless": True}
    path.write_bytes(encode_pillow(picture, "webp", exact=True, **way))


CODEC = Codec(
    name="webp",
    title="WebP",
    place=60,
    endings=(".webp",),
    sniff=_sniff,
    read_spec=_read_spec,
    read=read_pillow,
    loss=_loss,
    media_type="image/webp",
    packed=True,
    holds=Format(
        bits=(8,), channels=(3, 4), compressions=("lossless", "lossy"), lossy=("lossy",),
        quality=True,
    ),
    write=_write,
    reopen=read_opencv_codes,  # OpenImageIO multiplies its colors by their alpha
    reader="OpenCV",
    color_tag="colors",
)  # fmt: skip
