"""UV tiles in one layout, by number (UDIM): 1001 is the 0–1 range, numbers increase to the right,
tens upward.

A set with tiles is computed on the whole layout as one picture, so that derived maps match at tile
borders; only files are cut from it.
"""

from __future__ import annotations

from collections.abc import Iterable, Mapping
from dataclasses import dataclass

import numpy as np

from copper_sieve.core.errors import ParameterError
from copper_sieve.core.image.raster import Float

FIRST_TILE = 1001
LAST_TILE = 9999
TILES_ACROSS = 10
MOST_PLACES = 100  # of a sheet, those between its tiles as well

Size = tuple[int, int]  # width and height


def place_of_tile(number: int) -> tuple[int, int]:
    """Return the UV square of a tile, u and v down; v is negative above the first row.

    Raises
    ------
    ParameterError : if the number isn't a tile number
    """
    if not FIRST_TILE <= number <= LAST_TILE:
        raise ParameterError(
            f"{number} isn't a tile number. Tiles are numbered from {FIRST_TILE} to {LAST_TILE}"
        )
    return (number - FIRST_TILE) % TILES_ACROSS, -((number - FIRST_TILE) // TILES_ACROSS)


@dataclass(frozen=True, slots=True)
class TileLayout:
    """The smallest grid that contains some tiles.

    numbers : tile numbers, ascending; squares without a tile are empty
    left, top : unit square of the upper left tile, v down
    """

    numbers: tuple[int, ...]
    left: int
    top: int
    columns: int
    rows: int

    @classmethod
    def of(cls, numbers: Iterable[int]) -> TileLayout:
        """Return the layout of tiles.

        Raises
        ------
        ParameterError : if there are no tiles, or their numbers are invalid or too far apart
        """
        found = tuple(sorted(set(numbers)))
        if not found:
            raise ParameterError("a tile layout needs at least one tile")
        places = [place_of_tile(one) for one in found]
        left, top = min(u for u, _ in places), min(v for _, v in places)
        columns = max(u for u, _ in places) - left + 1
        rows = max(v for _, v in places) - top + 1
        if columns * rows > MOST_PLACES:
            raise ParameterError(
                f"tiles {found[0]} to {found[-1]} span {columns} x {rows} positions; the "
                f"limit is {MOST_PLACES}. Import distant tiles as a separate set"
            )
        return cls(found, left, top, columns, rows)

    def size(self, tile: Size) -> Size:
        """Return the size of the whole sheet for a size of one tile, in texels."""
        return tile[0] * self.columns, tile[1] * self.rows

    def tile_size(self, sheet: Size) -> Size:
        """Return the size of one tile for a size of the whole sheet, in texels."""
        return max(1, round(sheet[0] / self.columns)), max(1, round(sheet[1] / self.rows))

    def box(self, number: int, sheet: Size) -> tuple[slice, slice]:
        """Return the rows and columns of a tile on a sheet, without gaps or overlaps."""
        u, v = place_of_tile(number)
        column, row = u - self.left, v - self.top
        return _part(row, self.rows, sheet[1]), _part(column, self.columns, sheet[0])

    def placed(self, uv: Float) -> Float:
        """Convert UVs to fractions of the sheet, from the upper left to the lower right corner.

        Parameters
        ----------
        uv : (..., 2) float32, v down

        Returns
        -------
        (..., 2) float32
        """
        moved = uv - np.array([self.left, self.top], dtype=np.float32)
        return np.asarray(moved / np.array([self.columns, self.rows], dtype=np.float32))

    def laid(self, tiles: Mapping[int, Float], sheet: Size, neutral: Float) -> Float:
        """Place tiles on a sheet.

        Parameters
        ----------
        tiles : (H, W, C) float32 of each tile, with the size of its box
        sheet : width and height in texels
        neutral : (C,), value of squares without a tile

        Returns
        -------
        (H, W, C) float32
        """
        out = np.empty((sheet[1], sheet[0], len(neutral)), dtype=np.float32)
        out[:] = neutral
        for number, pixels in tiles.items():
            out[self.box(number, sheet)] = pixels
        return out

    def cut(self, pixels: Float, number: int) -> Float:
        """Return a copy of one tile's pixels, (H, W, C)."""
        height, width = pixels.shape[:2]
        return np.ascontiguousarray(pixels[self.box(number, (width, height))])


def _part(n: int, count: int, length: int) -> slice:
    return slice(round(n * length / count), round((n + 1) * length / count))
