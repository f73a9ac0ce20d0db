"""Textures inside a glTF 2.0 file (.glb or .gltf) with the roles that its materials give them."""

from __future__ import annotations

import base64
import json
import struct
from collections.abc import Iterator
from dataclasses import dataclass
from pathlib import Path
from typing import Any
from urllib.parse import unquote

from copper_sieve.core.errors import DamagedPictureError, NotAPictureError

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
)  # fmt: skip
_ENDINGS = {"image/png": ".png", "image/jpeg": ".jpg", "image/webp": ".webp", "image/ktx2": ".ktx2"}


@dataclass(frozen=True, slots=True)
class GltfTexture:
    """One picture with its roles: `name` ends in them, as files of a set do."""

    name: str
    data: bytes


def gltf_textures(path: Path) -> Iterator[GltfTexture]:
    """The pictures that the materials use, in their order.

    A picture that serves as occlusion and as metallic-roughness is one packed picture. Raises
    DamagedPictureError where the file is cut short, or names pictures that are not inside it.
    """
    try:
        document, blob = _document(path)
        for image, (material, roles) in _used(document).items():
            data, ending = _bytes(document, blob, image, path)
            yield GltfTexture(f"{material}_{_role(roles)}{ending}", data)
    except (struct.error, ValueError, KeyError, IndexError, TypeError, AttributeError) as error:
        raise DamagedPictureError(
            f"{path.name} is no whole glTF file ({error}): export it again"
        ) from error


def _document(path: Path) -> tuple[dict[str, Any], bytes]:
    data = path.read_bytes()
    if data[:4] != b"glTF":
        return json.loads(data), b""
    _, version, length = struct.unpack_from("<4sII", data)
    if version != 2 or length > len(data):
        raise ValueError("cut short")
    size = struct.unpack_from("<I", data, 12)[0]
    return json.loads(data[20 : 20 + size]), data[20 + size + 8 :]


def _used(document: dict[str, Any]) -> dict[int, tuple[str, list[str]]]:
    found: dict[int, tuple[str, list[str]]] = {}
    for n, material in enumerate(document.get("materials", ())):
        name = str(material.get("name") or f"material_{n + 1}")
        for place, role in _ROLES:
            spot: Any = material
            for step in place:
                spot = spot.get(step, {})
            if "index" not in spot:
                continue
            texture = document["textures"][spot["index"]]
            webp = texture.get("extensions", {}).get("EXT_texture_webp", {})
            image = webp.get("source", texture.get("source"))
            if image is not None:
                roles = found.setdefault(int(image), (name, []))[1]
                if role not in roles:
                    roles.append(role)
    return found


def _role(roles: list[str]) -> str:
    if {"occlusion", "metallic_roughness"} <= set(roles):
        return "occlusion_roughness_metallic"
    return roles[0]


def _bytes(document: dict[str, Any], blob: bytes, image: int, path: Path) -> tuple[bytes, str]:
    entry = document["images"][image]
    if "bufferView" in entry:
        view = document["bufferViews"][entry["bufferView"]]
        start = view.get("byteOffset", 0)
        held = blob
        uri = document["buffers"][view["buffer"]].get("uri")
        if uri:
            held = _uri(uri, path)
        data = held[start : start + view["byteLength"]]
        if len(data) < view["byteLength"]:
            raise ValueError("cut short")
        return data, _ENDINGS.get(entry.get("mimeType", ""), ".png")
    uri = entry["uri"]
    ending = Path(unquote(uri)).suffix if not uri.startswith("data:") else ".png"
    return _uri(uri, path), ending


def _uri(uri: str, path: Path) -> bytes:
    if uri.startswith("data:"):
        return base64.b64decode(uri.partition(",")[2])
    beside = (path.parent / unquote(uri)).resolve()
    if not beside.is_relative_to(path.parent.resolve()) or not beside.is_file():
        raise NotAPictureError(
            f"{path.name} names {unquote(uri)}, which is not beside it: give both, or a .glb"
        )
    return beside.read_bytes()
