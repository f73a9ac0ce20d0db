"""Map kinds and the meaning of their values."""

from __future__ import annotations

from dataclasses import dataclass
from enum import StrEnum


class Meaning(StrEnum):
    """Meaning of the float values of a raster."""

    COLOR = "color"  # linear light, [0, inf), Rec. 709 primaries
    DATA = "data"  # stored value = value, [0, 1]
    NORMAL = "normal"  # unit vectors, [-1, 1], tangent space, Y up, z >= 0


class NormalY(StrEnum):
    """Green direction of a normal map."""

    UP = "up"
    DOWN = "down"

    @property
    def label(self) -> str:
        """Y+ or Y−, as the convention is written in texts."""
        return "Y+" if self is NormalY.UP else "Y−"


class MapKind(StrEnum):
    """One surface property of a texture set."""

    BASE_COLOR = "base_color"
    DIFFUSE = "diffuse"
    SPECULAR_COLOR = "specular_color"
    SPECULAR_LEVEL = "specular_level"
    F0 = "f0"
    METALLIC = "metallic"
    ROUGHNESS = "roughness"
    GLOSSINESS = "glossiness"
    NORMAL = "normal"
    HEIGHT = "height"
    AMBIENT_OCCLUSION = "ambient_occlusion"
    CAVITY = "cavity"
    CURVATURE = "curvature"
    BENT_NORMAL = "bent_normal"
    OPACITY = "opacity"
    EMISSIVE = "emissive"
    EMISSIVE_STRENGTH = "emissive_strength"
    TRANSLUCENCY = "translucency"
    THICKNESS = "thickness"
    POROSITY = "porosity"
    SUBSURFACE = "subsurface"
    UNCERTAINTY = "uncertainty"
    DETAIL_MASK = "detail_mask"
    MASK_1 = "mask_1"
    MASK_2 = "mask_2"
    MASK_3 = "mask_3"
    MASK_4 = "mask_4"

    @classmethod
    def _missing_(cls, value: object) -> MapKind | None:
        return cls.UNCERTAINTY if value == "doubt" else None  # its former name, in stored data

    @classmethod
    def present_name(cls, stored: str) -> str:
        """Return the current name of a stored map kind; unknown names are unchanged."""
        return stored if stored != "doubt" else cls.UNCERTAINTY.value

    @property
    def facts(self) -> KindFacts:
        """Meaning, components, neutral value and title of this kind."""
        return _FACTS[self]


@dataclass(frozen=True, slots=True)
class KindFacts:
    """Properties of all maps of one kind.

    `neutral` is the value without effect: linear light for colors, [0, 1] for data, a unit vector
    for normals.
    """

    title: str
    meaning: Meaning
    neutral: tuple[float, ...]

    @property
    def components(self) -> tuple[str, ...]:
        """Names of the components, in order."""
        if self.meaning is Meaning.NORMAL:
            return ("x", "y", "z")
        return ("r", "g", "b") if self.meaning is Meaning.COLOR else ("v",)

    @property
    def multiplies(self) -> bool:
        """If a map of this kind can weaken another one, texel by texel."""
        return self.meaning is Meaning.DATA


def _data(title: str, neutral: float) -> KindFacts:
    return KindFacts(title, Meaning.DATA, (neutral,))


def _color(title: str, neutral: float) -> KindFacts:
    return KindFacts(title, Meaning.COLOR, (neutral, neutral, neutral))


_FLAT = (0.0, 0.0, 1.0)
_FACTS: dict[MapKind, KindFacts] = {
    MapKind.BASE_COLOR: _color("Base color", 0.5),
    MapKind.DIFFUSE: _color("Diffuse", 0.5),
    MapKind.SPECULAR_COLOR: _color("Specular color", 0.04),
    MapKind.SPECULAR_LEVEL: _data("Specular level", 0.5),
    MapKind.F0: _data("F0", 0.04),
    MapKind.METALLIC: _data("Metallic", 0.0),
    MapKind.ROUGHNESS: _data("Roughness", 0.5),
    MapKind.GLOSSINESS: _data("Glossiness", 0.5),
    MapKind.NORMAL: KindFacts("Normal", Meaning.NORMAL, _FLAT),
    MapKind.BENT_NORMAL: KindFacts("Bent normal", Meaning.NORMAL, _FLAT),
    MapKind.HEIGHT: _data("Height", 0.5),
    MapKind.AMBIENT_OCCLUSION: _data("Occlusion", 1.0),
    MapKind.CAVITY: _data("Cavity", 0.5),
    MapKind.CURVATURE: _data("Curvature", 0.5),
    MapKind.OPACITY: _data("Opacity", 1.0),
    MapKind.EMISSIVE: _color("Emissive", 0.0),
    MapKind.EMISSIVE_STRENGTH: _data("Emissive strength", 0.0),
}
for _kind in MapKind:  # the rest are plain masks
    _FACTS.setdefault(_kind, _data(_kind.value.replace("_", " ").capitalize(), 0.0))
