"""OBJ, PLY and STL, read with trimesh."""

from __future__ import annotations

import io
import re
from pathlib import Path
from typing import Any

import numpy as np

from copper_sieve.core.errors import DamagedModelError, ModelTooLargeError
from copper_sieve.core.image.encoding import srgb_to_linear
from copper_sieve.core.image.raster import Float
from copper_sieve.core.mesh.mesh import Mesh, flip_faces, join_meshes, smooth_normals, unit

_SHARP = 30.0  # degrees between planes beyond which an edge without normals is a hard one


def read_tables(path: Path, kind: str, most_triangles: int) -> Mesh:
    """Read the triangles of an OBJ, PLY or STL file; Y is up, lengths are assumed to be meters.

    Without normals, edges below 30 degrees are smooth. Materials of an OBJ keep their names; its
    .mtl file isn't read.

    Parameters
    ----------
    path : of the file
    kind : "obj", "ply" or "stl"
    most_triangles : limit

    Raises
    ------
    DamagedModelError, ModelTooLargeError
    """
    import trimesh

    data = path.read_bytes()
    if kind == "obj" and re.search(rb"^[ \t]*f[ \t].*-\d", data, re.M):
        raise DamagedModelError(
            f"{path.name} uses negative vertex indices, which aren't supported. Export it "
            "again with positive indices"
        )
    try:
        options: dict[str, Any] = {}
        if kind == "obj":
            materials = _NamesOnly(data)
            data = materials.text
            options = {"split_objects": True, "resolver": materials}
        scene = trimesh.load_scene(io.BytesIO(data), file_type=kind, process=False, **options)
        pieces = [
            (str(name), one)
            for name, one in scene.geometry.items()
            if isinstance(one, trimesh.Trimesh) and len(one.faces)
        ]
    except MemoryError:
        raise
    except Exception as error:
        raise DamagedModelError(
            f"{path.name} isn't a valid {kind.upper()} file "
            f"({str(error)[:200] or type(error).__name__}). Export it again"
        ) from error
    if not pieces:
        raise DamagedModelError(f"{path.name} contains no triangles. Export it with its surface")
    if sum(len(one.faces) for _, one in pieces) > most_triangles:
        raise ModelTooLargeError(
            f"{path.name} has more than {most_triangles:,} triangles. Reduce it, or raise "
            "SIEVE_MAX_TRIANGLES"
        )
    return join_meshes([_mesh(name, one, path) for name, one in pieces])


class _NamesOnly:
    """Replaces the .mtl file of an OBJ, so that materials keep their names even if it is missing.

    text : content of the OBJ, which names this file first
    """

    def __init__(self, text: bytes) -> None:
        self._names = dict.fromkeys(re.findall(rb"^[ \t]*usemtl[ \t]+(.*?)[ \t\r]*$", text, re.M))
        self.text = b"mtllib names.mtl\n" + re.sub(rb"^[ \t]*mtllib.*$", b"", text, flags=re.M)

    def __getitem__(self, name: str) -> bytes:
        return b"\n".join(b"newmtl " + one + b"\nKd 1 1 1" for one in self._names)

    def get(self, name: str) -> bytes:
        """Return a column; see `mapping.get`."""
        return self[name]


def _mesh(name: str, piece: Any, path: Path) -> Mesh:
    corners = np.asarray(piece.faces, dtype=np.int64)
    vertices = np.asarray(piece.vertices, dtype=np.float32)
    if len(corners) and (corners.min() < 0 or corners.max() >= len(vertices)):
        raise DamagedModelError(f"{path.name}: a face refers to a vertex that doesn't exist")
    positions = vertices[corners]
    remarks: tuple[str, ...] = ()
    normals = _own_normals(piece, corners)
    if normals is None:
        normals = smooth_normals(positions, sharp_degrees=_SHARP)
        remarks = (f"the file has no normals: edges below {_SHARP:g}° are smoothed",)
    uv = getattr(piece.visual, "uv", None)
    uvs: tuple[Float, ...] = ()
    if uv is not None and len(uv) == len(vertices):
        uvs = (flip_faces(np.asarray(uv, dtype=np.float32)[:, :2][corners]),)
    material = getattr(getattr(piece.visual, "material", None), "name", None)
    name = name.removesuffix(f"_{material}")  # a part in two materials is two of these
    none = np.zeros(len(corners), dtype=np.int32)
    return Mesh(
        positions,
        normals,
        uvs,
        none,
        none,
        (str(material or "unnamed"),),
        (name,),
        colors=_own_colors(piece, corners),
        remarks=remarks,
    )


def _own_colors(piece: Any, corners: Any) -> Float | None:
    """Return vertex colors, which are sRGB codes in these files, in linear light."""
    if getattr(piece.visual, "kind", None) != "vertex":
        return None
    codes = np.asarray(piece.visual.vertex_colors, dtype=np.float32)[:, :3] / 255
    return np.asarray(srgb_to_linear(codes)[corners], dtype=np.float32)


def _own_normals(piece: Any, corners: Any) -> Float | None:
    """Return the normals of the file if every corner has one of nonzero length."""
    if "vertex_normals" not in piece._cache.cache:
        return None
    found = unit(np.asarray(piece.vertex_normals, dtype=np.float32)[corners])
    return found if found.any(-1).all() else None
