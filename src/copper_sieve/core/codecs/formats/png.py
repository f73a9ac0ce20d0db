"""PNG (W3C Recommendation, third edition): facts from the chunks, all bit depths."""

from __future__ import annotations

import struct
import zlib
from collections.abc import Sequence
from pathlib import Path

from copper_sieve.core.codecs.codec import Codec, Format, Loss, Writing, starts_with
from copper_sieve.core.codecs.libraries.opencv import read_deep_png
from copper_sieve.core.codecs.libraries.openimage import read_oiio_codes
from copper_sieve.core.codecs.libraries.pillow import read_pillow
from copper_sieve.core.codecs.spec import PictureSpec, damaged
from copper_sieve.core.image.raster import Codes, Encoding, Picture

_CHANNELS = {0: ("Y",), 2: ("R", "G", "B"), 3: ("R", "G", "B"), 4: ("Y", "A"), 6: tuple("RGBA")}
_HEADER_END = 33  # signature, and the IHDR chunk


def _read_spec(path: Path) -> PictureSpec:
    """Read the facts and check every chunk's length and checksum to detect truncation."""
    tags: dict[bytes, bytes] = {}
    header = b""
    with path.open("rb") as file:
        file.seek(8)
        while True:
            lead = file.read(8)
            if len(lead) < 8:
                raise damaged(path)
            length, name = struct.unpack(">I4s", lead)
            data = file.read(length) if length < 1 << 31 else b""
            check = file.read(4)
            if len(data) < length or check != struct.pack(">I", zlib.crc32(data, zlib.crc32(name))):
                raise damaged(path)
            if name == b"IHDR":
                header = data
            elif name in (b"sRGB", b"gAMA", b"cICP", b"iCCP", b"tRNS"):
                tags[name] = data
            elif name == b"IEND":
                break
    if len(header) != 13:
        raise damaged(path)
    width, height, depth, color = struct.unpack(">IIBB", header[:10])
    channels = _CHANNELS.get(color)
    if channels is None:
        raise damaged(path)
    if b"tRNS" in tags and "A" not in channels:
        channels = (*channels, "A")
    encoding, source = _encoding(tags)
    return PictureSpec("png", width, height, channels, depth, False, encoding, source)


def _encoding(tags: dict[bytes, bytes]) -> tuple[Encoding, str]:
    if tags.get(b"cICP", b"\0\0")[1:2] == b"\x08":
        return Encoding.LINEAR, "file: cICP"
    if b"sRGB" in tags or b"cICP" in tags:
        return Encoding.SRGB, "file: sRGB"
    if b"iCCP" in tags:
        return Encoding.SRGB, "file: profile " + tags[b"iCCP"].split(b"\0")[0].decode("latin-1")
    if tags.get(b"gAMA") == struct.pack(">I", 100000):
        return Encoding.LINEAR, "file: gamma 1"
    return Encoding.SRGB, "assumed"


def _read(path: Path, spec: PictureSpec) -> Picture:
    """Read 16-bit files with OpenCV (Pillow would reduce them to 8 bits), others with Pillow."""
    if spec.bit_depth == 16:
        return read_deep_png(path, spec)
    return read_pillow(path, spec, upright=False)


def _loss(path: Path) -> Loss:
    """Return the loss: a palette of at most 256 colors loses more than rounding."""
    with path.open("rb") as file:
        return "heavy" if file.read(26)[25:26] == b"\x03" else "none"


def _write(path: Path, picture: Picture, _: Sequence[Codes], __: Writing) -> None:
    from copper_sieve.core.codecs.encoders.png import encode_png

    path.write_bytes(encode_png(picture))


CODEC = Codec(
    name="png",
    title="PNG",
    place=10,
    endings=(".png",),
    sniff=starts_with(b"\x89PNG\r\n\x1a\n"),
    read_spec=_read_spec,
    read=_read,
    loss=_loss,
    media_type="image/png",
    packed=True,
    holds=Format(bits=(8, 16), channels=(1, 3, 4)),
    write=_write,
    reopen=read_oiio_codes,
    reader="OpenImageIO",
    color_tag="all",
)
