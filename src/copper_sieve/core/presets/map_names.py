"""Which map a file is, from the suffix of its name in the spellings people use."""

from __future__ import annotations

import re

from copper_sieve.core.image.map_kind import MapKind, NormalY

_SUFFIXES: dict[MapKind, str] = {
    MapKind.BASE_COLOR: "basecolor base_color albedo color colour col bc diff diffuse",
    MapKind.NORMAL: "normal normals nrm nor norm n normalgl normaldx nor_gl nor_dx",
    MapKind.ROUGHNESS: "roughness rough r rgh",
    MapKind.GLOSSINESS: "glossiness gloss smoothness smooth",
    MapKind.METALLIC: "metallic metalness metal m mtl",
    MapKind.AMBIENT_OCCLUSION: "ao occlusion occ ambient_occlusion ambientocclusion",
    MapKind.HEIGHT: "height disp displacement h bump",
    MapKind.OPACITY: "opacity alpha mask",
    MapKind.EMISSIVE: "emissive emission emit",
}
_BY_SUFFIX = {
    spelling.replace("_", ""): kind
    for kind, words in _SUFFIXES.items()
    for spelling in words.split()
}


def kind_from_name(stem: str) -> MapKind | None:
    """The map kind a file's stem ends in, or None where the name says nothing."""
    words = re.split(r"[_\-. ]+", re.sub(r"(?<=[a-z0-9])(?=[A-Z])", "_", stem).lower())
    words = [word for word in words if not re.fullmatch(r"\d+k?|v\d+", word)]
    for count in (2, 1):
        if len(words) > count and (kind := _BY_SUFFIX.get("".join(words[-count:]))):
            return kind
    return None


def normal_y_from_name(stem: str) -> NormalY | None:
    """The direction of green a normal map's name states, if it does."""
    text = stem.lower()
    if re.search(r"(gl|opengl|y_?up|y\+)$", text):
        return NormalY.UP
    if re.search(r"(dx|directx|y_?down|y-)$", text):
        return NormalY.DOWN
    return None
