"""A model as unindexed triangles with names of materials and parts."""

from __future__ import annotations

from collections.abc import Sequence
from dataclasses import dataclass, field, replace

import numpy as np
from numpy.typing import NDArray

from copper_sieve.core.errors import DamagedModelError, MeshError
from copper_sieve.core.image.raster import Float
from copper_sieve.core.mesh.mesh_cache import cached_by_mesh
from copper_sieve.core.mesh.welding import sum_by_index, weld_vertices

Ids = NDArray[np.int32]
_NO_LENGTH = 1e-20
_MOST_AROUND = 1000  # triangles at one place whose pairs are still looked at
_FARTHEST = 1e18  # metres: squares of it are still numbers


@dataclass(frozen=True, slots=True)
class Mesh:
    """T triangles without shared vertices, so that each corner has its own normal and UV.

    positions : (T, 3, 3) float32, meters, right-handed, Y up, counterclockwise from outside
    normals : (T, 3, 3) float32, unit vectors
    uvs : for each UV set (T, 3, 2) float32, u to the right and v **down**, like rows of a picture
    tangents : (T, 3, 4) float32 from the file, or None: direction of u, and the sign with which
    cross(normal, tangent) points up in the picture (against v)
    colors : (T, 3, 3) float32 in linear light from the file, or None
    materials, parts : (T,) int32, indices of the names
    material_names, part_names : from the file; parts are its nodes, objects or groups
    remarks : skipped or assumed content, one sentence each
    """

    positions: Float
    normals: Float
    uvs: tuple[Float, ...]
    materials: Ids
    parts: Ids
    material_names: tuple[str, ...]
    part_names: tuple[str, ...]
    tangents: Float | None = None
    colors: Float | None = None
    remarks: tuple[str, ...] = field(default=())

    @property
    def count(self) -> int:
        """How many triangles."""
        return len(self.positions)

    @property
    def extent(self) -> float:
        """Metres across the diagonal of its bounds; 0 without triangles."""
        if not self.count:
            return 0.0
        low, high = self.bounds()
        return float(np.linalg.norm(high - low))

    def bounds(self) -> tuple[Float, Float]:
        """Return the lower and upper corner of the bounding box, (3,) each, in meters."""
        return cached_by_mesh(
            "bounds", [self.positions],
            lambda: (self.positions.min((0, 1)), self.positions.max((0, 1))),
        )  # fmt: skip

    def chosen(self, which: NDArray[np.bool_] | NDArray[np.int64]) -> Mesh:
        """Return some triangles, by a mask (T,) or indices, with all names."""
        return replace(
            self,
            positions=self.positions[which],
            normals=self.normals[which],
            uvs=tuple(one[which] for one in self.uvs),
            materials=self.materials[which],
            parts=self.parts[which],
            tangents=None if self.tangents is None else self.tangents[which],
            colors=None if self.colors is None else self.colors[which],
        )

    def of_material(self, name: str) -> Mesh:
        """Return the triangles of one material.

        Raises
        ------
        MeshError : if there is no such material
        """
        return self.chosen(self.is_of(name))

    def is_of(self, name: str) -> NDArray[np.bool_]:
        """Return (T,) bool, True for triangles of one material.

        Raises
        ------
        MeshError : if there is no such material
        """
        if name not in self.material_names:
            has = ", ".join(self.material_names) or "none"
            raise MeshError(f"the model has no material named {name}. It has: {has}")
        return np.asarray(self.materials == self.material_names.index(name))


def validate_mesh(mesh: Mesh, name: str) -> Mesh:
    """Return the mesh if all its coordinates are finite.

    Parameters
    ----------
    mesh : to check
    name : of the file, for the error

    Raises
    ------
    DamagedModelError
    """
    if not mesh.count:
        raise DamagedModelError(f"{name} contains no triangles. Export it with its surface")
    wrong = ~np.isfinite(mesh.positions).all((1, 2)) | (np.abs(mesh.positions) > _FARTHEST).any(
        (1, 2)
    )
    for uv in mesh.uvs:
        wrong |= ~np.isfinite(uv).all((1, 2))
    if wrong.any():
        raise DamagedModelError(
            f"{name}: {int(wrong.sum())} of {mesh.count} triangles have invalid coordinates "
            f"(the first is triangle {int(np.argmax(wrong)) + 1}). Repair the model or "
            "export it again"
        )
    return mesh


def face_normals(positions: Float) -> Float:
    """Return the unit normal of each triangle, (T, 3) float32; zero for triangles without area."""
    across = np.cross(positions[:, 1] - positions[:, 0], positions[:, 2] - positions[:, 0])
    return unit(across)


