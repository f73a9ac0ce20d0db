"""What a picture file says of itself before its pixels are read, and the limits it must keep."""

from __future__ import annotations

from dataclasses import dataclass
from pathlib import Path

from copper_sieve.core.errors import EmptyPictureError, NotAPictureError, PictureTooLargeError
from copper_sieve.core.image.raster import Encoding


@dataclass(frozen=True, slots=True)
class Limits:
    """The largest pictures taken in: texels a side, bytes of the file, bytes once decoded."""

    max_side: int = 16384
    max_bytes: int = 512 * 1024 * 1024
    max_decoded: int = 2 * 1024**3


DEFAULT_LIMITS = Limits()


@dataclass(frozen=True, slots=True)
class PictureSpec:
    """File facts of a picture.

    format : png, jpeg, tiff, tga, webp, exr, hdr, dds, ktx2 or jpeg2000
    channels : names as the file has them, alpha last
    bit_depth : bits per channel in the file (1 to 32)
    floating : half or float samples instead of integers
    encoding : how color codes relate to light
    encoding_source : what says so: the file, the format, or our assumption
    """

    format: str
    width: int
    height: int
    channels: tuple[str, ...]
    bit_depth: int
    floating: bool
    encoding: Encoding
    encoding_source: str


NAMES_BY_COUNT = {1: ("Y",), 2: ("Y", "A"), 3: ("R", "G", "B"), 4: ("R", "G", "B", "A")}

_MAGIC: tuple[tuple[bytes, str], ...] = (
    (b"\x89PNG\r\n\x1a\n", "png"),
    (b"\xff\xd8\xff", "jpeg"),
    (b"II*\x00", "tiff"),
    (b"MM\x00*", "tiff"),
    (b"II+\x00", "tiff"),
    (b"MM\x00+", "tiff"),
    (b"\x76\x2f\x31\x01", "exr"),
    (b"#?RADIANCE", "hdr"),
    (b"#?RGBE", "hdr"),
    (b"DDS ", "dds"),
    (b"\xabKTX 20\xbb\r\n\x1a\n", "ktx2"),
    (b"\x00\x00\x00\x0cjP  \r\n\x87\n", "jpeg2000"),
    (b"\xff\x4f\xff\x51", "jpeg2000"),
)
_TGA_TYPES = {1, 2, 3, 9, 10, 11}
_TGA_DEPTHS = {8, 15, 16, 24, 32}


def sniff(path: Path) -> str:
    """Name the format of a file by its first bytes, never by its ending.

    TGA has no signature: its header must be plausible as a whole. Raises NotAPictureError.
    """
    with path.open("rb") as file:
        head = file.read(64)
    if not head:
        raise EmptyPictureError(f"{path.name} is an empty file: export or copy it again")
    for magic, name in _MAGIC:
        if head.startswith(magic):
            return name
    if head[:4] == b"RIFF" and head[8:12] == b"WEBP":
        return "webp"
    if _plausible_tga(head):
        return "tga"
    raise NotAPictureError(
        f"{path.name} is no picture that can be read: give a PNG, JPEG, TIFF, TGA, WebP, EXR, "
        "HDR, DDS, KTX2 or JPEG 2000"
    )


def _plausible_tga(head: bytes) -> bool:
    if len(head) < 18:
        return False
    palette, kind, depth, flags = head[1], head[2], head[16], head[17]
    return (
        palette in (0, 1)
        and kind in _TGA_TYPES
        and (kind in (1, 9)) == (palette == 1)
        and depth in _TGA_DEPTHS
        and (depth == 8 or kind not in (1, 3, 9, 11))
        and flags & 0xC0 == 0
    )


def check_bytes(path: Path, limits: Limits) -> None:
    """Refuse files over the limit before a byte is decoded."""
    size = path.stat().st_size
    if size > limits.max_bytes:
        raise PictureTooLargeError(
            f"{path.name} has {size / 1e6:.0f} MB, the limit is {limits.max_bytes / 1e6:.0f} MB: "
            "reduce it, or raise SIEVE_MAX_BYTES"
        )


def check_size(path: Path, spec: PictureSpec, limits: Limits) -> None:
    """Refuse pictures without pixels or with more than the limit a side."""
    if spec.width < 1 or spec.height < 1:
        raise EmptyPictureError(
            f"{path.name} has no pixels ({spec.width} x {spec.height}): export it again"
        )
    if max(spec.width, spec.height) > limits.max_side:
        raise PictureTooLargeError(
            f"{path.name} is {spec.width} x {spec.height}, the limit is {limits.max_side} a side: "
            "reduce it, or raise SIEVE_MAX_SIDE"
        )
