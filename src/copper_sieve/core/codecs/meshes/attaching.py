"""A model's own glTF file written back with delivered textures; all else of it stays as it is."""

from __future__ import annotations

import base64
import copy
import json
import struct
from collections.abc import Mapping
from dataclasses import dataclass, field
from pathlib import Path
from typing import Any
from urllib.parse import quote, unquote

from copper_sieve.core.codecs.gltf_file import UNREADABLE, GltfFile
from copper_sieve.core.codecs.registry import CODECS
from copper_sieve.core.errors import DamagedModelError, MeshError, PictureError

# What a material says of its surface; the rest (name, extras, two sides …) is the model's own.
_OF_THE_SURFACE = (
    "pbrMetallicRoughness", "normalTexture", "occlusionTexture", "emissiveTexture",
    "emissiveFactor", "alphaMode", "alphaCutoff",
)  # fmt: skip
_REPLACED = "KHR_materials_pbrSpecularGlossiness"  # says the same in another way
_ENDINGS = {one.media_type: one.ending for one in CODECS.values() if one.media_type}
_MEDIA = {ending: one.media_type for one in CODECS.values() for ending in one.endings}


@dataclass(frozen=True, slots=True)
class Attached:
    """A model's file with textures.

    data : of the .glb or .gltf; beside : further files by their names, for a .gltf
    remarks : what stayed that one might not expect, a sentence each
    """

    data: bytes
    beside: dict[str, bytes] = field(default_factory=dict)
    remarks: tuple[str, ...] = ()


def attach(
    model: GltfFile, dresses: Mapping[str, GltfFile], name: str, *, uv_set: int = 0
) -> Attached:
    """Give materials of a model the surface that delivered documents have.

    model : as it came in; nodes, meshes, animations, extensions, extras and names stay, buffers
        only grow at their end
    dresses : by the name of a material: the .glb or .gltf that was delivered with its textures
    name : of the file that is written; its ending says if all is inside it (.glb) or beside (.gltf)
    Raises MeshError for a material that is not there, DamagedModelError.
    """
    try:
        work = _Work(model, name, uv_set)
        for material, document in dresses.items():
            work.dress(material, document)
        return work.finished()
    except PictureError as error:
        raise DamagedModelError(error.message) from error
    except RecursionError as error:
        raise DamagedModelError(f"{model.path.name} is nested too deeply") from error
    except UNREADABLE as error:
        raise DamagedModelError(
            f"{model.path.name} is no whole glTF file ({str(error)[:200]}): export it again"
        ) from error


