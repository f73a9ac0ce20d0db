"""Write MikkTSpace tangents into a model's file, for its existing triangles and vertices."""

from __future__ import annotations

from typing import Any

import numpy as np
from numpy.typing import NDArray

from copper_sieve.core.codecs.gltf_file import GltfFile
from copper_sieve.core.codecs.meshes.accessors import accessor, stored
from copper_sieve.core.codecs.meshes.gltf_append import GrowingGltf
from copper_sieve.core.image.raster import Float
from copper_sieve.core.mesh.mesh import flip_faces
from copper_sieve.core.mesh.tangents import mikktspace
from copper_sieve.core.mesh.welding import weld_vertices

_TRIANGLES = 4
_VERTICES, _INDICES = 34962, 34963
_SHORT = 65535  # vertices that two bytes can count, but for the mark of a restart


def write_tangents(model: GltfFile, growing: GrowingGltf, uv_set: int) -> list[str]:
    """Add a TANGENT attribute to every triangle primitive, replacing existing ones.

    Vertices keep their index; vertices that need several tangents get copies at the end of all
    attributes.

    Returns
    -------
    a sentence for each skipped or split primitive
    """
    remarks: list[str] = []
    for n, mesh in enumerate(growing.document.get("meshes", [])):
        name = str(mesh.get("name") or f"mesh {n + 1}")
        for primitive in mesh["primitives"]:
            attributes = primitive["attributes"]
            needed = ("POSITION", "NORMAL", f"TEXCOORD_{uv_set}")
            if primitive.get("mode", _TRIANGLES) != _TRIANGLES:
                remarks.append(f"{name}: no tangents for strips, fans, lines and points")
            elif missing := [one for one in needed if one not in attributes]:
                remarks.append(f"{name}: no tangents without {' and '.join(missing)}")
            else:
                count = _write(model, growing, primitive, uv_set)
                if count:
                    remarks.append(
                        f"{name}: {count} vertices were split, because they have several tangents"
                    )
    return remarks


def _write(model: GltfFile, growing: GrowingGltf, primitive: dict[str, Any], uv_set: int) -> int:
    """Write the tangents of one primitive; return how many vertices were added."""
    attributes = primitive["attributes"]
    places = accessor(model, attributes["POSITION"]).astype(np.float32)
    normals = accessor(model, attributes["NORMAL"]).astype(np.float32)
    uv = accessor(model, attributes[f"TEXCOORD_{uv_set}"]).astype(np.float32)
    if "indices" in primitive:
        order = accessor(model, primitive["indices"])[:, 0].astype(np.int64)
    else:
        order = np.arange(len(places), dtype=np.int64)
    corners = order.reshape(-1, 3)
    made = mikktspace(places[corners], normals[corners], flip_faces(uv[corners]))
    tangents, copied, order = _shared(made, order, len(places))
    if len(copied):
        _split(model, growing, primitive, copied)
        top = len(places) + len(copied)
        kind: type[Any] = np.uint16 if top < _SHORT else np.uint32
        rows = order.astype(kind)[:, None]
        primitive["indices"] = growing.accessor(rows, target=_INDICES)
    attributes["TANGENT"] = growing.accessor(tangents, target=_VERTICES)
    return len(copied)


def _shared(
    made: Float, order: NDArray[np.int64], count: int
) -> tuple[Float, NDArray[np.int64], NDArray[np.int64]]:
    """Return tangents by vertex, the vertices to copy, and the new indices."""
    flat = made.reshape(-1, 4)
    whose = weld_vertices(order.reshape(-1, 3, 1).astype(np.float32), made)
    _, firsts = np.unique(whose, return_index=True)  # a corner of each vertex and tangent
    vertex = order[firsts]
    lead = np.zeros(len(firsts), dtype=bool)
    lead[np.unique(vertex, return_index=True)[1]] = True
    number = np.where(lead, vertex, 0)
    number[~lead] = count + np.arange(int((~lead).sum()))
    tangents = np.zeros((count + int((~lead).sum()), 4), dtype=np.float32)
    tangents[:, [0, 3]] = 1  # of vertices that no triangle has
    tangents[number] = flat[firsts]
    return tangents, vertex[~lead], number[whose]


def _split(
    model: GltfFile, growing: GrowingGltf, primitive: dict[str, Any], copied: NDArray[np.int64]
) -> None:
    """Write every attribute again, with the copied vertices at its end."""
    for held in (primitive["attributes"], *primitive.get("targets", [])):
        for name, index in held.items():
            if name == "TANGENT" and held is primitive["attributes"]:
                continue  # written again
            entry = model.document["accessors"][index]
            rows = stored(model, index)
            rows = np.concatenate([rows, rows[copied]])
            more = {key: entry[key] for key in ("normalized", "min", "max", "name") if key in entry}
            held[name] = growing.accessor(rows, target=_VERTICES, **more)
