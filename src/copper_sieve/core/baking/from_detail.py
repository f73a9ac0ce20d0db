"""Projection onto a high-poly model: rays from a cage around the low-poly model."""

from __future__ import annotations

import re
from collections.abc import Iterator
from dataclasses import dataclass
from typing import Any

import numpy as np
from numba import njit, prange
from numpy.typing import NDArray

from copper_sieve.core.baking.surface_samples import SurfaceSamples
from copper_sieve.core.errors import MeshError
from copper_sieve.core.image.raster import Float
from copper_sieve.core.mesh.mesh import Ids, Mesh, smooth_normals
from copper_sieve.core.mesh.mesh_cache import cached_by_mesh
from copper_sieve.core.mesh.rasterization import blend_attributes
from copper_sieve.core.mesh.rays import RayMemory, RayScene, aim, first_hit, ray_of, scene_of

_BLOCK = 256  # rays of one thread at a time
_MOST_BACKS = 16  # triangles seen from behind that a ray passes
_WIDEST = 0.1  # share of the model's size: limit of the measured offset
_LEAST = 0.002
_MARGIN = 1.5
# Words by which names tell the versions of one part.
_VERSIONS = re.compile(r"[ _.\-]*(low|high|lp|hp|lo|hi|simple|detailed|detail|cage)(poly)?$", re.I)


@dataclass(frozen=True, slots=True)
class Cage:
    """Start and length of rays for each corner of the low-poly model, (T, 3, 3) float32.

    outer : start in meters
    ways : vector from there through the surface to the same distance behind it
    """

    outer: Float
    ways: Float

    @classmethod
    def by_offset(cls, mesh: Mesh, offset: float) -> Cage:
        """Return a cage with all vertices moved out by `offset` meters along smoothed normals."""
        out = smooth_normals(mesh.positions)
        lost = ~out.any(-1)
        out[lost] = mesh.normals[lost]
        return cls(mesh.positions + offset * out, -2 * offset * out)

    @classmethod
    def by_model(cls, mesh: Mesh, cage: Mesh) -> Cage:
        """Return a cage from a model with the same triangles.

        Raises
        ------
        MeshError : if the triangles differ
        """
        if cage.count != mesh.count:
            raise MeshError(
                f"the cage has {cage.count} triangles but the model has {mesh.count}. Make "
                "the cage from a copy of the model by moving vertices, without adding or "
                "removing any"
            )
        return cls(cage.positions, 2 * (mesh.positions - cage.positions))


@dataclass(frozen=True, slots=True)
class MatchedParts:
    """Parts that match: rays from `low_poly` triangles only hit those of `scene`.

    low_poly : (T,) bool of the low-poly model
    triangles : index in the high-poly model of each triangle in the scene
    """

    low_poly: NDArray[np.bool_]
    scene: RayScene
    triangles: Ids


def match_parts(low_poly: Mesh, high_poly: Mesh, match_by_name: bool) -> list[MatchedParts]:
    """Return pairs of part groups with the same name except for suffixes such as low and high.

    Parts without a partner use the whole high-poly model; so do all without `match_by_name`.
    """
    return cached_by_mesh(
        "groups", [low_poly.positions, low_poly.parts, high_poly.positions, high_poly.parts],
        lambda: list(_groups(low_poly, high_poly, match_by_name)), match_by_name,
        low_poly.part_names,
        high_poly.part_names,
    )  # fmt: skip


def _groups(low_poly: Mesh, high_poly: Mesh, match_by_name: bool) -> Iterator[MatchedParts]:
    left = np.ones(low_poly.count, dtype=bool)
    every = np.arange(high_poly.count, dtype=np.int32)
    if match_by_name:
        partners = {_stem(name): [] for name in low_poly.part_names}  # type: dict[str, list[int]]
        for n, name in enumerate(high_poly.part_names):
            if _stem(name) in partners:
                partners[_stem(name)].append(n)
        for stem, those in partners.items():
            own = [n for n, name in enumerate(low_poly.part_names) if _stem(name) == stem]
            which = np.isin(low_poly.parts, own)
            if those and which.any():
                inside = np.isin(high_poly.parts, those)
                left &= ~which
                yield MatchedParts(which, RayScene(high_poly.positions[inside]), every[inside])
    if left.any():
        yield MatchedParts(left, scene_of(high_poly), every)


def _stem(name: str) -> str:
    """Return a part's name without its suffix; trailing numbers of copies stay."""
    return _VERSIONS.sub("", name).lower()


