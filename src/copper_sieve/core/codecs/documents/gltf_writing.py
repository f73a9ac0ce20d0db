"""Write glTF 2.0: a textured plane with the size of the set, as one .glb or a .gltf."""

from __future__ import annotations

import base64
import math
from collections import defaultdict
from pathlib import Path
from typing import Any
from urllib.parse import quote

import numpy as np
import pygltflib as gltf

from copper_sieve.core.codecs.documents.gltf import maps_supported_by_gltf
from copper_sieve.core.codecs.documents.material import DocumentMaterial
from copper_sieve.core.codecs.registry import writer_for_suffix
from copper_sieve.core.image.map_kind import MapKind

_IRIDESCENCE, _ANISOTROPY = "KHR_materials_iridescence", "KHR_materials_anisotropy"
_IOR_OF_GLTF, _SAME_IOR = 1.5, 1e-6


def encode_gltf(material: DocumentMaterial, folder: Path, *, one_file: bool) -> bytes:
    """Encode a textured plane facing +Z, with the material's size in meters.

    The plane has normals and tangents, so that Y+ in the texture points to +Y.

    Parameters
    ----------
    material : values and textures
    folder : that contains the textures
    one_file : True: .glb with embedded textures; False: .gltf with references

    Returns
    -------
    bytes of the file
    """
    held = maps_supported_by_gltf(material)
    writer = _Writer(material.name)
    mesh = writer.add_mesh(_plane(material, with_tangents=MapKind.NORMAL in held))
    textures = {
        file: writer.add_texture(folder / file, inside=one_file) for file in material.textures(held)
    }
    places = {kind: textures[material.uses[kind].file] for kind in held}
    writer.document.materials = [_material(material, places)]
    writer.document.extensionsUsed = sorted(writer.document.materials[0].extensions)
    writer.document.meshes = [mesh]
    return writer.one_file() if one_file else writer.text()


_Attribute = tuple[str, np.ndarray, str]  # name, values, type of its elements


def _plane(material: DocumentMaterial, *, with_tangents: bool) -> list[_Attribute]:
    """Return two triangles with the size of the material; the indices come last."""
    x, y = material.width / 2, material.height / 2
    corners = np.array([[-x, -y, 0], [x, -y, 0], [x, y, 0], [-x, y, 0]], "<f4")
    tangents = ("TANGENT", np.array([[1, 0, 0, 1]] * 4, "<f4"), "VEC4")
    return [
        ("POSITION", corners, "VEC3"),
        ("NORMAL", np.array([[0, 0, 1]] * 4, "<f4"), "VEC3"),
        *([tangents] if with_tangents else []),
        ("TEXCOORD_0", np.array([[0, 1], [1, 1], [1, 0], [0, 0]], "<f4"), "VEC2"),
        ("indices", np.array([0, 1, 2, 0, 2, 3], "<u2"), "SCALAR"),
    ]


