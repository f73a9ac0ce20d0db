"""Triangles of a glTF 2.0 file, as its scene places them."""

from __future__ import annotations

from collections.abc import Callable, Iterator
from dataclasses import dataclass
from typing import Any

import numpy as np
from numpy.typing import NDArray

from copper_sieve.core.codecs.gltf_file import GltfFile
from copper_sieve.core.codecs.meshes.accessors import accessor
from copper_sieve.core.errors import DamagedModelError, ModelTooLargeError
from copper_sieve.core.image.raster import Float
from copper_sieve.core.mesh.mesh import Mesh, face_normals, join_meshes, unit

_MOST_NODES = 100_000
_MOST_UV_SETS = 8
_LINES = {0: "points", 1: "lines", 2: "lines", 3: "lines"}
_COMPRESSED = {
    "KHR_draco_mesh_compression": "Draco",
    "EXT_meshopt_compression": "meshopt",
    "KHR_meshopt_compression": "meshopt",
}
_TELL_EVERY = 500  # nodes
_FLAT = 1e-12  # a determinant of a matrix that leaves no volume
_Matrix = NDArray[np.float64]


def read_gltf(
    file: GltfFile, most_triangles: int, on_progress: Callable[[float], None] = lambda _: None
) -> Mesh:
    """Read the meshes of the default scene, else the first scene, else all nodes, in meters.

    Skins and morph targets are ignored: the mesh is in its rest pose.

    Parameters
    ----------
    file : glTF file
    most_triangles : limit
    on_progress : called with the share of the nodes that were read, [0, 1]

    Raises
    ------
    DamagedModelError : for compressed geometry or cyclic nodes
    ModelTooLargeError : if it exceeds the limit
    """
    _refuse_compressed(file)
    names = file.material_names
    found: list[Mesh] = []
    count = 0
    nodes = len(file.document.get("nodes", ()))
    read: dict[tuple[int, int], _Primitive] = {}  # a mesh may be placed many times
    for done, (node, matrix) in enumerate(_placed(file)):
        if done % _TELL_EVERY == 0:
            on_progress(done / nodes)
        mesh = file.document["meshes"][node["mesh"]]
        part = str(node.get("name") or mesh.get("name") or f"part_{node['mesh'] + 1}")
        for n, primitive in enumerate(mesh["primitives"]):
            if primitive.get("mode", 4) in _LINES:
                continue
            place = int(node["mesh"]), n
            if place not in read:
                read[place] = _Primitive.read(file, primitive, names)
            count += read[place].count
            if count > most_triangles:
                raise ModelTooLargeError(
                    f"{file.path.name} has more than {most_triangles:,} triangles. Reduce "
                    "it, or raise SIEVE_MAX_TRIANGLES"
                )
            if read[place].count:
                found.append(read[place].placed(matrix, part))
    if not found:
        raise DamagedModelError(
            f"{file.path.name} contains no triangles. Export it with its surface"
        )
    return join_meshes(found)


def _refuse_compressed(file: GltfFile) -> None:
    used = {*file.document.get("extensionsRequired", ()), *file.document.get("extensionsUsed", ())}
    for name in sorted(used & _COMPRESSED.keys()):
        raise DamagedModelError(
            f"{file.path.name} uses {_COMPRESSED[name]} compression, which isn't supported. "
            "Export it uncompressed"
        )


def _placed(file: GltfFile) -> Iterator[tuple[dict[str, Any], _Matrix]]:
    """Return the nodes with a mesh and their transforms, each once."""
    nodes = file.document.get("nodes", [])
    scenes = file.document.get("scenes", [])
    if len(nodes) > _MOST_NODES:
        raise ModelTooLargeError(
            f"{file.path.name} has {len(nodes):,} nodes; the limit is {_MOST_NODES:,}. Join "
            "objects before exporting"
        )
    if scenes:
        roots = scenes[file.document.get("scene", 0)].get("nodes", [])
    else:
        inner = {child for one in nodes for child in one.get("children", ())}
        roots = [n for n in range(len(nodes)) if n not in inner]
    seen: set[int] = set()
    waiting = [(int(n), np.eye(4)) for n in reversed(roots)]
    while waiting:
        n, above = waiting.pop()
        if n in seen or n < 0:
            raise DamagedModelError(
                f"{file.path.name}: node {n} is its own ancestor or has two parents. Export "
                "it again"
            )
        seen.add(n)
        node = nodes[n]
        matrix = above @ _own_matrix(node)
        waiting += [(int(child), matrix) for child in reversed(node.get("children", []))]
        if "mesh" in node:  # what a skin moves is where its vertices say, not where its node is
            yield node, np.eye(4) if "skin" in node else matrix


