"""Decoding and encoding with Pillow: Exif rotation is applied, CMYK and palettes are expanded."""

from __future__ import annotations

import io
from pathlib import Path
from typing import TYPE_CHECKING, Any

import numpy as np

from copper_sieve.core.codecs.color_profile import profile_of
from copper_sieve.core.codecs.spec import NAMES_BY_COUNT, PictureSpec, damaged
from copper_sieve.core.errors import WriteError
from copper_sieve.core.image.raster import Codes, Encoding, Picture

if TYPE_CHECKING:
    from PIL import Image

_BANDS = {"L": ("Y",), "CMYK": tuple("CMYK"), "RGBA": tuple("RGBA"), "LA": ("Y", "A")}
_QUARTER_TURNS = {5, 6, 7, 8}  # EXIF orientations that swap width and height
_ROWS = 128  # rows copied per block


def _open(path: Path, formats: list[str] | None = None) -> Image.Image:
    from PIL import Image

    Image.MAX_IMAGE_PIXELS = None  # our own limits are checked on the spec, before the pixels
    return Image.open(path, formats=formats)


def read_pillow_spec(path: Path, name: str) -> PictureSpec:
    """Return facts about an 8-bit picture; its size is that after Exif rotation.

    Raises
    ------
    DamagedPictureError
    """
    from PIL import ExifTags

    try:
        with _open(path) as image:
            width, height = image.size
            if image.getexif().get(ExifTags.Base.Orientation) in _QUARTER_TURNS:
                width, height = height, width
            channels = _BANDS.get(image.mode, ("R", "G", "B"))
            source = "file: profile" if image.info.get("icc_profile") else "assumed"
    except (OSError, ValueError, SyntaxError) as error:
        raise damaged(path) from error
    return PictureSpec(name, width, height, channels, 8, False, Encoding.SRGB, source)


def read_pillow(path: Path, spec: PictureSpec, *, upright: bool = True) -> Picture:
    """Decode the first picture of a file with 8 bits.

    Parameters
    ----------
    path : of the file
    spec : its facts
    upright : apply the Exif orientation

    Raises
    ------
    DamagedPictureError
    """
    from PIL import ImageOps

    try:
        with _open(path) as image:
            image.load()
            codes = _codes(ImageOps.exif_transpose(image) if upright else image)
    except (OSError, ValueError, SyntaxError) as error:
        raise damaged(path) from error
    return Picture(np.ascontiguousarray(codes), NAMES_BY_COUNT[codes.shape[2]], spec.encoding)


def read_pillow_codes(path: Path, name: str) -> Codes:
    """Return the codes of a file: (H, W, C) uint8, straight alpha."""
    try:
        with _open(path, [name.upper()]) as image:
            image.load()
            return _by_bands(image)
    except (OSError, ValueError, SyntaxError) as error:
        raise damaged(path) from error


def quantization_of(path: Path) -> list[int] | None:
    """Return the 64 luminance quantization steps of a JPEG, or None."""
    with _open(path) as image:
        table: list[int] | None = getattr(image, "quantization", {}).get(0)
    return table


def _codes(image: Image.Image) -> Codes:
    """Return 8-bit codes, (H, W, 1..4); palette, bilevel and CMYK pictures are expanded."""
    has_alpha = "A" in image.mode or "transparency" in image.info
    if image.mode in ("1", "L", "LA") or (image.mode == "I;16"):
        wanted = "LA" if has_alpha else "L"
    else:
        wanted = "RGBA" if has_alpha else "RGB"
    if image.mode != wanted:
        image = image.convert(wanted)
    return _by_bands(image)


def _by_bands(image: Image.Image) -> Codes:
    """Return the codes of a loaded image, (H, W, C) uint8, copied in blocks of rows."""
    from copper_sieve.core.image import array_pool

    width, height = image.size
    count = len(image.getbands())
    codes = array_pool.empty_of(np.uint8, height, width, count)
    for row in range(0, height, _ROWS):
        end = min(height, row + _ROWS)
        codes[row:end] = np.asarray(image.crop((0, row, width, end))).reshape(-1, width, count)
    return codes


def encode_pillow(picture: Picture, name: str, **options: Any) -> bytes:
    """Encode 8-bit codes; sRGB colors are tagged.

    Parameters
    ----------
    picture : codes
    name : of the Pillow format
    options : of Pillow's writer

    Raises
    ------
    WriteError
    """
    from PIL import Image

    codes = picture.codes
    if codes.dtype != np.uint8:
        raise WriteError(f"{name} supports 8 bits per channel. Choose 8 bits or another format")
    image = Image.fromarray(codes[:, :, 0] if codes.shape[2] == 1 else codes)
    buffer = io.BytesIO()
    image.save(buffer, format=name.upper(), icc_profile=profile_of(picture), **options)
    return buffer.getvalue()
