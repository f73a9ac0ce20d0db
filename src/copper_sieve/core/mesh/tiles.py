"""Tiles by number: 1001 is the square from 0 to 1, tens go up, ones to the right (UDIM)."""

from __future__ import annotations

import numpy as np

from copper_sieve.core.errors import ParameterError
from copper_sieve.core.image.raster import Float

_FIRST = 1001
_ACROSS = 10
_LAST = 9999


def tiles_of(uv: Float) -> list[int]:
    """The numbers of the tiles that triangles (T, 3, 2), v down, lie in by their middles."""
    squares = np.unique(np.floor(uv.mean(1)).astype(np.int64), axis=0)
    numbers = [
        _FIRST + int(u) - _ACROSS * int(v) for u, v in squares if 0 <= u < _ACROSS and v <= 0
    ]
    return sorted(number for number in numbers if number <= _LAST)


def place_of_tile(number: int) -> tuple[int, int]:
    """The unit square of a tile, u and v **down**: above the first one v is below 0.

    Raises ParameterError for what is no number of a tile.
    """
    if not _FIRST <= number <= _LAST:
        raise ParameterError(f"{number} is no tile: they go from {_FIRST} to {_LAST}")
    return (number - _FIRST) % _ACROSS, -((number - _FIRST) // _ACROSS)
