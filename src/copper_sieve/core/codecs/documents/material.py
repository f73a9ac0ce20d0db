"""Material description for documents: which file contains which map, and how it is read."""

from __future__ import annotations

import re
from collections.abc import Iterable
from dataclasses import dataclass, field

from copper_sieve.core.image.map_kind import MapKind, Meaning, NormalY


def identifier(name: str) -> str:
    """Return a valid identifier for a name: letters, digits and _, not beginning with a digit."""
    word = re.sub(r"\W", "_", name, flags=re.ASCII)
    return word if not word[:1].isdigit() else f"_{word}"


@dataclass(frozen=True, slots=True)
class TextureBinding:
    """Texture of a map: a file next to the document, and its channels in order.

    inverted : the file contains 1 - v
    srgb : colors are encoded
    channels : of the file
    """

    file: str
    letters: str
    channels: int
    inverted: bool = False
    srgb: bool = False
    floating: bool = False


@dataclass(frozen=True, slots=True)
class DocumentMaterial:
    """A packed set as a renderer uses it.

    width, height, depth : meters
    height_mid : height without displacement
    height_in_metres : the file contains meters relative to the mid-level
    ior : index of refraction of dielectrics
    values : constants of maps without texture
    """

    name: str
    width: float
    height: float
    depth: float
    uses: dict[MapKind, TextureBinding]
    values: dict[MapKind, tuple[float, ...]] = field(default_factory=dict)
    normal_y: NormalY = NormalY.UP
    spec_gloss: bool = False
    ior: float = 1.5
    height_mid: float = 0.5
    height_in_metres: bool = False

    @property
    def identifier(self) -> str:
        """Its name as documents allow it: letters, digits and _, no digit first."""
        return identifier(self.name)

    def whole(self, kind: MapKind) -> TextureBinding | None:
        """Return the texture of a map if its components are in order from R, or one channel."""
        use = self.uses.get(kind)
        if use is None:
            return None
        if kind.facts.meaning is Meaning.DATA:
            return use
        in_order = use.letters == "RGB"[: len(kind.facts.stored_components)]
        return use if in_order and not use.inverted else None

    def textures(self, kinds: Iterable[MapKind]) -> list[str]:
        """Return the distinct files that contain these maps."""
        return list(dict.fromkeys(self.uses[kind].file for kind in kinds if kind in self.uses))
