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
        """A file of that name, without its ending, in a folder of that name."""
        return cls(stem, set_of(read, folder, with_number=False), read.tile, read.mark)

    @property
    def is_plain(self) -> bool:
        """Whether the name states a map type, or a dot precedes the number."""
        return bool(self.mark) or re.search(rf"\.{self.number}$", self.name) is not None


def tiles_among(files: Sequence[Numbered]) -> list[int | None]:
    """For each file the tile that it is, beside the others; None where it is none.

    A number is a tile's where a set has two of them and one name at least is written as tiles are:
    a camera counts its photos just so. One number alone says nothing.
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
    """The maps that files of a set give, each with its tile: those of tiles as one map each, read
    as its first tile is."""
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
    """A map with further tiles beside those that it has; the new one alone where it has none."""
    if isinstance(before, Imported) and before.tiles and new.tiles:
        return new.on_tiles({**before.tiles, **new.tiles})
    return new


def without_files(way: MapDefinition, files: set[str]) -> MapDefinition | None:
    """A map without the tiles that these files were; None where nothing of it is left."""
    if not isinstance(way, Imported) or not files & set(way.files):
        return way
    left = {number: file for number, file in way.tiles.items() if file not in files}
    return way.on_tiles(left) if left else None
