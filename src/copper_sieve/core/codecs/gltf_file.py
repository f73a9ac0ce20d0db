"""A glTF 2.0 file (.glb or .gltf): its JSON and the binary data that it refers to."""

from __future__ import annotations

import base64
import json
import re
import struct
from dataclasses import dataclass, field
from pathlib import Path
from typing import Any
from urllib.parse import unquote

from copper_sieve.core.errors import NotAPictureError, PictureTooLargeError

MOST_JSON = 16 << 20  # bytes
_LONGEST_NAME = 120  # maximum characters of a name in messages
# Exceptions raised by files that violate the specification.
UNREADABLE = (
    struct.error, ValueError, KeyError, IndexError, TypeError, AttributeError, OverflowError,
)  # fmt: skip


def is_gltf(head: bytes, name: str) -> bool:
    """Return True if a file is glTF, by its first bytes, and by its name if these are JSON."""
    text = head.lstrip()[:1] == b"{"
    return head[:4] == b"glTF" or (text and name.lower().endswith((".gltf", ".glb")))


@dataclass(slots=True)
class GltfFile:
    """The content of a file, and the binary chunk of a .glb.

    path : the file; referenced files must be in its folder
    document : its JSON, not validated
    """

    path: Path
    document: dict[str, Any]
    blob: bytes
    _buffers: dict[int, bytes] = field(default_factory=dict)

    @classmethod
    def read(cls, path: Path) -> GltfFile:
        """Read a .gltf or .glb file.

        Raises
        ------
        UNREADABLE : any of these exceptions, if the file is invalid
        PictureTooLargeError : if its JSON exceeds the limit
        """
        data = path.read_bytes()
        if data[:4] != b"glTF":
            return cls(path, _parsed(path, data), b"")
        _, version, length = struct.unpack_from("<4sII", data)
        if version != 2 or length > len(data):
            raise ValueError("truncated")
        size = struct.unpack_from("<I", data, 12)[0]
        start = 20 + size
        held = struct.unpack_from("<I", data, start)[0] if start + 8 <= len(data) else 0
        return cls(path, _parsed(path, data[20:start]), data[start + 8 : start + 8 + held])

    @property
    def material_names(self) -> list[str]:
        """Of its materials, in their order; one without a name goes by its number."""
        return [
            str(one.get("name") or f"material_{n + 1}")
            for n, one in enumerate(self.document.get("materials", ()))
        ]

    def buffer(self, index: int) -> bytes:
        """Return the bytes of a buffer, inside the .glb or at its URI."""
        if index not in self._buffers:
            uri = self.document["buffers"][index].get("uri")
            self._buffers[index] = self.at(uri) if uri else self.blob
        return self._buffers[index]

    def view(self, index: int) -> bytes:
        """Return the bytes of a buffer view.

        Raises
        ------
        ValueError : if it exceeds the buffer
        """
        view = self.document["bufferViews"][index]
        start, length = int(view.get("byteOffset", 0)), int(view["byteLength"])
        data = self.buffer(view["buffer"])[start : start + length] if start >= 0 else b""
        if length < 0 or len(data) < length:
            raise ValueError("truncated")
        return data

    def at(self, uri: str) -> bytes:
        """Return the bytes of a data URI, or of a file in the same folder.

        Raises
        ------
        NotAPictureError : if the URI points elsewhere or the file is missing
        """
        if uri.startswith("data:"):
            return base64.b64decode(uri.partition(",")[2])
        named = unquote(uri)
        try:
            beside = (self.path.parent / named).resolve()
            here = self.path.parent.resolve()
            is_there = beside.is_relative_to(here) and beside.is_file()
        except OSError:  # a name that no file can have
            is_there = False
        if not is_there:
            short = named if len(named) <= _LONGEST_NAME else f"{named[:_LONGEST_NAME]} …"
            raise NotAPictureError(
                f"{self.path.name} refers to {short}, which is missing. Import both "
                "together, or a .glb"
            )
        return beside.read_bytes()


def _parsed(path: Path, text: bytes) -> dict[str, Any]:
    """Return the JSON of a glTF file; embedded data URIs don't count toward its size."""
    if len(text) > MOST_JSON:
        carried: list[bytes] = []

        def lay_aside(match: re.Match[bytes]) -> bytes:
            carried.append(match.group(1))
            return b'"aside:%d"' % (len(carried) - 1)

        text = re.sub(rb'"(data:[^"\\]*)"', lay_aside, text)
        if len(text) > MOST_JSON:
            raise PictureTooLargeError(
                f"{path.name} contains {len(text) / 1e6:.0f} MB of JSON; the limit is "
                f"{MOST_JSON / 1e6:.0f} MB. Export only the materials that you need"
            )
        document: dict[str, Any] = json.loads(text)
        for entry in (*document.get("images", ()), *document.get("buffers", ())):
            if str(entry.get("uri", "")).startswith("aside:"):
                entry["uri"] = carried[int(entry["uri"].partition(":")[2])].decode("ascii")
        return document
    found: dict[str, Any] = json.loads(text)
    return found