def project_to_high_poly(
    cage: Cage, group: MatchedParts, places: SurfaceSamples
) -> tuple[SurfaceSamples, NDArray[np.bool_]]:
    """Find the first front-facing triangle from the cage to as far behind the surface.

    Parameters
    ----------
    cage : start of the rays
    group : part of both models
    places : samples on the low-poly model

    Returns
    -------
    samples on the high-poly model; (N,) bool, False for missed samples, whose values are undefined
    """
    starts = blend_attributes(cage.outer, places.triangles, places.weights)
    ways = blend_attributes(cage.ways, places.triangles, places.weights)
    triangles = np.full(len(places), -1, dtype=np.int32)
    weights = np.zeros((len(places), 2), dtype=np.float32)
    room = RayMemory((len(places) + _BLOCK - 1) // _BLOCK)
    _search(group.scene.handle, room.base, starts, ways, triangles, weights)
    met = triangles >= 0
    return SurfaceSamples(places.texels, group.triangles[np.maximum(triangles, 0)], weights), met


@njit(parallel=True, cache=True, nogil=True)
def _search(  # noqa: PLR0917
    scene: int, base: int, starts: Float, ways: Float, triangles: Ids, weights: Float
) -> None:
    count = len(starts)
    for block in prange((count + _BLOCK - 1) // _BLOCK):
        address, ray, bits = ray_of(base, block)
        for n in range(block * _BLOCK, min(count, block * _BLOCK + _BLOCK)):
            near = 0.0
            for _ in range(_MOST_BACKS):
                aim(ray, bits, starts[n], ways[n], near, 1.0)
                if not first_hit(scene, address, bits):
                    break
                if _is_front(ray, ways[n]):
                    triangles[n] = bits[17]
                    weights[n, 0], weights[n, 1] = ray[15], ray[16]
                    break
                near = ray[8] * 1.00001 + 1e-6


@njit(cache=True, nogil=True, inline="always")
def _is_front(ray: Float, way: Any) -> bool:
    return bool(ray[12] * way[0] + ray[13] * way[1] + ray[14] * way[2] <= 0)


def default_offset(low_poly: Mesh, high_poly: Mesh, some: SurfaceSamples) -> float:
    """Return the cage distance in meters with which almost all samples hit the high-poly model.

    It is measured within a tenth of the model's size in both directions along the normals, and
    increased by half.
    """
    widest = _WIDEST * max(low_poly.extent, 1e-9)
    cage = Cage.by_offset(low_poly, widest)
    scene = scene_of(high_poly)
    points = blend_attributes(low_poly.positions, some.triangles, some.weights)
    ways = blend_attributes(cage.ways * np.float32(0.5), some.triangles, some.weights)
    away = np.full(len(points), np.inf, dtype=np.float32)
    room = RayMemory((len(points) + _BLOCK - 1) // _BLOCK)
    _measure(scene.handle, room.base, points, ways, away)
    found = away[np.isfinite(away)]
    farthest = float(np.quantile(found, 0.995)) if len(found) else 0.0
    return widest * min(1.0, max(_LEAST / _WIDEST, farthest * _MARGIN))


@njit(parallel=True, cache=True, nogil=True)
def _measure(scene: int, base: int, points: Float, ways: Float, away: Float) -> None:
    count = len(points)
    for block in prange((count + _BLOCK - 1) // _BLOCK):
        address, ray, bits = ray_of(base, block)
        for n in range(block * _BLOCK, min(count, block * _BLOCK + _BLOCK)):
            for sign in (1.0, -1.0):
                way = (sign * ways[n, 0], sign * ways[n, 1], sign * ways[n, 2])
                aim(ray, bits, points[n], way, 0.0, 1.0)
                if first_hit(scene, address, bits):
                    away[n] = min(away[n], ray[8])


def to_tangent_space(vectors: Float, normals: Float, tangents: Float) -> Float:
    """Convert directions to the tangent space of a shader.

    Interpolated normals and tangents are not of unit length, as MikkTSpace requires (Mikkelsen
    2008): the shader adds x * tangent + y * bitangent + z * normal.

    Parameters
    ----------
    vectors : (N, 3) float32
    normals : (N, 3) float32, interpolated
    tangents : (N, 4) float32, interpolated

    Returns
    -------
    (N, 3) float32, unit vectors, Y up, z >= 0
    """
    out = np.empty((len(vectors), 3), dtype=np.float32)
    _into_frame(vectors, normals, tangents, out)
    return out


@njit(parallel=True, cache=True, nogil=True)
def _into_frame(vectors: Float, normals: Float, tangents: Float, out: Float) -> None:
    for n in prange(len(vectors)):
        normal, tangent = normals[n], tangents[n, :3]
        sign = np.float32(1 if tangents[n, 3] >= 0 else -1)
        bitangent = sign * np.cross(normal, tangent)
        across = np.cross(bitangent, normal)
        volume = (tangent * across).sum()
        if abs(volume) < 1e-12:
            out[n, 0], out[n, 1], out[n, 2] = 0, 0, 1
            continue
        # The rows of the inverse are cross products of the columns, by the volume they span.
        x = (vectors[n] * across).sum() / volume
        y = (vectors[n] * np.cross(normal, tangent)).sum() / volume
        z = (vectors[n] * np.cross(tangent, bitangent)).sum() / volume
        z = max(z, np.float32(0))
        length = np.sqrt(x * x + y * y + z * z)
        if length < 1e-20:
            out[n, 0], out[n, 1], out[n, 2] = 0, 0, 1
        else:
            out[n, 0], out[n, 1], out[n, 2] = x / length, y / length, z / length
