"""The demo's rooms, drawn once for all tests of a process."""

from __future__ import annotations

from dataclasses import dataclass
from functools import cache

from copper_sieve.core.image.raster import Picture
from copper_sieve.core.models.texture_set import Imported, SetDefinition
from copper_sieve.demo.lantern_row import SCENARIOS, scenario_set


@dataclass(frozen=True, slots=True)
class Room:
    """A demo set and its pictures by their hashes, which are made up."""

    texture_set: SetDefinition
    pictures: dict[str, Picture]

    @property
    def sizes(self) -> dict[str, tuple[int, int]]:
        """Width and height of each picture."""
        return {sha: picture.size for sha, picture in self.pictures.items()}


@cache
def drawn(room: str) -> dict[str, Picture]:
    """The pictures of a room by what they are of."""
    return SCENARIOS[room].draw()


@cache
def room_of(name: str) -> Room:
    """A room as it would lie in a project."""
    pictures = drawn(name)
    shas = {word: f"{n:064x}" for n, word in enumerate(pictures)}
    taken = {word: Imported(source=sha) for word, sha in shas.items()}
    return Room(
        scenario_set(name, taken), {shas[word]: picture for word, picture in pictures.items()}
    )
