"""Materials of a glTF 2.0 file: pictures and constants of each map."""

from __future__ import annotations

import math
from collections.abc import Callable
from dataclasses import dataclass, field
from pathlib import Path
from typing import Any

from copper_sieve.core.codecs.gltf_file import GltfFile
from copper_sieve.core.codecs.gltf_textures import image_bytes, image_of_texture
from copper_sieve.core.codecs.meshes.damage import reported_as_damaged
from copper_sieve.core.image.map_kind import GltfInput, MapKind, Meaning
from copper_sieve.core.image.raster import Encoding

_SPEC_GLOSS = "KHR_materials_pbrSpecularGlossiness"
_STRENGTH = "KHR_materials_emissive_strength"
_IOR = "KHR_materials_ior"
_READ = {_SPEC_GLOSS, _STRENGTH, _IOR}
_READ |= {kind.facts.gltf.extension for kind in MapKind if kind.facts.gltf}
_BRIGHTEST = 1e4


@dataclass(frozen=True, slots=True)
class GltfTextureReference:
    """Channels of a picture that contain a map; `image` is its index in the file."""

    image: int
    channels: str
    encoding: Encoding


@dataclass(slots=True)
class GltfMaterial:
    """One material.

    pictures : maps from pictures
    constants : maps with one value, linear light
    remarks : content that a set doesn't support, a sentence each
    """

    name: str
    pictures: dict[MapKind, GltfTextureReference] = field(default_factory=dict)
    constants: dict[MapKind, tuple[float, ...]] = field(default_factory=dict)
    remarks: list[str] = field(default_factory=list)


def gltf_materials(path: Path) -> tuple[list[GltfMaterial], Callable[[int], tuple[bytes, str]]]:
    """Return the materials of a file.

    Returns
    -------
    list of GltfMaterial; function that returns bytes and extension of a picture by its number

    Raises
    ------
    DamagedModelError, NotAPictureError
    """
    with reported_as_damaged(path.name):
        file = GltfFile.read(path)
        names = file.material_names
        found = [
            _material(file, name, one)
            for name, one in zip(names, file.document.get("materials", ()), strict=True)
        ]

    def read(image: int) -> tuple[bytes, str]:
        with reported_as_damaged(path.name):
            return image_bytes(file, image)

    return found, read


def _material(file: GltfFile, name: str, given: dict[str, Any]) -> GltfMaterial:
    made = GltfMaterial(name)
    extensions = given.get("extensions", {})
    if _SPEC_GLOSS in extensions:
        _spec_gloss(file, made, extensions[_SPEC_GLOSS])
    else:
        _metal_rough(file, made, given.get("pbrMetallicRoughness", {}))
    alpha_of = MapKind.DIFFUSE if _SPEC_GLOSS in extensions else MapKind.BASE_COLOR
    if given.get("alphaMode", "OPAQUE") != "OPAQUE" and alpha_of in made.pictures:
        picture = made.pictures[alpha_of]
        made.pictures[MapKind.OPACITY] = GltfTextureReference(picture.image, "A", Encoding.LINEAR)
    _put(file, made, MapKind.NORMAL, given.get("normalTexture"), "RGB", Encoding.LINEAR)
    _told_strength(made, given.get("normalTexture"), "scale", "normal")
    occlusion = given.get("occlusionTexture")
    _put(file, made, MapKind.AMBIENT_OCCLUSION, occlusion, "R", Encoding.LINEAR)
    _told_strength(made, occlusion, "strength", "occlusion")
    factor = tuple(float(v) for v in given.get("emissiveFactor", (0, 0, 0)))
    if given.get("emissiveTexture") is not None:
        _put(file, made, MapKind.EMISSIVE, given["emissiveTexture"], "RGB", Encoding.SRGB)
        _told_factor(made, factor, "emissive")
    elif any(factor):
        made.constants[MapKind.EMISSIVE] = factor
    strength = float(extensions.get(_STRENGTH, {}).get("emissiveStrength", 1.0))
    if strength != 1:
        made.remarks.append(f"{name}: the emissive strength is {strength:g}; set it manually")
    ior = extensions.get(_IOR, {}).get("ior")
    if ior is not None:
        made.constants[MapKind.F0] = (((float(ior) - 1) / (float(ior) + 1)) ** 2,)
    for kind in MapKind:
        if (place := kind.facts.gltf) and place.extension in extensions:
            _extension(file, made, kind, place, extensions[place.extension])
    _anisotropy_turned(made, extensions.get("KHR_materials_anisotropy", {}))
    film = extensions.get("KHR_materials_iridescence", {})
    least = float(film.get("iridescenceThicknessMinimum", 100))
    if least and MapKind.IRIDESCENCE_THICKNESS in made.pictures:
        made.remarks.append(
            f"{name}: black of the iridescence thickness texture is {least:g} nm, which a texture "
            "set doesn't support"
        )
    for other in sorted(set(extensions) - _READ):
        made.remarks.append(f"{name}: {other} isn't supported in a texture set and was skipped")
    return made


