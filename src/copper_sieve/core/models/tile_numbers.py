"""Detects UV tiles by file names, and merges their maps into one set."""

from __future__ import annotations

import re
from collections import defaultdict
from collections.abc import Iterable, Mapping, Sequence
from dataclasses import dataclass

from copper_sieve.core.detection.classify import Recognition
from copper_sieve.core.detection.names import NameReading
from copper_sieve.core.image.map_kind import MapKind
from copper_sieve.core.models.assignment import set_of
from copper_sieve.core.models.texture_set import Imported, MapDefinition

_LAST_GUESSED = 1100  # of ten rows; a higher number at the end of a name is rather a counter


@dataclass(frozen=True, slots=True)
class Numbered:
    """A file that may be a UV tile.

    set_name : without its number
    number : possible tile number in its name; None without one
    mark : words that state the map type
    """

    name: str
    set_name: str
    number: int | None
    mark: str

    @classmethod
    def of(cls, stem: str, folder: str, read: NameReading | Recognition) -> Numbered:
        """Return the numbers in a file name without extension, with its folder's name."""
        return cls(stem, set_of(read, folder, with_number=False), read.tile, read.mark)

    @property
    def is_plain(self) -> bool:
        """Whether the name states a map type, or a dot precedes the number."""
        return bool(self.mark) or re.search(rf"\.{self.number}$", self.name) is not None


def tiles_among(files: Sequence[Numbered]) -> list[int | None]:
    """Return the tile number of each file, or None if it isn't a tile.

    A number is a tile number if the set has two of them and at least one name has the usual form of
    tile names. A single number isn't sufficient, because cameras number photos in the same way.
    """
    sets: dict[str, list[Numbered]] = defaultdict(list)
    for one in files:
        if one.number is not None and one.number <= _LAST_GUESSED:
            sets[one.set_name.lower()].append(one)
    tiled = {
        name for name, some in sets.items()
        if len({one.number for one in some}) > 1 and any(one.is_plain for one in some)
    }  # fmt: skip
    return [
        one.number
        if one.number is not None and one.number <= _LAST_GUESSED and one.set_name.lower() in tiled
        else None
        for one in files
    ]


def group_tiles(
    given: Iterable[tuple[Mapping[MapKind, Imported], int | None]],
) -> dict[MapKind, Imported]:
    """Combine the tiles of each map; their settings are those of the first tile.

    Parameters
    ----------
    given : maps and tile number of each file

    Returns
    -------
    dict of MapKind to Imported
    """
    found: dict[MapKind, Imported] = {}
    tiles: dict[MapKind, dict[int, str]] = defaultdict(dict)
    for maps, tile in given:
        for kind, one in maps.items():
            if tile is None:
                found[kind] = one
            else:
                found.setdefault(kind, one)
                tiles[kind][tile] = one.source
    return found | {kind: found[kind].on_tiles(held) for kind, held in tiles.items()}


def joined(before: MapDefinition | None, new: Imported) -> Imported:
    """Return a map extended by further tiles, or the new map if there is none."""
    if isinstance(before, Imported) and before.tiles and new.tiles:
        return new.on_tiles({**before.tiles, **new.tiles})
    return new


def without_files(way: MapDefinition, files: set[str]) -> MapDefinition | None:
    """Return a map without the tiles from these files; None if no tile is left."""
    if not isinstance(way, Imported) or not files & set(way.files):
        return way
    left = {number: file for number, file in way.tiles.items() if file not in files}
    return way.on_tiles(left) if left else None