class _Writer:
    """A growing document with one node and one buffer."""

    def __init__(self, name: str) -> None:
        self._name = name
        self._blob = bytearray()
        self.document = gltf.GLTF2(
            asset=gltf.Asset(version="2.0", generator="Copper Sieve"),
            scene=0,
            scenes=[gltf.Scene(nodes=[0])],
            nodes=[gltf.Node(mesh=0, name=name)],
            samplers=[gltf.Sampler(magFilter=9729, minFilter=9987, wrapS=10497, wrapT=10497)],
        )

    def add_mesh(self, arrays: list[_Attribute]) -> gltf.Mesh:
        """Add vertices and triangles with the first material."""
        attributes = gltf.Attributes()
        for label, array, kind in arrays:
            index = label == "indices"
            accessor = gltf.Accessor(
                bufferView=self._add_view(array.tobytes(), 34963 if index else 34962),
                componentType=5123 if index else 5126,
                count=len(array),
                type=kind,
            )
            if label == "POSITION":
                accessor.min, accessor.max = array.min(0).tolist(), array.max(0).tolist()
            self.document.accessors.append(accessor)
            if not index:
                setattr(attributes, label, len(self.document.accessors) - 1)
        indices = len(self.document.accessors) - 1
        primitive = gltf.Primitive(attributes=attributes, indices=indices, material=0)
        return gltf.Mesh(name=self._name, primitives=[primitive])

    def add_texture(self, path: Path, *, inside: bool) -> int:
        """Add an embedded or separate picture; returns the index of its texture."""
        image = gltf.Image(name=path.stem)
        if inside:
            image.bufferView = self._add_view(path.read_bytes(), None)
            image.mimeType = writer_for_suffix(path).media_type
        else:
            image.uri = quote(path.name)
        self.document.images.append(image)
        source = len(self.document.images) - 1
        self.document.textures.append(gltf.Texture(source=source, sampler=0))
        return len(self.document.textures) - 1

    def one_file(self) -> bytes:
        """Return the document and its buffer as a .glb."""
        self.document.set_binary_blob(self._buffer())
        return b"".join(self.document.save_to_bytes())

    def text(self) -> bytes:
        """Return the document as JSON with an embedded buffer."""
        data = base64.b64encode(self._buffer()).decode()
        self.document.buffers[0].uri = "data:application/octet-stream;base64," + data
        text: str = self.document.to_json(indent=2)
        return (text + "\n").encode()

    def _buffer(self) -> bytes:
        self._align()
        self.document.buffers = [gltf.Buffer(byteLength=len(self._blob))]
        return bytes(self._blob)

    def _add_view(self, data: bytes, target: int | None) -> int:
        self._align()
        at = len(self._blob)
        view = gltf.BufferView(buffer=0, byteOffset=at, byteLength=len(data), target=target)
        self.document.bufferViews.append(view)
        self._blob.extend(data)
        return len(self.document.bufferViews) - 1

    def _align(self) -> None:
        self._blob.extend(b"\0" * (-len(self._blob) % 4))


def _material(material: DocumentMaterial, places: dict[MapKind, int]) -> gltf.Material:
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
    out.extensions = _extensions(material, places)
    return out


def _extensions(material: DocumentMaterial, places: dict[MapKind, int]) -> dict[str, Any]:
    """Return the material extensions by name, with textures and factors."""
    found: dict[str, dict[str, Any]] = defaultdict(dict)
    for kind in MapKind:
        place = kind.facts.gltf
        if place is None:
            continue
        scale = place.scale * (material.width if place.in_widths else 1.0)
        value = [scale * min(v, 1.0) for v in material.values.get(kind, ())]
        if kind in places:
            found[place.extension][place.texture] = {"index": places[kind]}
            value = [scale] * len(kind.facts.components)
        if place.factor and value and any(v != place.usual for v in value):
            found[place.extension][place.factor] = value if len(value) > 1 else value[0]
    if MapKind.IRIDESCENCE_THICKNESS in places:  # 0 in the texture is a thickness of 0
        found[_IRIDESCENCE]["iridescenceThicknessMinimum"] = 0.0
    x, y, _ = material.values.get(MapKind.ANISOTROPY_DIRECTION, (1.0, 0.0, 0.0))
    if y and _ANISOTROPY in found:
        found[_ANISOTROPY]["anisotropyRotation"] = math.atan2(y, x)
    if abs(material.ior - _IOR_OF_GLTF) > _SAME_IOR:
        found["KHR_materials_ior"]["ior"] = material.ior
    return dict(found)


def _even_opacity(material: DocumentMaterial, places: dict[MapKind, int]) -> float:
    """Return the opacity of a set with a constant opacity that no file contains.

    It is 1 if the alpha of the texture contains something else, which would be multiplied.
    """
    has_alpha = MapKind.BASE_COLOR in places and material.uses[MapKind.BASE_COLOR].channels == 4
    return 1.0 if has_alpha else float(material.values.get(MapKind.OPACITY, (1.0,))[0])
