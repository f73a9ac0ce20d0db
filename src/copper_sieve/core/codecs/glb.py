"""One .glb (glTF 2.0, binary) that carries a material's textures on a plane of its real size."""

from __future__ import annotations

import hashlib
import json
import struct
from dataclasses import dataclass
from pathlib import Path

import numpy as np
import pygltflib as gltf

from copper_sieve.core.errors import DamagedPictureError


@dataclass(frozen=True, slots=True)
class GlbTextures:
    """PNG files of a metallic/roughness material; any of them may be missing."""

    base_color: Path | None = None
    occlusion_roughness_metallic: Path | None = None
    normal: Path | None = None
    emissive: Path | None = None
    has_opacity: bool = False

    def present(self) -> dict[str, Path]:
        """The textures that are there, by their place in the material."""
        named = {
            "base_color": self.base_color,
            "orm": self.occlusion_roughness_metallic,
            "normal": self.normal,
            "emissive": self.emissive,
        }
        return {name: path for name, path in named.items() if path}


def encode_glb(name: str, textures: GlbTextures, width: float, height: float) -> bytes:
    """Encode a plane of width x height metres facing +Z with the textures inside.

    The plane has normals and tangents, so that green up in the texture points to +Y.
    """
    x, y = width / 2, height / 2
    arrays: list[tuple[str, np.ndarray, str]] = [
        ("POSITION", np.array([[-x, -y, 0], [x, -y, 0], [x, y, 0], [-x, y, 0]], "<f4"), "VEC3"),
        ("NORMAL", np.array([[0, 0, 1]] * 4, "<f4"), "VEC3"),
        ("TANGENT", np.array([[1, 0, 0, 1]] * 4, "<f4"), "VEC4"),
        ("TEXCOORD_0", np.array([[0, 1], [1, 1], [1, 0], [0, 0]], "<f4"), "VEC2"),
        ("indices", np.array([0, 1, 2, 0, 2, 3], "<u2"), "SCALAR"),
    ]
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
    places: dict[str, int] = {}
    for place, path in textures.present().items():
        view = add_view(path.read_bytes(), None)
        document.images.append(gltf.Image(bufferView=view, mimeType="image/png", name=path.stem))
        document.textures.append(gltf.Texture(source=len(document.images) - 1, sampler=0))
        places[place] = len(document.textures) - 1
    document.materials = [_material(name, places, textures.has_opacity)]
    document.meshes = [
        gltf.Mesh(
            name=name,
            primitives=[gltf.Primitive(attributes=attributes, indices=4, material=0)],
        )
    ]
    blob.extend(b"\0" * (-len(blob) % 4))
    document.buffers = [gltf.Buffer(byteLength=len(blob))]
    document.set_binary_blob(bytes(blob))
    return b"".join(document.save_to_bytes())


def _material(name: str, places: dict[str, int], has_opacity: bool) -> gltf.Material:
    material = gltf.Material(name=name, alphaMode="MASK" if has_opacity else "OPAQUE")
    material.alphaCutoff = 0.5 if has_opacity else None
    metal_rough = gltf.PbrMetallicRoughness(metallicFactor=1.0, roughnessFactor=1.0)
    if "base_color" in places:
        metal_rough.baseColorTexture = gltf.TextureInfo(index=places["base_color"])
    if "orm" in places:
        metal_rough.metallicRoughnessTexture = gltf.TextureInfo(index=places["orm"])
        material.occlusionTexture = gltf.OcclusionTextureInfo(index=places["orm"], strength=1.0)
    if "normal" in places:
        material.normalTexture = gltf.NormalMaterialTexture(index=places["normal"], scale=1.0)
    if "emissive" in places:
        material.emissiveTexture = gltf.TextureInfo(index=places["emissive"])
        material.emissiveFactor = [1.0, 1.0, 1.0]
    material.pbrMetallicRoughness = metal_rough
    return material


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
        for image in document["images"]:
            view = document["bufferViews"][image["bufferView"]]
            offset = start + view.get("byteOffset", 0)
            found[image["name"]] = hashlib.sha256(
                data[offset : offset + view["byteLength"]]
            ).hexdigest()
    except (struct.error, ValueError, KeyError, IndexError, TypeError) as error:
        raise DamagedPictureError(f"{path.name} is no whole .glb: deliver it again") from error
    return found
