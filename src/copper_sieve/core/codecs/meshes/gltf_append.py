"""Extends a glTF file; existing indices and bytes are unchanged."""

from __future__ import annotations

import base64
import copy
import json
import struct
from pathlib import Path
from typing import Any
from urllib.parse import quote, unquote

import numpy as np
from numpy.typing import NDArray

from copper_sieve.core.codecs.gltf_file import GltfFile
from copper_sieve.core.codecs.registry import CODECS

_COMPONENTS = {"int8": 5120, "uint8": 5121, "int16": 5122, "uint16": 5123, "uint32": 5125,
               "float32": 5126}  # fmt: skip
_TYPES = {1: "SCALAR", 2: "VEC2", 3: "VEC3", 4: "VEC4"}
MEDIA = {ending: one.media_type for one in CODECS.values() for ending in one.endings}


class GrowingGltf:
    """The extended document, the growing buffer, and separate files.

    inside : one .glb with everything embedded; otherwise a .gltf with separate files

    Raises the exceptions of `GltfFile`.
    """

    def __init__(self, model: GltfFile, name: str) -> None:
        self._name = Path(name)
        self.inside = self._name.suffix.lower() == ".glb"
        self.document: dict[str, Any] = copy.deepcopy(model.document)
        self.side_files: dict[str, bytes] = {}
        self._blob = bytearray()
        self._grows = 0  # the number of the buffer that does
        self._take_in_buffers(model)
        self._take_in_images(model)

    def _take_in_buffers(self, model: GltfFile) -> None:
        """Copy external buffers: into the single file, or as separate files with their names."""
        buffers = self.document.get("buffers", [])
        for n, buffer in enumerate(buffers):
            uri = buffer.get("uri")
            if n == 0 and self.inside:
                self._blob += model.buffer(0)
                buffer.pop("uri", None)
            elif uri is None:
                buffer["uri"] = quote(f"{self._name.stem}.bin")
                self.side_files[f"{self._name.stem}.bin"] = model.buffer(n)
            elif not uri.startswith("data:") and self.inside:
                held = base64.b64encode(model.buffer(n)).decode("ascii")
                buffer["uri"] = f"data:application/octet-stream;base64,{held}"
            elif not uri.startswith("data:"):
                self.side_files[unquote(uri)] = model.buffer(n)
        if not self.inside:
            self._grows = len(buffers)

    def _take_in_images(self, model: GltfFile) -> None:
        for image in self.document.get("images", []):
            uri = image.get("uri")
            if uri is None or uri.startswith("data:"):
                continue
            data = model.at(uri)
            if self.inside:
                image["mimeType"] = MEDIA.get(Path(unquote(uri)).suffix.lower(), "image/png")
                image["bufferView"] = self.view(data)
                del image["uri"]
            else:
                self.side_files[unquote(uri)] = data

    def add(self, kind: str, entry: dict[str, Any]) -> int:
        """Append an entry to a list and return its index; equal samplers are reused."""
        there: list[dict[str, Any]] = self.document.setdefault(kind, [])
        if kind == "samplers" and entry in there:
            return there.index(entry)
        there.append(entry)
        return len(there) - 1

    def view(self, data: bytes, **more: int) -> int:
        """Append bytes to the growing buffer and return the index of their view."""
        buffers = self.document.setdefault("buffers", [])
        if len(buffers) == self._grows:
            uri = {} if self.inside else {"uri": quote(f"{self._name.stem}_more.bin")}
            buffers.append({"byteLength": 0, **uri})
        self._blob += b"\0" * (-len(self._blob) % 4)
        at = len(self._blob)
        self._blob += data
        entry = {"buffer": self._grows, "byteOffset": at, "byteLength": len(data), **more}
        return self.add("bufferViews", entry)

    def accessor(self, rows: NDArray[Any], *, target: int, **more: Any) -> int:
        """Append numbers and return the index of their accessor.

        Parameters
        ----------
        rows : (count, width); rows of vertices are aligned to 4 bytes
        target : 34962 for vertices, 34963 for indices
        more : further properties of the accessor
        """
        each = rows.dtype.itemsize * rows.shape[1]
        stride = each + -each % 4 if target == 34962 else each
        raw = np.zeros((len(rows), stride), dtype=np.uint8)
        raw[:, :each] = np.ascontiguousarray(rows).view(np.uint8).reshape(len(rows), each)
        strides = {"byteStride": stride} if stride != each else {}
        entry = {
            "bufferView": self.view(raw.tobytes(), target=target, **strides),
            "componentType": _COMPONENTS[rows.dtype.name],
            "count": len(rows),
            "type": _TYPES[rows.shape[1]],
            **more,
        }
        return self.add("accessors", entry)

    def written(self) -> bytes:
        """Return the content of the .glb or .gltf; separate files are in `side_files`."""
        if self._blob:
            self.document["buffers"][self._grows]["byteLength"] = len(self._blob)
        if self.inside:
            text = json.dumps(self.document, ensure_ascii=False, separators=(",", ":"))
            return as_glb(text.encode(), bytes(self._blob))
        if self._blob:
            self.side_files[f"{self._name.stem}_more.bin"] = bytes(self._blob)
        return (json.dumps(self.document, ensure_ascii=False, indent=2) + "\n").encode()


def as_glb(text: bytes, blob: bytes) -> bytes:
    """Return a .glb of JSON text and a binary buffer (glTF 2.0, section 4.4)."""
    text += b" " * (-len(text) % 4)
    blob += b"\0" * (-len(blob) % 4)
    chunks = struct.pack("<I4s", len(text), b"JSON") + text
    if blob:
        chunks += struct.pack("<I4s", len(blob), b"BIN\0") + blob
    return struct.pack("<4sII", b"glTF", 2, 12 + len(chunks)) + chunks