def _own_matrix(node: dict[str, Any]) -> _Matrix:
    if "matrix" in node:
        return np.array(node["matrix"], dtype=np.float64).reshape(4, 4).T
    x, y, z, w = (float(one) for one in node.get("rotation", (0, 0, 0, 1)))
    turned = np.array([
        [1 - 2 * (y * y + z * z), 2 * (x * y - z * w), 2 * (x * z + y * w)],
        [2 * (x * y + z * w), 1 - 2 * (x * x + z * z), 2 * (y * z - x * w)],
        [2 * (x * z - y * w), 2 * (y * z + x * w), 1 - 2 * (x * x + y * y)],
    ])  # fmt: skip
    found = np.eye(4)
    found[:3, :3] = turned * np.array(node.get("scale", (1, 1, 1)), dtype=np.float64)
    found[:3, 3] = np.array(node.get("translation", (0, 0, 0)), dtype=np.float64)
    return found


def _corners(file: GltfFile, primitive: dict[str, Any]) -> NDArray[np.int64]:
    """Return (T, 3) vertex indices of a primitive; strips and fans are converted to triangles."""
    count = int(file.document["accessors"][primitive["attributes"]["POSITION"]]["count"])
    if "indices" in primitive:
        order = accessor(file, primitive["indices"])[:, 0].astype(np.int64)
        if len(order) and int(order.max()) >= count:
            raise ValueError("an index exceeds the number of vertices")
    else:
        order = np.arange(len(accessor(file, primitive["attributes"]["POSITION"])), dtype=np.int64)
    mode = primitive.get("mode", 4)
    if mode == 4:
        if len(order) % 3:
            raise ValueError("the last triangle is incomplete")
        return order.reshape(-1, 3)
    if mode == 5:  # every second triangle of a strip goes the other way round
        strip = np.stack([order[:-2], order[1:-1], order[2:]], axis=1)
        strip[1::2] = strip[1::2, [1, 0, 2]]
        return strip
    fan = [np.full(max(len(order) - 2, 0), order[0]), order[1:-1], order[2:]]
    return np.stack(fan, axis=1)


@dataclass(frozen=True, slots=True)
class _Primitive:
    """Triangles of a primitive before its node's transform, (T, 3, ...) float32 each."""

    positions: Float
    normals: Float | None
    tangents: Float | None
    uvs: tuple[Float, ...]
    colors: Float | None
    material: str
    remarks: tuple[str, ...]

    @property
    def count(self) -> int:
        """Its triangles."""
        return len(self.positions)

    @classmethod
    def read(cls, file: GltfFile, primitive: dict[str, Any], names: list[str]) -> _Primitive:
        """Read a primitive; strips and fans are converted to triangles."""
        attributes = primitive["attributes"]
        corners = _corners(file, primitive)

        def values(name: str) -> Float | None:
            if name not in attributes:
                return None
            return np.asarray(accessor(file, attributes[name]).astype(np.float32)[corners])

        positions = values("POSITION")
        if positions is None:
            raise ValueError("a primitive has no positions")
        uvs: list[Float] = []
        while len(uvs) < _MOST_UV_SETS and (uv := values(f"TEXCOORD_{len(uvs)}")) is not None:
            uvs.append(uv[:, :, :2])
        normals, colors = values("NORMAL"), values("COLOR_0")
        remarks = []
        if normals is None:
            remarks.append(
                "the file has no normals; its triangles are flat-shaded, as the glTF "
                "specification requires"
            )
        if primitive.get("targets"):
            remarks.append("morph targets are ignored; the model is read in its rest pose")
        material = primitive.get("material")
        return cls(
            positions, normals, None if normals is None else values("TANGENT"), tuple(uvs),
            None if colors is None else colors[:, :, :3],
            "unnamed" if material is None else names[material], tuple(remarks),
        )  # fmt: skip

    def placed(self, matrix: _Matrix, part: str) -> Mesh:
        """Transform a primitive by its node.

        matrix : (4, 4) float64, from node space to scene space
        """
        turn = matrix[:3, :3]
        determinant = float(np.linalg.det(turn))
        mirrored = determinant < 0  # seen from outside its corners go the other way round
        order = [0, 2, 1] if mirrored else slice(None)
        positions = (self.positions[:, order] @ turn.T + matrix[:3, 3]).astype(np.float32)
        if self.normals is None:
            normals = np.repeat(face_normals(positions)[:, None], 3, axis=1)
        else:
            # Of the inverse, transposed.
            turned = np.linalg.inv(turn) if abs(determinant) > _FLAT else np.linalg.pinv(turn)
            normals = unit((self.normals[:, order] @ turned).astype(np.float32))
            if (lost := ~normals.any(-1)).any():
                normals[lost] = np.repeat(face_normals(positions)[:, None], 3, axis=1)[lost]
        tangents = None
        if self.tangents is not None:
            own = self.tangents[:, order]
            sign = np.where(own[:, :, 3:] < 0, -1, 1) * (-1 if mirrored else 1)
            along = unit((own[:, :, :3] @ turn.T).astype(np.float32))
            tangents = np.concatenate([along, sign], axis=2).astype(np.float32)
        none = np.zeros(self.count, dtype=np.int32)
        return Mesh(
            positions, normals, tuple(uv[:, order] for uv in self.uvs), none, none,
            (self.material,), (part,), tangents=tangents,
            colors=None if self.colors is None else self.colors[:, order], remarks=self.remarks,
        )  # fmt: skip