def unit(vectors: Float) -> Float:
    """Normalize vectors in the last axis; zero vectors stay zero. Returns float32."""
    length = np.linalg.norm(vectors, axis=-1, keepdims=True)
    return np.asarray(np.where(length > _NO_LENGTH, vectors / np.maximum(length, _NO_LENGTH), 0),
                      dtype=np.float32)  # fmt: skip


def smooth_normals(positions: Float, *, sharp_degrees: float | None = None) -> Float:
    """Compute vertex normals for a model without normals.

    Each corner gets the mean normal of the triangles at its position, weighted by their angles
    (Thürmer and Wüthrich 1998).

    Parameters
    ----------
    positions : (T, 3, 3) float32
    sharp_degrees : use only triangles whose planes differ from the corner's own by less than this

    Returns
    -------
    (T, 3, 3) float32, unit vectors
    """
    flat = face_normals(positions)
    places = weld_vertices(positions)
    weighted = flat[:, None, :] * corner_angles(positions)[:, :, None]
    if sharp_degrees is None:
        summed = sum_by_index(weighted.reshape(-1, 3), places)
        return unit(summed[places].reshape(-1, 3, 3))
    return _split(flat, weighted.reshape(-1, 3), places, np.cos(np.radians(sharp_degrees)))


def _split(flat: Float, weighted: Float, places: NDArray[np.int64], least: float) -> Float:
    """Average over corners at the same position with similar planes, all pairs at a time."""
    order = np.argsort(places, kind="stable")
    starts = np.flatnonzero(np.diff(places[order], prepend=-1))
    counts = np.diff(np.append(starts, len(order)))
    out = np.zeros_like(weighted)
    for size in np.unique(counts):  # places where equally many corners meet, together
        corners = order[starts[counts == size][:, None] + np.arange(size)]
        if size > _MOST_AROUND:  # no surface of anything: all of them count
            out[corners] = weighted[corners].sum(1, keepdims=True)
            continue
        planes = flat[corners // 3]
        alike = np.einsum("nik,njk->nij", planes, planes) >= least
        alike |= np.eye(size, dtype=bool)
        out[corners] = np.einsum("nij,njk->nik", alike.astype(np.float32), weighted[corners])
    found = unit(out)
    lost = ~found.any(-1)
    found[lost] = flat[np.flatnonzero(lost) // 3]
    return found.reshape(-1, 3, 3)


def corner_angles(positions: Float) -> Float:
    """Return the angle of each corner in radians, (T, 3) float32; 0 at sides of zero length."""
    ahead = unit(np.roll(positions, -1, axis=1) - positions)
    back = unit(np.roll(positions, 1, axis=1) - positions)
    cosine = np.clip((ahead * back).sum(-1), -1, 1)
    there = ahead.any(-1) & back.any(-1)
    return np.asarray(np.where(there, np.arccos(cosine), 0), dtype=np.float32)


def join_meshes(meshes: Sequence[Mesh]) -> Mesh:
    """Join meshes; equal names are merged. Only UV sets that all meshes have are kept."""
    materials = tuple(dict.fromkeys(name for one in meshes for name in one.material_names))
    parts = tuple(dict.fromkeys(name for one in meshes for name in one.part_names))
    sets = min(len(one.uvs) for one in meshes)
    return Mesh(
        np.concatenate([one.positions for one in meshes]),
        np.concatenate([one.normals for one in meshes]),
        tuple(np.concatenate([one.uvs[n] for one in meshes]) for n in range(sets)),
        _renamed([(one.materials, one.material_names) for one in meshes], materials),
        _renamed([(one.parts, one.part_names) for one in meshes], parts),
        materials,
        parts,
        _where_all_have(*(one.tangents for one in meshes)),
        _where_all_have(*(one.colors for one in meshes)),
        tuple(dict.fromkeys(remark for one in meshes for remark in one.remarks)),
    )


def _where_all_have(*values: Float | None) -> Float | None:
    known = [one for one in values if one is not None]
    return np.concatenate(known) if len(known) == len(values) else None


def _renamed(each: Sequence[tuple[Ids, tuple[str, ...]]], into: tuple[str, ...]) -> Ids:
    """Return the indices of names in the combined list of names."""
    place = {name: n for n, name in enumerate(into)}
    return np.concatenate([
        np.array([place[name] for name in names], dtype=np.int32)[ids] for ids, names in each
    ])  # fmt: skip


def flip_faces(uv: Float) -> Float:
    """Flip the v direction of UVs, (T, 3, 2) float32."""
    return np.stack([uv[..., 0], 1 - uv[..., 1]], axis=-1).astype(np.float32)
