"""glTF 2.0: a plane of the set's real size with its material, as one .glb or a .gltf."""

from __future__ import annotations

import base64
import hashlib
import json
import struct
from pathlib import Path
from typing import Any
from urllib.parse import quote, unquote

import numpy as np
import pygltflib as gltf

from copper_sieve.core.codecs.documents.material import Material
from copper_sieve.core.codecs.registry import written_by_ending
from copper_sieve.core.errors import DamagedPictureError
from copper_sieve.core.image.map_kind import MapKind, NormalY


def held_by_gltf(material: Material) -> list[MapKind]:
    """The maps of a material that the document takes: those that lie where glTF wants them."""
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
    return held


def encode_gltf(material: Material, folder: Path, *, one_file: bool) -> bytes:
    """A plane of the material's size in metres facing +Z, with its textures.

    one_file : a .glb with the textures inside; else a .gltf that names them beside it
    The plane has normals and tangents, so that green up in the texture points to +Y.
    """
    name = material.name
    x, y = material.width / 2, material.height / 2
    arrays: list[tuple[str, np.ndarray, str]] = [
        ("POSITION", np.array([[-x, -y, 0], [x, -y, 0], [x, y, 0], [-x, y, 0]], "<f4"), "VEC3"),
        ("NORMAL", np.array([[0, 0, 1]] * 4, "<f4"), "VEC3"),
        ("TANGENT", np.array([[1, 0, 0, 1]] * 4, "<f4"), "VEC4"),
        ("TEXCOORD_0", np.array([[0, 1], [1, 1], [1, 0], [0, 0]], "<f4"), "VEC2"),
        ("indices", np.array([0, 1, 2, 0, 2, 3], "<u2"), "SCALAR"),
    ]
    held = held_by_gltf(material)
    if MapKind.NORMAL not in held:  # nothing else needs them
        arrays = [one for one in arrays if one[0] != "TANGENT"]
    document = gltf.GLTF2(
        asset=gltf.Asset(version="2.0", generator="Copper Sieve"),
        scene=0,
        scenes=[gltf.Scene(nodes=[0])],
        nodes=[gltf.Node(mesh=0, name=name)],
        samplers=[gltf.Sampler(magFilter=9729, minFilter=9987, wrapS=10497, wrapT=10497)],
    )
    blob = bytearray()

    def add_view(data: bytes, target: int | None) -> int:
        blob.extend(b"\0" * (-len(blob) % 4))
        document.bufferViews.append(
            gltf.BufferView(buffer=0, byteOffset=len(blob), byteLength=len(data), target=target)
        )
        blob.extend(data)
        return len(document.bufferViews) - 1

    attributes = gltf.Attributes()
    for label, array, kind in arrays:
        index = label == "indices"
        accessor = gltf.Accessor(
            bufferView=add_view(array.tobytes(), 34963 if index else 34962),
            componentType=5123 if index else 5126,
            count=len(array),
            type=kind,
        )
        if label == "POSITION":
            accessor.min, accessor.max = array.min(0).tolist(), array.max(0).tolist()
        document.accessors.append(accessor)
        if not index:
            setattr(attributes, label, len(document.accessors) - 1)
    textures: dict[str, int] = {}
    for file in material.textures(held):
        path = folder / file
        image = gltf.Image(name=path.stem)
        if one_file:
            image.bufferView = add_view(path.read_bytes(), None)
            image.mimeType = written_by_ending(path).media_type
        else:
            image.uri = quote(file)
        document.images.append(image)
        document.textures.append(gltf.Texture(source=len(document.images) - 1, sampler=0))
        textures[file] = len(document.textures) - 1
    places = {kind: textures[material.uses[kind].file] for kind in held}
    document.materials = [_material(material, places)]
    document.meshes = [
        gltf.Mesh(
            name=name,
            primitives=[gltf.Primitive(attributes=attributes, indices=len(arrays) - 1, material=0)],
        )
    ]
    blob.extend(b"\0" * (-len(blob) % 4))
    document.buffers = [gltf.Buffer(byteLength=len(blob))]
    if not one_file:
        data = base64.b64encode(bytes(blob)).decode()
        document.buffers[0].uri = "data:application/octet-stream;base64," + data
        text: str = document.to_json(indent=2)
        return (text + "\n").encode()
    document.set_binary_blob(bytes(blob))
    return b"".join(document.save_to_bytes())


