"""Facts in a picture file's header, and limits that are checked before decoding."""

from __future__ import annotations

from dataclasses import dataclass
from pathlib import Path

from copper_sieve.core.errors import DamagedPictureError, EmptyPictureError, PictureTooLargeError
from copper_sieve.core.image.raster import Encoding


@dataclass(frozen=True, slots=True)
class Limits:
    """Limits of imported pictures: texels per side, bytes of the file, bytes when decoded."""

    max_side: int = 16384
    max_bytes: int = 512 * 1024 * 1024
    max_decoded: int = 2 * 1024**3


DEFAULT_LIMITS = Limits()


@dataclass(frozen=True, slots=True)
class PictureSpec:
    """File facts of a picture.

    format : name of its codec
    channels : names in the file, alpha last
    bit_depth : bits per channel in the file (1 to 32)
    floating : half or float samples instead of integers
    encoding : relation of color codes to light
    encoding_source : the file, the format, or an assumption
    """

    format: str
    width: int
    height: int
    channels: tuple[str, ...]
    bit_depth: int
    floating: bool
    encoding: Encoding
    encoding_source: str


USUAL_QUALITY = 95  # of a lossy file, of 100
NAMES_BY_COUNT = {1: ("Y",), 2: ("Y", "A"), 3: ("R", "G", "B"), 4: ("R", "G", "B", "A")}


def damaged(path: Path) -> DamagedPictureError:
    """Return the error for a file that can't be decoded completely."""
    return DamagedPictureError(f"{path.name} is truncated or corrupt. Export or copy it again")


def check_bytes(path: Path, limits: Limits) -> None:
    """Check the file size, before decoding.

    Raises
    ------
    PictureTooLargeError
    """
    size = path.stat().st_size
    if size > limits.max_bytes:
        raise PictureTooLargeError(
            f"{path.name} is {size / 1e6:.0f} MB; the limit is "
            f"{limits.max_bytes / 1e6:.0f} MB. Reduce it, or raise SIEVE_MAX_BYTES"
        )


def check_size(path: Path, spec: PictureSpec, limits: Limits) -> None:
    """Check that a picture isn't empty and within the limit per side.

    Raises
    ------
    EmptyPictureError, PictureTooLargeError
    """
    if spec.width < 1 or spec.height < 1:
        raise EmptyPictureError(
            f"{path.name} has no texels ({spec.width} x {spec.height}). Export it again"
        )
    if max(spec.width, spec.height) > limits.max_side:
        raise PictureTooLargeError(
            f"{path.name} has {spec.width} x {spec.height} texels; the limit is "
            f"{limits.max_side} per side. Reduce it, or raise SIEVE_MAX_SIDE"
        )