def _extension(
    file: GltfFile, made: GltfMaterial, kind: MapKind, place: GltfInput, given: dict[str, Any]
) -> None:
    """Read one map of an extension: its texture, or else its factor."""
    title, width = kind.facts.title.lower(), len(kind.facts.components)
    factor = given.get(place.factor, place.usual if width == 1 else [place.usual] * width)
    factors = tuple(float(v) for v in (factor if isinstance(factor, list) else [factor]))
    if place.texture in given:
        encoding = Encoding.SRGB if kind.facts.meaning is Meaning.COLOR else Encoding.LINEAR
        _put(file, made, kind, given[place.texture], place.letters, encoding)
        if place.in_widths:
            made.remarks.append(f"{made.name}: white of the {title} texture is {factors[0]:g} m")
        elif place.factor:
            _told_factor(made, tuple(v / place.scale for v in factors), title)
        else:
            _told_strength(made, given[place.texture], "scale", title)
    elif place.in_widths and factors[0]:
        made.remarks.append(
            f"{made.name}: the {title} is {factors[0]:g} m everywhere; set it manually"
        )
    elif place.factor in given and not place.in_widths:
        made.constants[kind] = tuple(min(max(v / place.scale, 0.0), 1.0) for v in factors)


def _anisotropy_turned(made: GltfMaterial, given: dict[str, Any]) -> None:
    """Read the rotation of the anisotropy, which no texture contains."""
    angle = float(given.get("anisotropyRotation", 0.0))
    if angle and MapKind.ANISOTROPY_DIRECTION in made.pictures:
        made.remarks.append(
            f"{made.name}: the anisotropy is rotated by {math.degrees(angle):g}°, which a texture "
            "set doesn't support"
        )
    elif angle:
        made.constants[MapKind.ANISOTROPY_DIRECTION] = (math.cos(angle), math.sin(angle), 0.0)


def _metal_rough(file: GltfFile, made: GltfMaterial, given: dict[str, Any]) -> None:
    color = tuple(float(v) for v in given.get("baseColorFactor", (1, 1, 1, 1)))[:3]
    _color(file, made, MapKind.BASE_COLOR, given.get("baseColorTexture"), color)
    packed = given.get("metallicRoughnessTexture")
    for kind, channel, factor in (
        (MapKind.ROUGHNESS, "G", float(given.get("roughnessFactor", 1))),
        (MapKind.METALLIC, "B", float(given.get("metallicFactor", 1))),
    ):
        if packed is None or factor == 0:
            made.constants[kind] = (min(max(factor, 0.0), 1.0),)
        else:
            _put(file, made, kind, packed, channel, Encoding.LINEAR)
            _told_factor(made, (factor,), kind.facts.title.lower())


def _spec_gloss(file: GltfFile, made: GltfMaterial, given: dict[str, Any]) -> None:
    diffuse = tuple(float(v) for v in given.get("diffuseFactor", (1, 1, 1, 1)))[:3]
    _color(file, made, MapKind.DIFFUSE, given.get("diffuseTexture"), diffuse)
    packed = given.get("specularGlossinessTexture")
    specular = tuple(float(v) for v in given.get("specularFactor", (1, 1, 1)))
    _color(file, made, MapKind.SPECULAR_COLOR, packed, specular)
    gloss = float(given.get("glossinessFactor", 1))
    if packed is None:
        made.constants[MapKind.GLOSSINESS] = (min(max(gloss, 0.0), 1.0),)
    else:
        _put(file, made, MapKind.GLOSSINESS, packed, "A", Encoding.LINEAR)
        _told_factor(made, (gloss,), "glossiness")


def _color(
    file: GltfFile, made: GltfMaterial, kind: MapKind, texture: Any, factor: tuple[float, ...]
) -> None:
    if texture is None:
        made.constants[kind] = tuple(min(max(v, 0.0), _BRIGHTEST) for v in factor)
        return
    _put(file, made, kind, texture, "RGB", Encoding.SRGB)
    _told_factor(made, factor, kind.facts.title.lower())


def _put(  # noqa: PLR0917
    file: GltfFile,
    made: GltfMaterial,
    kind: MapKind,
    texture: Any,
    channels: str,
    encoding: Encoding,
) -> None:
    if texture is None:
        return
    image = image_of_texture(file.document, texture)
    if image is None:
        made.remarks.append(
            f"{made.name}: the {kind.facts.title.lower()} texture has an unsupported picture format"
        )
        return
    made.pictures[kind] = GltfTextureReference(image, channels, encoding)
    if texture.get("texCoord"):
        made.remarks.append(
            f"{made.name}: the {kind.facts.title.lower()} texture uses UV set "
            f"{texture['texCoord'] + 1}"
        )
    if "KHR_texture_transform" in texture.get("extensions", {}):
        made.remarks.append(
            f"{made.name}: the {kind.facts.title.lower()} texture has a UV offset or scale, "
            "which a texture set doesn't support"
        )


def _told_factor(made: GltfMaterial, factor: tuple[float, ...], title: str) -> None:
    if any(v != 1 for v in factor):
        factors = ", ".join(f"{v:g}" for v in factor)
        made.remarks.append(
            f"{made.name}: the {title} texture is multiplied by {factors}, which a texture set "
            "doesn't support"
        )


def _told_strength(made: GltfMaterial, texture: Any, key: str, title: str) -> None:
    strength = 1.0 if texture is None else float(texture.get(key, 1))
    if strength != 1:
        made.remarks.append(
            f"{made.name}: the {title} texture has the strength {strength:g}, which a "
            "texture set doesn't support"
        )
