"""The one way in: sniff, check the limits on the spec, then decode."""

from __future__ import annotations

from collections.abc import Callable, Iterator
from contextlib import contextmanager
from pathlib import Path
from typing import TypeVar

import numpy as np

from copper_sieve.core.codecs.budget import check_decoded, decoded_bytes, decoding
from copper_sieve.core.codecs.gpu_textures import read_ktx2_codes, read_ktx2_spec
from copper_sieve.core.codecs.lossy import read_pillow, read_pillow_spec, read_tga_codes
from copper_sieve.core.codecs.openimage import read_oiio, read_oiio_codes, read_oiio_spec
from copper_sieve.core.codecs.png import read_opencv_codes, read_png, read_png_spec
from copper_sieve.core.codecs.spec import (
    DEFAULT_LIMITS,
    NAMES_BY_COUNT,
    Limits,
    PictureSpec,
    check_bytes,
    check_size,
    sniff,
)
from copper_sieve.core.errors import DamagedPictureError, NotAPictureError, SieveError
from copper_sieve.core.image.raster import Codes, Encoding, Picture

T = TypeVar("T")


def read_spec(path: Path, limits: Limits = DEFAULT_LIMITS) -> PictureSpec:
    """File facts of a picture, checked against the limits, without decoding its pixels.

    Raises NotAPictureError, DamagedPictureError, EmptyPictureError or PictureTooLargeError, each
    naming the file and what to do.
    """
    if not path.is_file():
        raise NotAPictureError(f"{path} is not there or no file: check the path")
    check_bytes(path, limits)
    with _decoders_own_errors(path):
        spec = _spec_of(path)
    check_size(path, spec, limits)
    check_decoded(path, spec, limits)
    return spec


def _spec_of(path: Path) -> PictureSpec:
    name = sniff(path)
    if name == "png":
        return read_png_spec(path)
    if name in ("jpeg", "webp"):
        return read_pillow_spec(path, name)
    if name == "ktx2":
        return read_ktx2_spec(path)
    if name == "dds":
        return _first_able(path, lambda: read_oiio_spec(path, name),
                           lambda: read_pillow_spec(path, name))  # fmt: skip
    return (name == "tga" and _tga_without_pixels(path)) or read_oiio_spec(path, name)


@contextmanager
def _decoders_own_errors(path: Path) -> Iterator[None]:
    """Whatever a decoder raises of a damaged file, as a DamagedPictureError that names it."""
    try:
        yield
    except (SieveError, MemoryError):
        raise
    except Exception as error:
        raise DamagedPictureError(
            f"{path.name} could not be read ({error}): export or copy it again"
        ) from error


def _first_able(path: Path, *ways: Callable[[], T]) -> T:
    """No one library knows every block format: the first that can read it does."""
    for way in ways:
        try:
            return way()
        except DamagedPictureError:
            continue
    raise DamagedPictureError(f"{path.name} is cut short or damaged: export or copy it again")


def _tga_without_pixels(path: Path) -> PictureSpec | None:
    """A TGA header that states no pixels is reported as such, not as damage."""
    with path.open("rb") as file:
        head = file.read(18)
    width, height = (int.from_bytes(head[i : i + 2], "little") for i in (12, 14))
    if width and height:
        return None
    return PictureSpec("tga", width, height, ("Y",), 8, False, Encoding.SRGB, "assumed")


def read_picture(path: Path, limits: Limits = DEFAULT_LIMITS) -> tuple[PictureSpec, Picture]:
    """Spec and codes of a picture; the depth that came back is the file's own."""
    spec = read_spec(path, limits)
    with decoding.taking(decoded_bytes(spec), limits.max_decoded), _decoders_own_errors(path):
        picture = _picture_of(path, spec)
    if picture.size != (spec.width, spec.height):
        raise DamagedPictureError(
            f"{path.name} states {spec.width} x {spec.height} but holds "
            f"{picture.size[0]} x {picture.size[1]}: export it again"
        )
    return spec, picture


def _picture_of(path: Path, spec: PictureSpec) -> Picture:
    if spec.format == "png":
        return read_png(path, spec)
    if spec.format in ("jpeg", "webp"):
        return read_pillow(path, spec)
    if spec.format == "ktx2":
        return _ktx2_picture(path, spec)
    if spec.format == "dds":
        return _first_able(path, lambda: read_oiio(path, spec),
                           lambda: read_pillow(path, spec))  # fmt: skip
    return read_oiio(path, spec)


def _ktx2_picture(path: Path, spec: PictureSpec) -> Picture:
    codes = read_ktx2_codes(path)
    if codes.shape[2] == 2:  # x and y of a normal map: as red and green
        codes = np.dstack([codes, np.full_like(codes[:, :, :1], 255)])
    return Picture(codes, NAMES_BY_COUNT[codes.shape[2]], spec.encoding)


def reopen(path: Path, level: int = 0) -> Codes:
    """Codes of a written file through a reader other than its writer: (H, W, C).

    level : of its mips; 0 is the whole picture
    """
    if path.suffix.lower() == ".webp":  # OpenImageIO multiplies its colors by their alpha
        return read_opencv_codes(path)
    if path.suffix.lower() == ".tga":
        return read_tga_codes(path)
    if path.suffix.lower() == ".ktx2":
        return read_ktx2_codes(path, level)
    return read_oiio_codes(path, level)
