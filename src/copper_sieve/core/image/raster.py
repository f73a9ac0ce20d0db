"""Raster: pixels with their meaning. Picture: codes of a file."""

from __future__ import annotations

from dataclasses import dataclass
from enum import StrEnum
from typing import Any

import numpy as np
from numpy.typing import NDArray

from copper_sieve.core.errors import ChannelError, ShapeError
from copper_sieve.core.image.map_kind import Meaning

Float = NDArray[np.float32]
Codes = NDArray[Any]  # uint8 or uint16, or float32 from float files


class Encoding(StrEnum):
    """Relation between the codes of a file and light."""

    SRGB = "srgb"
    LINEAR = "linear"


@dataclass(frozen=True, slots=True)
class Raster:
    """Pixels of one map.

    pixels : (H, W, C) float32, first row at the top; C is 1 for data, 3 for color and normals
    meaning : see `Meaning`
    """

    pixels: Float
    meaning: Meaning

    def __post_init__(self) -> None:
        wanted = 1 if self.meaning is Meaning.DATA else 3
        if self.pixels.ndim != 3 or self.pixels.shape[2] != wanted:
            raise ShapeError(
                f"a {self.meaning} raster must have the shape (H, W, {wanted}), not "
                f"{self.pixels.shape}"
            )

    @property
    def size(self) -> tuple[int, int]:
        """Width and height in texels."""
        return self.pixels.shape[1], self.pixels.shape[0]


@dataclass(frozen=True, slots=True)
class Picture:
    """The codes of one picture file, not yet interpreted.

    codes : (H, W, C) uint8, uint16 or float32 (half and float files), row 0 at the top
    channels : names in order: ("Y",), ("Y", "A"), ("R", "G", "B") or ("R", "G", "B", "A")
    encoding : how color codes relate to light; alpha is always linear and straight
    """

    codes: Codes
    channels: tuple[str, ...]
    encoding: Encoding

    @property
    def size(self) -> tuple[int, int]:
        """Width and height in texels."""
        return self.codes.shape[1], self.codes.shape[0]

    def channel(self, name: str) -> Codes:
        """Return the codes of one channel, (H, W). `Y` of a gray picture serves as R, G and B."""
        have = self.channels
        if name in have:
            return self.codes[:, :, have.index(name)]
        if have[0] == "Y" and name in ("R", "G", "B"):
            return self.codes[:, :, 0]
        raise ChannelError(f"the picture has no channel {name}. It has {', '.join(have)}")
