"""Textures inside a glTF 2.0 file (.glb or .gltf), with their roles in its materials."""

from __future__ import annotations

from collections.abc import Collection, Iterator
from dataclasses import dataclass
from pathlib import Path
from typing import Any
from urllib.parse import unquote

from copper_sieve.core.codecs.gltf_file import MOST_JSON, UNREADABLE, GltfFile
from copper_sieve.core.codecs.registry import CODECS
from copper_sieve.core.errors import DamagedPictureError, PictureTooLargeError
from copper_sieve.core.image.map_kind import MapKind

# Where a material names a texture, and what its picture holds; names say the same to `read_name`.
_ROLES = (
    (("pbrMetallicRoughness", "baseColorTexture"), "base_color"),
    (("pbrMetallicRoughness", "metallicRoughnessTexture"), "metallic_roughness"),
    (("normalTexture",), "normal_gl"),  # the specification has green upwards
    (("occlusionTexture",), "occlusion"),
    (("emissiveTexture",), "emissive"),
    (("extensions", "KHR_materials_pbrSpecularGlossiness", "diffuseTexture"), "diffuse"),
    (("extensions", "KHR_materials_pbrSpecularGlossiness", "specularGlossinessTexture"),
     "specular_glossiness"),
    *(
        (("extensions", place.extension, place.texture), kind.value)
        for kind in MapKind if (place := kind.facts.gltf) and place.texture
    ),
)  # fmt: skip
_TOGETHER = 2  # maps of extensions in one picture, whose names are joined
_MOST_PICTURES = 1000
_MOST_GROWTH = 4  # bytes of pictures to one of the file
_ENDINGS = {one.media_type: one.ending for one in CODECS.values() if one.media_type}


@dataclass(frozen=True, slots=True)
class GltfTexture:
    """One picture with its roles, which its `name` ends in, like files of a set."""

    name: str
    data: bytes


def gltf_textures(path: Path) -> Iterator[GltfTexture]:
    """Yield the pictures of all materials in order.

    A picture that is used as occlusion and as metallic-roughness is one packed picture.

    Raises
    ------
    DamagedPictureError : if the file is invalid
    NotAPictureError : if it refers to missing pictures
    PictureTooLargeError : if it exceeds a limit
    """
    try:
        file = GltfFile.read(path)
        used = _used(file.document)
        _check(path, file.document, used)
        for image, (material, roles) in used.items():
            data, ending = image_bytes(file, image)
            yield GltfTexture(f"{material}_{_role(roles)}{ending}", data)
    except RecursionError as error:
        raise DamagedPictureError(f"{path.name} is nested too deeply. Export it again") from error
    except UNREADABLE as error:
        raise DamagedPictureError(
            f"{path.name} isn't a valid glTF file ({str(error)[:200]}). Export it again"
        ) from error  # fmt: skip


def _check(path: Path, document: dict[str, Any], used: Collection[int]) -> None:
    """Check that the unpacked size of a file isn't far larger than the file."""
    if len(used) > _MOST_PICTURES:
        raise PictureTooLargeError(
            f"{path.name} uses {len(used)} pictures; the limit is {_MOST_PICTURES}. Split it"
        )
    views = [document["images"][image].get("bufferView") for image in used]
    held = sum(document["bufferViews"][view]["byteLength"] for view in views if view is not None)
    size = path.stat().st_size
    if held > _MOST_GROWTH * size and held > MOST_JSON:
        raise PictureTooLargeError(
            f"{path.name} would expand from {size / 1e6:.1f} MB to "
            f"{held / 1e6:.0f} MB, because its pictures overlap in the file. Export it "
            "again"
        )


def _used(document: dict[str, Any]) -> dict[int, tuple[str, list[str]]]:
    """Return the pictures that materials use, with the first material's name and all roles.

    Pictures with equal bytes are one picture.
    """
    same: dict[object, int] = {}
    found: dict[int, tuple[str, list[str]]] = {}
    for n, material in enumerate(document.get("materials", ())):
        name = str(material.get("name") or f"material_{n + 1}")
        for place, role in _ROLES:
            spot: Any = material
            for step in place:
                spot = spot.get(step, {})
            if "index" not in spot:
                continue
            image = image_of_texture(document, spot)
            if image is not None:
                entry = document["images"][image]
                held = (entry.get("bufferView"), entry.get("uri"))
                first = same.setdefault(held, image)
                roles = found.setdefault(first, (name, []))[1]
                if role not in roles:
                    roles.append(role)
    return found


def _role(roles: list[str]) -> str:
    if {"occlusion", "metallic_roughness"} <= set(roles):
        return "occlusion_roughness_metallic"
    places = [kind.facts.gltf for role in roles if (kind := MapKind.of(role))]
    letters = "".join(place.letters for place in places if place)
    apart = len(roles) == len(places) == _TOGETHER and len(set(letters)) == len(letters)
    return "_".join(roles) if apart else roles[0]


def image_of_texture(document: dict[str, Any], place: dict[str, Any]) -> int | None:
    """Return the number of the picture of a texture; None if its format isn't supported.

    Parameters
    ----------
    document : JSON of the file
    place : texture reference of a material

    Raises
    ------
    UNREADABLE : any of these exceptions, if the reference is invalid
    """
    texture = document["textures"][place["index"]]
    webp = texture.get("extensions", {}).get("EXT_texture_webp", {})
    image = webp.get("source", texture.get("source"))
    return None if image is None else int(image)


def image_bytes(file: GltfFile, image: int) -> tuple[bytes, str]:
    """Return the bytes of a picture and the extension of its format.

    Raises
    ------
    UNREADABLE : any of these exceptions, if the picture is missing
    """
    entry = file.document["images"][image]
    if "bufferView" in entry:
        return file.view(entry["bufferView"]), _ENDINGS.get(entry.get("mimeType", ""), ".png")
    uri = entry["uri"]
    ending = Path(unquote(uri)).suffix if not uri.startswith("data:") else ".png"
    return file.at(uri), ending
