"""Reads a model: detects its format by the first bytes, checks the limits, reads its triangles."""

from __future__ import annotations

from collections.abc import Callable
from pathlib import Path

from copper_sieve.core.codecs.gltf_file import GltfFile, is_gltf
from copper_sieve.core.codecs.meshes.damage import reported_as_damaged
from copper_sieve.core.codecs.meshes.gltf import read_gltf
from copper_sieve.core.codecs.meshes.limits import MODEL_ENDINGS, ModelLimits
from copper_sieve.core.codecs.meshes.tables import read_tables
from copper_sieve.core.errors import (
    DamagedModelError,
    ModelTooLargeError,
    NotAModelError,
)
from copper_sieve.core.mesh.mesh import Mesh, validate_mesh

_STL_HEAD = 84  # bytes before the triangles of a binary STL, 50 bytes each


def read_model(
    path: Path,
    limits: ModelLimits | None = None,
    on_progress: Callable[[float], None] = lambda _: None,
) -> Mesh:
    """Return the triangles of a model file with UVs, normals, materials and parts.

    Parameters
    ----------
    path : of the file
    limits : largest size of the file and the mesh
    on_progress : called with the share that was read, [0, 1], if the format allows it

    Returns
    -------
    Mesh, in meters, Y up

    Raises
    ------
    NotAModelError, DamagedModelError, ModelTooLargeError
    """
    limits = limits or ModelLimits()
    if not path.is_file():
        raise NotAModelError(f"{path} doesn't exist. Check the path")
    size = path.stat().st_size
    if size > limits.max_bytes:
        raise ModelTooLargeError(
            f"{path.name} is {size / 1e6:.0f} MB; the limit is "
            f"{limits.max_bytes / 1e6:.0f} MB. Reduce it, or raise "
            "SIEVE_MAX_MODEL_BYTES"
        )
    kind = _kind(path, size)
    if kind != "gltf":
        return validate_mesh(read_tables(path, kind, limits.max_triangles), path.name)
    with reported_as_damaged(path.name):
        return validate_mesh(
            read_gltf(GltfFile.read(path), limits.max_triangles, on_progress), path.name
        )


def _kind(path: Path, size: int) -> str:
    """Return gltf, obj, ply or stl by the first bytes; OBJ is detected by its extension."""
    with path.open("rb") as file:
        head = file.read(_STL_HEAD)
    start, ending = head.lstrip(), path.suffix.lower()
    if is_gltf(head, path.name):
        return "gltf"
    if start[:3] == b"ply":
        return "ply"
    if len(head) == _STL_HEAD and size == _STL_HEAD + 50 * int.from_bytes(head[80:84], "little"):
        return "stl"
    if start[:5].lower() == b"solid":
        return "stl"
    if ending == ".stl":
        raise DamagedModelError(f"{path.name} is truncated or isn't an STL file. Export it again")
    if ending == ".obj" and b"\0" not in head:
        return "obj"
    raise NotAModelError(
        f"{path.name} isn't a supported model format. Use {', '.join(MODEL_ENDINGS)}"
    )
