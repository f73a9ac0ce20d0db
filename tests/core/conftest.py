"""A set of one drawn photo, without files or database."""

from __future__ import annotations

from dataclasses import dataclass, field

import pytest

from copper_sieve.core.image.map_kind import MapKind
from copper_sieve.core.image.raster import Encoding, Picture
from copper_sieve.core.models.texture_set import Imported, SetDefinition, compose
from tests.conftest import photo_codes

SHA = "5a" * 32


@dataclass
class Wall:
    """A set, its source, and how often the source was loaded."""

    texture_set: SetDefinition
    sizes: dict[str, tuple[int, int]]
    pictures: dict[str, Picture]
    loads: list[str] = field(default_factory=list)

    def load(self, source: str) -> Picture:
        """Hand out the source and note it."""
        self.loads.append(source)
        return self.pictures[source]


@pytest.fixture
def wall() -> Wall:
    """A 64 x 48 photo and the set composed of it."""
    picture = Picture(photo_codes(), ("R", "G", "B"), Encoding.SRGB)
    texture_set = compose("wall", {MapKind.BASE_COLOR: Imported(source=SHA)})
    return Wall(texture_set, {SHA: picture.size}, {SHA: picture})
