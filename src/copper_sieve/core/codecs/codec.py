"""A file format: one `Codec`, declared in a module of `codecs.formats`.

All lists of formats (reading, writing, targets, file dialogs, error messages) are derived from
these declarations; see `codecs.registry`.
"""

from __future__ import annotations

from collections.abc import Callable, Sequence
from dataclasses import dataclass
from pathlib import Path
from typing import Literal

from copper_sieve.core.codecs.spec import PictureSpec
from copper_sieve.core.image.raster import Codes, Picture

Loss = Literal["none", "light", "heavy"]


@dataclass(frozen=True, slots=True)
class Format:
    """Capabilities of a format.

    bits, channels : bit depths and channel counts
    floating_bits : bit depths that are floating point
    compressions : available ones, the default first; empty without a choice
    lossy : those that change codes, or True for all
    mips, tiles : supports mip levels, tiled storage
    quality : has a quality setting
    blocks : block compressions for GPUs, see `codecs.encoders.blocks`; a reader may return more
        channels than were written
    """

    bits: tuple[int, ...]
    channels: tuple[int, ...]
    compressions: tuple[str, ...] = ()
    lossy: tuple[str, ...] | bool = ()
    floating_bits: tuple[int, ...] = ()
    mips: bool = False
    tiles: bool = False
    quality: bool = False
    blocks: bool = False

    def loses(self, compression: str | None = None) -> bool:
        """Return whether writing with these options is lossy."""
        if isinstance(self.lossy, bool):
            return self.lossy
        return (compression or (self.compressions or ("",))[0]) in self.lossy

    @property
    def floats_only(self) -> bool:
        """It holds linear light and nothing else."""
        return self.floating_bits == self.bits


@dataclass(frozen=True, slots=True)
class Writing:
    """Write options of a picture; None: default of the format.

    bits : 16 or 32 for floating-point files; quality : 1 to 100
    """

    format: str
    bits: int | None = None
    compression: str | None = None
    quality: int | None = None
    tiles: bool = False


# Path, picture, the smaller levels (each half the one before), and how; compression is filled in.
Write = Callable[[Path, Picture, Sequence[Codes], Writing], None]
# Path and level (0 is the whole picture) to codes (H, W, C): uint8, uint16 or float32.
Reopen = Callable[[Path, int], Codes]


def unchanged(_: Path) -> Loss:
    """Return zero loss; the loss function of lossless formats."""
    return "none"


def starts_with(*magic: bytes) -> Callable[[bytes], bool]:
    """Return a detector of formats with a signature at the start of the file."""
    return lambda head: head.startswith(magic)


@dataclass(frozen=True, slots=True)
class Codec:
    """A file format: how it is detected, read, written, and read back.

    name : in presets, manifests and `PictureSpec`
    title : for users
    place : position in lists
    endings : with the dot; the first one is used for writing
    sniff : returns True if a file begins with these 64 bytes; a format without a signature is a
        `guess`, tried after all others
    read_spec, read : facts without pixels, and codes; they raise PictureError
    loss : returns how much the format changed a file's values
    media_type : as in glTF
    packed : files can't be compressed further in a zip
    holds, write, reopen : of output formats. `reopen` reads a file with another library than the
        one that wrote it
    reader : library of `reopen`
    own_reader : part of `reopen` is code of this package, because no other reader is available; an
        error in both would not be detected
    color_tag : files that are tagged as sRGB: all, those of colors (with a profile), or none
    """

    name: str
    title: str
    place: int
    endings: tuple[str, ...]
    sniff: Callable[[bytes], bool]
    read_spec: Callable[[Path], PictureSpec]
    read: Callable[[Path, PictureSpec], Picture]
    guess: bool = False
    loss: Callable[[Path], Loss] = unchanged
    media_type: str | None = None
    packed: bool = False
    holds: Format | None = None
    write: Write | None = None
    reopen: Reopen | None = None
    reader: str = ""
    own_reader: bool = False
    color_tag: Literal["all", "colors", "none"] = "none"

    @property
    def ending(self) -> str:
        """The one that is written, with the dot."""
        return self.endings[0]
