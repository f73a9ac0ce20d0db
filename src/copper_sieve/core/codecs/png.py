"""PNG (W3C Recommendation, third edition): spec from the chunks, pixels of every depth."""

from __future__ import annotations

import struct
import zlib
from pathlib import Path

import cv2
import numpy as np
from PIL import Image

from copper_sieve.core.codecs.spec import NAMES_BY_COUNT, PictureSpec
from copper_sieve.core.errors import DamagedPictureError
from copper_sieve.core.image import buffers
from copper_sieve.core.image.raster import Codes, Encoding, Picture

_CHANNELS = {0: ("Y",), 2: ("R", "G", "B"), 3: ("R", "G", "B"), 4: ("Y", "A"), 6: tuple("RGBA")}
_HEADER_END = 33  # signature, and the IHDR chunk
_BAND = 128  # rows


def read_png_spec(path: Path) -> PictureSpec:
    """Read the spec and check every chunk's length and checksum, so that no cut passes."""
    tags: dict[bytes, bytes] = {}
    header = b""
    with path.open("rb") as file:
        file.seek(8)
        while True:
            lead = file.read(8)
            if len(lead) < 8:
                raise _damaged(path)
            length, name = struct.unpack(">I4s", lead)
            data = file.read(length) if length < 1 << 31 else b""
            check = file.read(4)
            if len(data) < length or check != struct.pack(">I", zlib.crc32(data, zlib.crc32(name))):
                raise _damaged(path)
            if name == b"IHDR":
                header = data
            elif name in (b"sRGB", b"gAMA", b"cICP", b"iCCP", b"tRNS"):
                tags[name] = data
            elif name == b"IEND":
                break
    if len(header) != 13:
        raise _damaged(path)
    width, height, depth, color = struct.unpack(">IIBB", header[:10])
    channels = _CHANNELS.get(color)
    if channels is None:
        raise _damaged(path)
    if b"tRNS" in tags and "A" not in channels:
        channels = (*channels, "A")
    encoding, source = _encoding(tags)
    return PictureSpec("png", width, height, channels, depth, False, encoding, source)


def _damaged(path: Path) -> DamagedPictureError:
    return DamagedPictureError(f"{path.name} is cut short or damaged: export or copy it again")


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


def read_png(path: Path, spec: PictureSpec) -> Picture:
    """Decode all pixels; 16-bit ones by OpenCV (Pillow would cut them to 8), others by Pillow."""
    if spec.bit_depth == 16:
        read = cv2.imread(str(path), cv2.IMREAD_UNCHANGED)
        if read is None or read.dtype != np.uint16:
            raise _damaged(path)
        codes: Codes = read[:, :, None] if read.ndim == 2 else read
        if codes.shape[2] >= 3:
            codes = codes[:, :, [2, 1, 0, 3][: codes.shape[2]]]
        if spec.channels[0] == "Y" and codes.shape[2] >= 3:
            codes = codes[:, :, [0, 3][: len(spec.channels)]]
    else:
        with Image.open(path) as image:
            codes = pillow_codes(image)
    return Picture(np.ascontiguousarray(codes), NAMES_BY_COUNT[codes.shape[2]], spec.encoding)


def pillow_codes(image: Image.Image) -> Codes:
    """8-bit codes, (H, W, 1..4), of a Pillow image; palette, bilevel and CMYK are expanded."""
    has_alpha = "A" in image.mode or "transparency" in image.info
    if image.mode in ("1", "L", "LA") or (image.mode == "I;16"):
        wanted = "LA" if has_alpha else "L"
    else:
        wanted = "RGBA" if has_alpha else "RGB"
    if image.mode != wanted:
        image = image.convert(wanted)
    return codes_by_bands(image)


def codes_by_bands(image: Image.Image) -> Codes:
    """The codes of a loaded image, (H, W, C) uint8, for less time and memory than all at once."""
    width, height = image.size
    count = len(image.getbands())
    codes = buffers.empty_of(np.uint8, height, width, count)
    for row in range(0, height, _BAND):
        end = min(height, row + _BAND)
        codes[row:end] = np.asarray(image.crop((0, row, width, end))).reshape(-1, width, count)
    return codes


def read_opencv_codes(path: Path) -> Codes:
    """Codes through OpenCV: (H, W, C), R G B A. Raises DamagedPictureError."""
    codes = cv2.imread(str(path), cv2.IMREAD_UNCHANGED)
    if codes is None:
        raise DamagedPictureError(f"{path.name} is cut short or damaged: export or copy it again")
    if codes.ndim == 2:
        return codes[:, :, None]
    return np.ascontiguousarray(codes[:, :, [2, 1, 0, 3][: codes.shape[2]]])