def _material(material: Material, places: dict[MapKind, int]) -> gltf.Material:
    cut = MapKind.OPACITY in places
    out = gltf.Material(name=material.name, alphaMode="MASK" if cut else "OPAQUE")
    out.alphaCutoff = 0.5 if cut else None
    metal, rough = (
        1.0 if kind in places else float(material.values.get(kind, (usual,))[0])
        for kind, usual in ((MapKind.METALLIC, 0.0), (MapKind.ROUGHNESS, 1.0))
    )
    pbr = gltf.PbrMetallicRoughness(metallicFactor=metal, roughnessFactor=rough)
    color, light = (material.values.get(k) for k in (MapKind.BASE_COLOR, MapKind.EMISSIVE))
    if color and MapKind.BASE_COLOR not in places:
        pbr.baseColorFactor = [*(min(v, 1.0) for v in color), 1.0]
    if (alpha := _even_opacity(material, places)) < 1:
        out.alphaMode = "BLEND"
        pbr.baseColorFactor = [*(pbr.baseColorFactor or [1.0] * 4)[:3], alpha]
    if light and MapKind.EMISSIVE not in places:
        out.emissiveFactor = [min(v, 1.0) for v in light]
    if (at := places.get(MapKind.BASE_COLOR)) is not None:
        pbr.baseColorTexture = gltf.TextureInfo(index=at)
    if (at := places.get(MapKind.ROUGHNESS)) is not None:
        pbr.metallicRoughnessTexture = gltf.TextureInfo(index=at)
    if (at := places.get(MapKind.AMBIENT_OCCLUSION)) is not None:
        out.occlusionTexture = gltf.OcclusionTextureInfo(index=at, strength=1.0)
    if (at := places.get(MapKind.NORMAL)) is not None:
        out.normalTexture = gltf.NormalMaterialTexture(index=at, scale=1.0)
    if (at := places.get(MapKind.EMISSIVE)) is not None:
        out.emissiveTexture = gltf.TextureInfo(index=at)
        out.emissiveFactor = [1.0, 1.0, 1.0]
    out.pbrMetallicRoughness = pbr
    return out


def _even_opacity(material: Material, places: dict[MapKind, int]) -> float:
    """That of a set whose opacity is one value and in no file.

    A texture whose alpha holds something else would be multiplied by it, so there it is 1.
    """
    has_alpha = MapKind.BASE_COLOR in places and material.uses[MapKind.BASE_COLOR].channels == 4
    return 1.0 if has_alpha else float(material.values.get(MapKind.OPACITY, (1.0,))[0])


def read_glb_images(path: Path) -> dict[str, str]:
    """SHA-256 of every picture inside a .glb by its name, read by the container's own rules.

    Raises DamagedPictureError where the container is cut short or no glTF 2.0.
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
        raise DamagedPictureError(f"{path.name} is no whole .glb: deliver it again") from error
    return found


def read_gltf_files(path: Path) -> list[str]:
    """The pictures that a .gltf names. Raises DamagedPictureError where it is no glTF 2.0."""
    try:
        document: dict[str, Any] = json.loads(path.read_bytes())
        if document["asset"]["version"] != "2.0":
            raise ValueError("version")
        return [unquote(image["uri"]) for image in document.get("images", [])]
    except (ValueError, KeyError, TypeError) as error:
        raise DamagedPictureError(f"{path.name} is no whole .gltf: deliver it again") from error
