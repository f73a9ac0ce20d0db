"""Writes a model's glTF file with delivered textures; everything else is unchanged."""

from __future__ import annotations

import copy
from collections.abc import Mapping
from dataclasses import dataclass, field
from pathlib import Path
from typing import Any
from urllib.parse import quote, unquote

from copper_sieve.core.codecs.gltf_file import GltfFile
from copper_sieve.core.codecs.meshes.damage import reported_as_damaged
from copper_sieve.core.codecs.meshes.gltf_append import MEDIA, GrowingGltf
from copper_sieve.core.codecs.meshes.tangent_writing import write_tangents
from copper_sieve.core.codecs.registry import CODECS
from copper_sieve.core.errors import MeshError

# Surface properties of a material; other properties (name, extras, double-sided …) belong to the
# model.
_OF_THE_SURFACE = (
    "pbrMetallicRoughness", "normalTexture", "occlusionTexture", "emissiveTexture",
    "emissiveFactor", "alphaMode", "alphaCutoff",
)  # fmt: skip
# alternative representation of the same properties
_REPLACED = "KHR_materials_pbrSpecularGlossiness"
_ENDINGS = {one.media_type: one.ending for one in CODECS.values() if one.media_type}


@dataclass(frozen=True, slots=True)
class Attached:
    """A model file with textures.

    data : content of the .glb or .gltf; side_files : additional files of a .gltf, by name
    remarks : one sentence for each skipped or changed item
    """

    data: bytes
    side_files: dict[str, bytes] = field(default_factory=dict)
    remarks: tuple[str, ...] = ()


def attach(
    model: GltfFile,
    dresses: Mapping[str, GltfFile],
    name: str,
    *,
    uv_set: int = 0,
    tangents: bool = False,
) -> Attached:
    """Replace materials of a model with those of delivered documents.

    Nodes, meshes, animations, extensions, extras and names are unchanged; buffers only grow at
    their end.

    Parameters
    ----------
    model : imported file
    dresses : delivered .glb or .gltf by material name
    name : of the output file; .glb embeds everything, .gltf uses separate files
    uv_set : UV set of the textures, from 0
    tangents : write MikkTSpace tangents for all triangles; vertices that need several are split

    Returns
    -------
    Attached

    Raises
    ------
    MeshError : if a material is missing
    DamagedModelError : if a file is invalid
    """
    with reported_as_damaged(model.path.name):
        work = _Work(model, name, uv_set)
        for material, document in dresses.items():
            work.dress(material, document)
        if tangents:
            work.remarks += write_tangents(model, work.growing, uv_set)
        remarks = tuple(dict.fromkeys(work.remarks))
        return Attached(work.growing.written(), work.growing.side_files, remarks)


class _Work:
    """The growing file, material by material."""

    def __init__(self, model: GltfFile, name: str, uv_set: int) -> None:
        self._model, self._uv_set = model, uv_set
        self.growing = GrowingGltf(model, name)
        self.remarks: list[str] = []

    def dress(self, name: str, document: GltfFile) -> None:
        """Replace a material's surface by the first one of a document."""
        names = self._model.material_names
        own = [
            one
            for one, called in zip(self.growing.document.get("materials", []), names, strict=True)
            if called == name
        ]
        if not own:
            has = ", ".join(names) or "none"
            raise MeshError(f"{self._model.path.name} has no material named {name}. It has: {has}")
        textures = self._textures(document)
        new = document.document["materials"][0]
        for material in own:
            for key in _OF_THE_SURFACE:
                material.pop(key, None)
                if key in new:
                    material[key] = self._placed(copy.deepcopy(new[key]), textures)
            self._replace_extensions(material, name, new.get("extensions", {}), textures)
        for key in ("extensionsUsed", "extensionsRequired"):
            wanted = document.document.get(key, [])
            if wanted:
                there = self.growing.document.setdefault(key, [])
                there += [one for one in wanted if one not in there]

    def _replace_extensions(
        self, material: dict[str, Any], name: str, new: dict[str, Any], textures: dict[int, int]
    ) -> None:
        """Take over the delivered extensions of a material; others are kept with a remark."""
        extensions = material.pop("extensions", {})
        if extensions.pop(_REPLACED, None) is not None:
            self.remarks.append(f"{name}: the specular/glossiness material was replaced")
        if left := sorted(set(extensions) - set(new)):
            self.remarks.append(f"{name}: {', '.join(left)} is unchanged")
        extensions |= self._placed(copy.deepcopy(new), textures)
        if extensions:
            material["extensions"] = extensions

    def _textures(self, document: GltfFile) -> dict[int, int]:
        """Append the document's textures; return their new indices by the original ones."""
        found = {}
        for n, texture in enumerate(document.document.get("textures", [])):
            entry = copy.deepcopy(texture)
            if "sampler" in entry:
                sampler = document.document["samplers"][entry["sampler"]]
                entry["sampler"] = self.growing.add("samplers", copy.deepcopy(sampler))
            for place in (entry, *entry.get("extensions", {}).values()):
                if "source" in place:
                    place["source"] = self._image(document, place["source"])
            found[n] = self.growing.add("textures", entry)
        return found

    def _image(self, document: GltfFile, n: int) -> int:
        image, growing = document.document["images"][n], self.growing
        if "bufferView" in image:
            data, kind = document.view(image["bufferView"]), image["mimeType"]
            label = image.get("name", f"texture_{n}")
        else:
            path = Path(unquote(image["uri"]))
            data, kind = document.at(image["uri"]), MEDIA[path.suffix.lower()]
            label = path.stem
        if growing.inside:
            entry = {"name": label, "mimeType": kind, "bufferView": growing.view(data)}
            return growing.add("images", entry)
        file = f"{label}{_ENDINGS[kind]}"
        if growing.side_files.get(file, data) != data:
            raise MeshError(
                f"{self._model.path.name} already refers to another file named {file}. Rename "
                "one of them"
            )
        growing.side_files[file] = data
        return growing.add("images", {"name": label, "uri": quote(file)})

    def _placed(self, value: Any, textures: Mapping[int, int]) -> Any:
        """Return the element with the texture indices of this file."""
        if isinstance(value, dict):
            if isinstance(value.get("index"), int):
                value["index"] = textures[value["index"]]
                if self._uv_set:
                    value["texCoord"] = self._uv_set
            return {key: self._placed(one, textures) for key, one in value.items()}
        return value
