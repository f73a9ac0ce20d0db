"""glTF 2.0: the maps that a material supports, and the textures that a file refers to or embeds."""

from __future__ import annotations

import hashlib
import json
import struct
from pathlib import Path
from typing import Any
from urllib.parse import unquote

from copper_sieve.core.codecs.documents.material import DocumentMaterial
from copper_sieve.core.errors import DamagedPictureError
from copper_sieve.core.image.map_kind import MapKind, Meaning, NormalY

# Maps that the core of a material contains as factors.
CORE_FACTORS = {
    MapKind.BASE_COLOR, MapKind.METALLIC, MapKind.ROUGHNESS, MapKind.EMISSIVE, MapKind.OPACITY,
}  # fmt: skip


def maps_supported_by_gltf(material: DocumentMaterial) -> list[MapKind]:
    """Return the maps that a glTF material can use, given their channels in the files."""
    uses = material.uses
    held = [k for k in (MapKind.BASE_COLOR, MapKind.EMISSIVE) if material.whole(k)]
    rough, metal = uses.get(MapKind.ROUGHNESS), uses.get(MapKind.METALLIC)
    together = rough and metal and rough.file == metal.file
    if rough and metal and together and (rough.letters, metal.letters) == ("G", "B"):
        held += [] if rough.inverted or metal.inverted else [MapKind.ROUGHNESS, MapKind.METALLIC]
    occlusion = uses.get(MapKind.AMBIENT_OCCLUSION)
    if occlusion and occlusion.letters == "R" and not occlusion.inverted:
        held.append(MapKind.AMBIENT_OCCLUSION)
    if material.whole(MapKind.NORMAL) and material.normal_y is NormalY.UP:
        held.append(MapKind.NORMAL)
    opacity, base = uses.get(MapKind.OPACITY), uses.get(MapKind.BASE_COLOR)
    beside_color = opacity and base and opacity.file == base.file and opacity.letters == "A"
    if opacity and beside_color and not opacity.inverted and MapKind.BASE_COLOR in held:
        held.append(MapKind.OPACITY)
    return held + _maps_of_extensions(material)


def _maps_of_extensions(material: DocumentMaterial) -> list[MapKind]:
    """Return the maps whose channels are where an extension of the specification reads them."""
    held = []
    for kind, use in material.uses.items():
        meaning, place = kind.facts.meaning, kind.facts.gltf
        if place and place.texture and use.letters == place.letters and not use.inverted:
            up = meaning is not Meaning.NORMAL or material.normal_y is NormalY.UP
            if up and (meaning is not Meaning.COLOR or use.srgb):
                held.append(kind)
    files = {kind: material.uses[kind].file for kind in held}
    both = (MapKind.ANISOTROPY, MapKind.ANISOTROPY_DIRECTION)  # one texture contains both
    apart = len({files.get(kind) for kind in both}) > 1
    return [kind for kind in held if not (apart and kind in both)]


def read_glb_images(path: Path) -> dict[str, str]:
    """Return the SHA-256 of every picture in a .glb by its name.

    Raises
    ------
    DamagedPictureError : if the file is truncated or isn't glTF 2.0
    """
    data = path.read_bytes()
    try:
        magic, version, length = struct.unpack_from("<4sII", data)
        if magic != b"glTF" or version != 2 or length != len(data):
            raise ValueError("header")
        json_length = struct.unpack_from("<I", data, 12)[0]
        document = json.loads(data[20 : 20 + json_length])
        start = 20 + json_length + 8
        found = {}
        for image in document.get("images", []):
            view = document["bufferViews"][image["bufferView"]]
            offset = start + view.get("byteOffset", 0)
            found[image["name"]] = hashlib.sha256(
                data[offset : offset + view["byteLength"]]
            ).hexdigest()
    except (struct.error, ValueError, KeyError, IndexError, TypeError) as error:
        raise DamagedPictureError(
            f"{path.name} isn't a valid .glb file. Deliver it again"
        ) from error
    return found


def read_gltf_files(path: Path) -> list[str]:
    """Return the pictures that a .gltf refers to.

    Raises
    ------
    DamagedPictureError : if the file isn't glTF 2.0
    """
    try:
        document: dict[str, Any] = json.loads(path.read_bytes())
        if document["asset"]["version"] != "2.0":
            raise ValueError("version")
        return [unquote(image["uri"]) for image in document.get("images", [])]
    except (ValueError, KeyError, TypeError) as error:
        raise DamagedPictureError(
            f"{path.name} isn't a valid .gltf file. Deliver it again"
        ) from error
