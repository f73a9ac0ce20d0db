"""Reading pictures: detect the format, check the limits on the header, then decode."""

from __future__ import annotations

from collections.abc import Iterator
from contextlib import contextmanager
from pathlib import Path

from copper_sieve.core.codecs.budget import check_decoded, decoded_bytes, decoding
from copper_sieve.core.codecs.codec import Loss
from copper_sieve.core.codecs.registry import CODECS, sniff, writer_for_suffix
from copper_sieve.core.codecs.spec import (
    DEFAULT_LIMITS,
    Limits,
    PictureSpec,
    check_bytes,
    check_size,
)
from copper_sieve.core.errors import DamagedPictureError, NotAPictureError, SieveError
from copper_sieve.core.image.raster import Codes, Picture


def read_spec(path: Path, limits: Limits = DEFAULT_LIMITS) -> PictureSpec:
    """Return facts about a picture, checked against the limits, without decoding it.

    Raises
    ------
    NotAPictureError, DamagedPictureError, EmptyPictureError, PictureTooLargeError : with the file
        name and a remedy
    """
    if not path.is_file():
        raise NotAPictureError(f"{path} doesn't exist or isn't a file. Check the path")
    check_bytes(path, limits)
    with _decoders_own_errors(path):
        spec = sniff(path).read_spec(path)
    check_size(path, spec, limits)
    check_decoded(path, spec, limits)
    return spec


@contextmanager
def _decoders_own_errors(path: Path) -> Iterator[None]:
    """Convert any decoder exception to a DamagedPictureError with the file name."""
    try:
        yield
    except (SieveError, MemoryError):
        raise
    except Exception as error:
        raise DamagedPictureError(
            f"couldn't read {path.name} ({error}). Export or copy it again"
        ) from error


def read_picture(path: Path, limits: Limits = DEFAULT_LIMITS) -> tuple[PictureSpec, Picture]:
    """Return the facts and codes of a picture, with its bit depth; raises as `read_spec`."""
    spec = read_spec(path, limits)
    with decoding.taking(decoded_bytes(spec), limits.max_decoded), _decoders_own_errors(path):
        picture = CODECS[spec.format].read(path, spec)
    if picture.size != (spec.width, spec.height):
        raise DamagedPictureError(
            f"{path.name} states {spec.width} x {spec.height} but contains {picture.size[0]} "
            f"x {picture.size[1]} texels. Export it again"
        )
    return spec, picture


def compression_loss(path: Path, name: str) -> Loss:
    """Estimate how much the format of a file changed its values."""
    return CODECS[name].loss(path)


def reopen(path: Path, level: int = 0) -> Codes:
    """Return the codes of a written file, (H, W, C).

    If possible, they are decoded by another library than the one that wrote them (`Codec.reader`).

    Parameters
    ----------
    path : of the file
    level : mip level, 0 is the largest
    """
    codec = writer_for_suffix(path)
    assert codec.reopen is not None
    with _decoders_own_errors(path):
        return codec.reopen(path, level)
