"""JPEG and WebP through Pillow: EXIF rotation applied, CMYK and palettes expanded."""

from __future__ import annotations

import io
from pathlib import Path
from typing import Any, Literal

import numpy as np
from PIL import ExifTags, Image, ImageOps

from copper_sieve.core.codecs.color_profile import profile_of
from copper_sieve.core.codecs.png import codes_by_bands, pillow_codes
from copper_sieve.core.codecs.spec import NAMES_BY_COUNT, PictureSpec
from copper_sieve.core.errors import DamagedPictureError, WriteError
from copper_sieve.core.image.raster import Codes, Encoding, Picture

Image.MAX_IMAGE_PIXELS = None  # our own limits are checked on the spec, before the pixels

_BANDS = {"L": ("Y",), "CMYK": tuple("CMYK"), "RGBA": tuple("RGBA"), "LA": ("Y", "A")}
USUAL_QUALITY = 95
_LIGHT = 18.0  # mean of the luminance table at quality 85
_QUARTER_TURNS = {5, 6, 7, 8}  # EXIF orientations that swap width and height


def read_pillow_spec(path: Path, name: str) -> PictureSpec:
    """File facts of a JPEG or WebP, the size after EXIF rotation."""
    try:
        with Image.open(path) as image:
            width, height = image.size
            if image.getexif().get(ExifTags.Base.Orientation) in _QUARTER_TURNS:
                width, height = height, width
            channels = _BANDS.get(image.mode, ("R", "G", "B"))
            source = "file: profile" if image.info.get("icc_profile") else "assumed"
    except (OSError, ValueError, SyntaxError) as error:
        raise DamagedPictureError(
            f"{path.name} is cut short or damaged: export or copy it again"
        ) from error
    return PictureSpec(name, width, height, channels, 8, False, Encoding.SRGB, source)


def loss_of(path: Path, name: str) -> Literal["none", "light", "heavy"]:
    """How much a file's format has changed its values: light up to JPEG's usual quality 85."""
    if name == "webp":
        with path.open("rb") as file:
            return "none" if b"VP8L" in file.read(64) else "heavy"
    if name == "png":  # a palette of at most 256 colors has lost more than rounding
        with path.open("rb") as file:
            return "heavy" if file.read(26)[25:26] == b"\x03" else "none"
    if name != "jpeg":
        return "heavy" if name in ("dds", "ktx2") else "none"
    with Image.open(path) as image:
        tables = getattr(image, "quantization", {})
    mean = sum(tables[0]) / len(tables[0]) if tables.get(0) else 99.0
    return "light" if mean <= _LIGHT else "heavy"


def read_pillow(path: Path, spec: PictureSpec) -> Picture:
    """Decode the first picture of the file, turned upright."""
    try:
        with Image.open(path) as image:
            image.load()
            codes = pillow_codes(ImageOps.exif_transpose(image))
    except (OSError, ValueError, SyntaxError) as error:
        raise DamagedPictureError(
            f"{path.name} is cut short or damaged: export or copy it again"
        ) from error
    return Picture(np.ascontiguousarray(codes), NAMES_BY_COUNT[codes.shape[2]], spec.encoding)


def read_tga_codes(path: Path) -> Codes:
    """The codes of a TGA as they are: (H, W, C) uint8, alpha straight."""
    try:
        with Image.open(path, formats=["TGA"]) as image:
            image.load()
            return codes_by_bands(image)
    except (OSError, ValueError, SyntaxError) as error:
        raise DamagedPictureError(
            f"{path.name} is cut short or damaged: export or copy it again"
        ) from error


def encode_pillow(
    picture: Picture, name: str, compression: str | None = None, quality: int | None = None
) -> bytes:
    """Encode 8-bit codes as JPEG (full chroma) or WebP.

    compression : lossless or lossy of WebP; quality : of a lossy one
    """
    codes = picture.codes
    if codes.dtype != np.uint8:
        raise WriteError(f"{name} holds 8 bits a channel: choose 8 bits or another format")
    if name == "jpeg" and codes.shape[2] not in (1, 3):
        raise WriteError("JPEG holds no alpha: choose another format")
    image = Image.fromarray(codes[:, :, 0] if codes.shape[2] == 1 else codes)
    options: dict[str, Any] = {"icc_profile": profile_of(picture)}
    if name == "jpeg":
        options |= {"quality": quality or USUAL_QUALITY, "subsampling": 0}
    elif name == "webp":
        lossy = {"quality": quality or USUAL_QUALITY}
        options |= {"exact": True, **(lossy if compression == "lossy" else {"lossless": True})}
    buffer = io.BytesIO()
    image.save(buffer, format=name.upper(), **options)
    return buffer.getvalue()
