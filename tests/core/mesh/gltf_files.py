"""glTF files drawn number by number, good ones and bad ones."""

from __future__ import annotations

import json
import struct
from pathlib import Path
from typing import Any

import numpy as np
from numpy.typing import NDArray

_TYPES = {"int8": 5120, "uint8": 5121, "int16": 5122, "uint16": 5123, "uint32": 5125,
          "float32": 5126}  # fmt: skip
_WIDTHS = {1: "SCALAR", 2: "VEC2", 3: "VEC3", 4: "VEC4"}


class Drawn:
    """Collects arrays; `glb` writes them with whatever JSON is given."""

    def __init__(self) -> None:
        self.blob = b""
        self.views: list[dict[str, Any]] = []
        self.accessors: list[dict[str, Any]] = []

    def view(self, data: bytes, **more: Any) -> int:
        """A buffer view over these bytes."""
        self.blob += bytes(-len(self.blob) % 4)
        self.views.append(
            {"buffer": 0, "byteOffset": len(self.blob), "byteLength": len(data)} | more
        )
        self.blob += data
        return len(self.views) - 1

    def add(self, values: NDArray[Any], **more: Any) -> int:
        """An accessor of these numbers, (N,) or (N, width)."""
        width = 1 if values.ndim == 1 else values.shape[1]
        entry = {"bufferView": self.view(values.tobytes()), "count": len(values),
                 "componentType": _TYPES[values.dtype.name], "type": _WIDTHS[width]}  # fmt: skip
        self.accessors.append(entry | more)
        return len(self.accessors) - 1

    def document(self, **parts: Any) -> dict[str, Any]:
        """The JSON with what was collected."""
        return {"asset": {"version": "2.0"}, "buffers": [{"byteLength": len(self.blob)}],
                "bufferViews": self.views, "accessors": self.accessors} | parts  # fmt: skip

    def glb(self, path: Path, **parts: Any) -> Path:
        """Write it as a .glb."""
        return write_glb(path, self.document(**parts), self.blob)


def write_glb(path: Path, document: dict[str, Any], blob: bytes) -> Path:
    """A .glb of this JSON and these bytes."""
    text = json.dumps(document).encode()
    text += b" " * (-len(text) % 4)
    blob += bytes(-len(blob) % 4)
    whole = 12 + 8 + len(text) + 8 + len(blob)
    path.write_bytes(
        struct.pack("<4sII", b"glTF", 2, whole)
        + struct.pack("<I4s", len(text), b"JSON") + text
        + struct.pack("<I4s", len(blob), b"BIN\0") + blob
    )  # fmt: skip
    return path


TRIANGLE = np.array([[0, 0, 0], [1, 0, 0], [0, 1, 0]], dtype=np.float32)


def triangle(path: Path, **parts: Any) -> Path:
    """The smallest model: one triangle; parts of the JSON replaced by what is given."""
    drawn = Drawn()
    drawn.add(TRIANGLE)
    usual: dict[str, Any] = {
        "meshes": [{"primitives": [{"attributes": {"POSITION": 0}}]}], "nodes": [{"mesh": 0}]
    }  # fmt: skip
    return drawn.glb(path, **usual | parts)
