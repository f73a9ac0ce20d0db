"""TGA 2.0 (Truevision): without signature; detected by a plausible header."""

from __future__ import annotations

from collections.abc import Sequence
from pathlib import Path

from copper_sieve.core.codecs.codec import Codec, Format, Writing
from copper_sieve.core.codecs.libraries.openimage import read_oiio, read_oiio_spec
from copper_sieve.core.codecs.libraries.pillow import read_pillow_codes
from copper_sieve.core.codecs.spec import PictureSpec
from copper_sieve.core.image.raster import Codes, Encoding, Picture

_HEADER = 18  # bytes
_TYPES = {1, 2, 3, 9, 10, 11}
_DEPTHS = {8, 15, 16, 24, 32}  # of a texel, or of a palette's


def _sniff(head: bytes) -> bool:
    if len(head) < _HEADER:
        return False
    palette, kind, depth, flags = head[1], head[2], head[16], head[17]
    return (
        palette in (0, 1)
        and kind in _TYPES
        and (kind in (1, 9)) == (palette == 1)
        and depth in _DEPTHS
        and (depth == 8 or kind not in (1, 3, 9, 11))
        and flags & 0xC0 == 0
    )


def _read_spec(path: Path) -> PictureSpec:
    """Report a header without texels as an empty picture, not as damage."""
    with path.open("rb") as file:
        head = file.read(_HEADER)
    width, height = (int.from_bytes(head[i : i + 2], "little") for i in (12, 14))
    if width and height:
        return read_oiio_spec(path, "tga", bits=8)
    return PictureSpec("tga", width, height, ("Y",), 8, False, Encoding.SRGB, "assumed")


def _write(path: Path, picture: Picture, _: Sequence[Codes], how: Writing) -> None:
    from copper_sieve.core.codecs.encoders.tga import encode_tga

    parts = encode_tga(picture.codes, runs=how.compression != "none")
    with path.open("wb") as file:
        file.writelines(parts)


def _reopen(path: Path, _: int) -> Codes:
    return read_pillow_codes(path, "tga")


CODEC = Codec(
    name="tga",
    title="TGA",
    place=20,
    endings=(".tga", ".targa", ".vda", ".icb", ".vst"),
    sniff=_sniff,
    guess=True,
    read_spec=_read_spec,
    read=read_oiio,
    holds=Format(bits=(8,), channels=(1, 3, 4), compressions=("rle", "none")),
    write=_write,
    reopen=_reopen,
    reader="Pillow",
)