class _Work:
    """The document as it grows, and what is appended to its buffer."""

    def __init__(self, model: GltfFile, name: str, uv_set: int) -> None:
        self._model, self._name, self._uv_set = model, Path(name), uv_set
        self._inside = self._name.suffix.lower() == ".glb"
        self._document: dict[str, Any] = copy.deepcopy(model.document)
        self._beside: dict[str, bytes] = {}
        self._remarks: list[str] = []
        self._blob = bytearray()
        self._take_in_buffers()

    def _take_in_buffers(self) -> None:
        """What is outside comes along: into the one file, or beside it under its own name."""
        for n, buffer in enumerate(self._document.get("buffers", [])):
            uri = buffer.get("uri")
            if n == 0 and self._inside:
                self._blob += self._model.buffer(0)
                buffer.pop("uri", None)
            elif uri is None:
                buffer["uri"] = quote(f"{self._name.stem}.bin")
                self._beside[f"{self._name.stem}.bin"] = self._model.buffer(n)
            elif not uri.startswith("data:") and self._inside:
                held = base64.b64encode(self._model.buffer(n)).decode("ascii")
                buffer["uri"] = f"data:application/octet-stream;base64,{held}"
            elif not uri.startswith("data:"):
                self._beside[unquote(uri)] = self._model.buffer(n)
        for image in self._document.get("images", []):
            uri = image.get("uri")
            if uri is None or uri.startswith("data:"):
                continue
            data = self._model.at(uri)
            if self._inside:
                image["mimeType"] = _MEDIA.get(Path(unquote(uri)).suffix.lower(), "image/png")
                image["bufferView"] = self._view(data)
                del image["uri"]
            else:
                self._beside[unquote(uri)] = data

    def dress(self, name: str, document: GltfFile) -> None:
        """One material takes the surface of a document's first."""
        names = self._model.material_names
        own = [
            one
            for one, called in zip(self._document.get("materials", []), names, strict=True)
            if called == name
        ]
        if not own:
            has = ", ".join(names) or "none"
            raise MeshError(f"{self._model.path.name} has no material {name}; it has {has}")
        textures = self._textures(document)
        new = document.document["materials"][0]
        for material in own:
            for key in _OF_THE_SURFACE:
                material.pop(key, None)
                if key in new:
                    material[key] = self._placed(copy.deepcopy(new[key]), textures)
            self._look_at_extensions(material, name)
        for key in ("extensionsUsed", "extensionsRequired"):
            wanted = [one for one in document.document.get(key, []) if "materials" not in one]
            if wanted:
                there = self._document.setdefault(key, [])
                there += [one for one in wanted if one not in there]

    def _look_at_extensions(self, material: dict[str, Any], name: str) -> None:
        extensions = material.get("extensions", {})
        if extensions.pop(_REPLACED, None) is not None:
            self._remarks.append(f"{name}: its specular and glossiness are replaced")
            if not extensions:
                del material["extensions"]
        if extensions:
            left = ", ".join(sorted(extensions))
            self._remarks.append(f"{name}: {left} stays as it was")

    def _textures(self, document: GltfFile) -> dict[int, int]:
        """The document's textures, appended: its number to ours."""
        found = {}
        for n, texture in enumerate(document.document.get("textures", [])):
            entry = copy.deepcopy(texture)
            if "sampler" in entry:
                sampler = document.document["samplers"][entry["sampler"]]
                entry["sampler"] = self._add("samplers", copy.deepcopy(sampler))
            for place in (entry, *entry.get("extensions", {}).values()):
                if "source" in place:
                    place["source"] = self._image(document, place["source"])
            found[n] = self._add("textures", entry)
        return found

    def _image(self, document: GltfFile, n: int) -> int:
        image = document.document["images"][n]
        if "bufferView" in image:
            data, kind = document.view(image["bufferView"]), image["mimeType"]
            label = image.get("name", f"texture_{n}")
        else:
            path = Path(unquote(image["uri"]))
            data, kind = document.at(image["uri"]), _MEDIA[path.suffix.lower()]
            label = path.stem
        if self._inside:
            return self._add(
                "images", {"name": label, "mimeType": kind, "bufferView": self._view(data)}
            )
        file = f"{label}{_ENDINGS[kind]}"
        if self._beside.get(file, data) != data:
            raise MeshError(f"{self._model.path.name} names another {file} already: rename one")
        self._beside[file] = data
        return self._add("images", {"name": label, "uri": quote(file)})

    def _placed(self, value: Any, textures: Mapping[int, int]) -> Any:
        """The same with the numbers of textures as they are here."""
        if isinstance(value, dict):
            if isinstance(value.get("index"), int):
                value["index"] = textures[value["index"]]
                if self._uv_set:
                    value["texCoord"] = self._uv_set
            return {key: self._placed(one, textures) for key, one in value.items()}
        return value

    def _add(self, kind: str, entry: dict[str, Any]) -> int:
        """Append one; the same entry is there once."""
        there: list[dict[str, Any]] = self._document.setdefault(kind, [])
        if kind == "samplers" and entry in there:
            return there.index(entry)
        there.append(entry)
        return len(there) - 1

    def _append(self, data: bytes) -> int:
        self._blob += b"\0" * (-len(self._blob) % 4)
        self._blob += data
        return len(self._blob) - len(data)

    def _view(self, data: bytes) -> int:
        if not self._document.get("buffers"):
            self._document["buffers"] = [{"byteLength": 0}]
        at = self._append(data)
        return self._add("bufferViews", {"buffer": 0, "byteOffset": at, "byteLength": len(data)})

    def finished(self) -> Attached:
        """The file and what lies beside it."""
        remarks = tuple(dict.fromkeys(self._remarks))
        if not self._inside:
            text = json.dumps(self._document, ensure_ascii=False, indent=2)
            return Attached((text + "\n").encode(), self._beside, remarks)
        if self._blob:
            self._document["buffers"][0]["byteLength"] = len(self._blob)
        text = json.dumps(self._document, ensure_ascii=False, separators=(",", ":"))
        return Attached(as_glb(text.encode(), bytes(self._blob)), {}, remarks)


def as_glb(text: bytes, blob: bytes) -> bytes:
    """A .glb of this JSON and these bytes (glTF 2.0, section 4.4)."""
    text += b" " * (-len(text) % 4)
    blob += b"\0" * (-len(blob) % 4)
    chunks = struct.pack("<I4s", len(text), b"JSON") + text
    if blob:
        chunks += struct.pack("<I4s", len(blob), b"BIN\0") + blob
    return struct.pack("<4sII", b"glTF", 2, 12 + len(chunks)) + chunks
