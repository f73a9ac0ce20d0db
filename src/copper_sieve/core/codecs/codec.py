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
    """What a format can hold.

    bits, channels : depths and channel counts; floating_bits : the depths that are floating point
    compressions : the ways it knows, the usual one first; none where there is no choice
    lossy : those of them that change the codes, or True where all do
    mips, tiles : if it can hold smaller levels, and texels in tiles; quality : if it takes one
    blocks : texels as a GPU keeps them, by the compressions of `codecs.encoders.blocks`; a reader
        may give more channels than were written
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
    """Loss function of lossless formats."""
    return "none"


def starts_with(*magic: bytes) -> Callable[[bytes], bool]:
    """Return a detector of formats with a signature at the start of the file."""
    return lambda head: head.startswith(magic)


@dataclass(frozen=True, slots=True)
class Codec:
    """One file format: how it is told, read, written, and read again.

    name : as presets, manifests and `PictureSpec` have it; title : as a person reads it
    place : where it stands in lists
    endings : with the dot; the first is written
    sniff : if a file that begins with these 64 bytes is one; without a signature it is a `guess`,
        made when all others have said no
    read_spec, read : file facts without pixels, and the codes; they raise PictureError
    loss : how much the format has changed a file's values
    media_type : as glTF names it
    packed : its files get no smaller in a zip
    holds, write, reopen : of formats that can be written. `reopen` gives a file's codes through
        another library than the one that wrote them
    reader : what `reopen` reads by; own_reader : some of that is the writer's own code, since no
        other reader is at hand, so a fault that both share would not be found
    color_tag : which files say that they are sRGB: all, those of colors (by a profile), or none
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
