"""Render a model with its materials by ray casting, shaded by the reference shader.

The model is placed like in the lit view: centered, with half the diagonal of its bounds 1.3 units
long, so that equal cameras show equal views.
"""

from __future__ import annotations

from collections.abc import Mapping
from dataclasses import dataclass, replace

import cv2
import numpy as np
from numba import njit, prange
from numpy.typing import NDArray

from copper_sieve.core.image.map_kind import MapKind
from copper_sieve.core.image.raster import Float
from copper_sieve.core.lighting.environment import Environment
from copper_sieve.core.lighting.shading import Illumination, Lights, Material, shade
from copper_sieve.core.mesh.mesh import Ids, Mesh
from copper_sieve.core.mesh.mesh_cache import cached_by_mesh
from copper_sieve.core.mesh.rays import UNBOUND, RayMemory, aim, first_hit, ray_of, scene_of
from copper_sieve.core.mesh.tangents import tangents_of

_RADIUS = 1.3
_BLOCK = 256
_PART = 16_384  # places that are shaded at a time: a row of that many can be looked up
_F0 = 0.04
_PLAIN = (0.32, 0.31, 0.28)  # of a material of which nothing is known
_STAND_IN: dict[MapKind, tuple[float, ...]] = {
    MapKind.BASE_COLOR: _PLAIN, MapKind.METALLIC: (0.0,), MapKind.ROUGHNESS: (0.5,),
    MapKind.NORMAL: (0.0, 0.0, 1.0), MapKind.AMBIENT_OCCLUSION: (1.0,),
}  # fmt: skip
Maps = Mapping[MapKind, Float]


@dataclass(frozen=True, slots=True)
class Camera:
    """Position of the camera in scene units (x right, y up, z near); it looks at the center.

    degrees : vertical field of view
    """

    place: tuple[float, float, float] = (2.5, 1.5, 4.4)
    degrees: float = 30.0


@dataclass(frozen=True, slots=True)
class Lighting:
    """Lighting; see `shading.shade`.

    lights : in scene directions; turned : in camera directions, like lights attached to the camera
    """

    lights: Lights = ()
    environment: Environment | None = None
    sky: float = 0.35
    turned: bool = False


def render_still(  # noqa: PLR0917
    mesh: Mesh, worn: Mapping[str, Maps], eye: Camera, width: int, height: int,
    lighting: Lighting, uv_set: int = 0, samples: int = 4,
) -> tuple[Float, Float]:  # fmt: skip
    """Render a model with textures.

    Parameters
    ----------
    mesh : triangles
    worn : maps of each material by name, each (H, W, C), repeated beyond the unit square
    eye : camera
    width, height : texels
    lighting : lights and environment
    uv_set : number of the UV set, from 0
    samples : per texel, a square number

    Returns
    -------
    (height, width, 3) float32, linear light, mean of the samples that hit the model; (height,
        width, 1)
        coverage
    """
    side = max(1, round(samples**0.5))
    seen = _Seen.by(mesh, eye, width * side, height * side)
    light = np.zeros((height * side, width * side, 3), dtype=np.float32)
    if seen.met.any():
        parts = [
            _lit(mesh, seen.part(start), worn, lighting, uv_set)
            for start in range(0, len(seen.triangles), _PART)
        ]
        light[seen.met] = np.concatenate(parts)
    covered = seen.met.astype(np.float32)[:, :, None]
    texels = (height, side, width, side)
    count = covered.reshape(*texels, 1).sum((1, 3))
    total = light.reshape(*texels, 3).sum((1, 3))
    return total / np.maximum(count, 1), count / np.float32(side * side)


@dataclass(frozen=True, slots=True)
class _Seen:
    """Ray hits: met (H, W) bool; the others for the N hits.

    triangles : (N,); weights : (N, 3) barycentric; toward : (N, 3) to the viewer; axes : (3, 3)
    right, up and backward of the camera
    """

    met: NDArray[np.bool_]
    triangles: Ids
    weights: Float
    toward: Float
    axes: Float

    def part(self, start: int) -> _Seen:
        """Return a range of the surface samples, as many as are shaded at a time."""
        cut = np.s_[start : start + _PART]
        return replace(
            self, triangles=self.triangles[cut], weights=self.weights[cut], toward=self.toward[cut]
        )

    @classmethod
    def by(cls, mesh: Mesh, eye: Camera, width: int, height: int) -> _Seen:
        low, high = mesh.bounds()
        middle, radius = (low + high) / 2, max(float(np.linalg.norm(high - low)) / 2, 1e-9)
        place = np.array(eye.place, dtype=np.float32)
        near = place / np.linalg.norm(place)
        right = np.cross([0, 1, 0], near)
        right /= np.linalg.norm(right)
        up = np.cross(near, right)
        reach = np.tan(np.radians(eye.degrees) / 2)
        across = ((np.arange(width) + 0.5) / width * 2 - 1) * reach * width / height
        down = (1 - (np.arange(height) + 0.5) / height * 2) * reach
        ways = across[None, :, None] * right + down[:, None, None] * up - near
        ways = (ways / np.linalg.norm(ways, axis=-1, keepdims=True)).astype(np.float32)
        start = (middle + place * (radius / _RADIUS)).astype(np.float32)
        scene = scene_of(mesh)
        flat = np.ascontiguousarray(ways.reshape(-1, 3))
        triangles = np.full(len(flat), -1, dtype=np.int32)
        weights = np.zeros((len(flat), 2), dtype=np.float32)
        room = RayMemory((len(flat) + _BLOCK - 1) // _BLOCK)
        _look(scene.handle, room.base, start, flat, triangles, weights)
        met = triangles >= 0
        second, third = weights[met, :1], weights[met, 1:]
        all_three = np.concatenate([1 - second - third, second, third], axis=1)
        axes = np.stack([right, up, near]).astype(np.float32)
        return cls(met.reshape(height, width), triangles[met], all_three, -flat[met], axes)


def _lit(
    mesh: Mesh, seen: _Seen, worn: Mapping[str, Maps], lighting: Lighting, uv_set: int
) -> Float:
    """Return the light of every hit point: (N, 3)."""
    maps = _maps_at(mesh, seen, worn, uv_set)
    normal = _bent(mesh, seen, maps[MapKind.NORMAL], uv_set)
    toward = seen.toward
    if lighting.turned:
        normal, toward = normal @ seen.axes.T, toward @ seen.axes.T
    # As one row of texels.
    rows = {kind: one[None] for kind, one in maps.items()} | {MapKind.NORMAL: normal[None]}
    around = Illumination(lighting.sky, lighting.environment, rows[MapKind.AMBIENT_OCCLUSION])
    lit = shade(Material.of(rows, _F0), lighting.lights, around=around, view=toward[None])
    return np.asarray(lit[0])


def _maps_at(
    mesh: Mesh, seen: _Seen, worn: Mapping[str, Maps], uv_set: int
) -> dict[MapKind, Float]:
    """Return every map at the hit points, (N, C); missing maps have their neutral value."""
    count = len(seen.triangles)
    found = {
        kind: np.tile(np.array(value, np.float32), (count, 1)) for kind, value in _STAND_IN.items()
    }
    if uv_set >= len(mesh.uvs):
        return found
    uv = (mesh.uvs[uv_set][seen.triangles] * seen.weights[:, :, None]).sum(1)
    whose = mesh.materials[seen.triangles]
    for n, name in enumerate(mesh.material_names):
        which = whose == n
        for kind, pixels in worn.get(name, {}).items():
            if kind in found and which.any():
                found[kind][which] = _sampled(pixels, uv[which])
    return found


def _sampled(pixels: Float, uv: Float) -> Float:
    """Sample bilinearly with repetition: (N, C) at (N, 2), v down."""
    height, width, channels = pixels.shape
    padded = np.pad(pixels, ((1, 1), (1, 1), (0, 0)), mode="wrap")
    x = np.ascontiguousarray((uv[:, 0] % 1) * width + 0.5, dtype=np.float32)
    y = np.ascontiguousarray((uv[:, 1] % 1) * height + 0.5, dtype=np.float32)
    found = cv2.remap(padded, x[:, None], y[:, None], cv2.INTER_LINEAR)
    return np.asarray(found.reshape(len(uv), channels))


def _bent(mesh: Mesh, seen: _Seen, map_normal: Float, uv_set: int) -> Float:
    """Return the surface normals with the normal map applied, facing the viewer: (N, 3) unit
    vectors.
    """

    def mixed(corners: Float) -> Float:
        return np.asarray((corners[seen.triangles] * seen.weights[:, :, None]).sum(1))

    smooth = mixed(mesh.normals)
    bent = smooth
    if uv_set < len(mesh.uvs):
        arrays = [mesh.positions, mesh.normals, mesh.uvs[uv_set]]
        tangents = cached_by_mesh("tangents", arrays, lambda: tangents_of(mesh, uv_set), uv_set)
        # Neither vector is normalized first, as MikkTSpace requires.
        along = mixed(tangents[:, :, :3])
        sign = tangents[seen.triangles, 0, 3][:, None]
        across = sign * np.cross(smooth, along)
        bent = map_normal[:, :1] * along + map_normal[:, 1:2] * across + map_normal[:, 2:] * smooth
    bent = bent / np.maximum(np.linalg.norm(bent, axis=1, keepdims=True), 1e-9)
    away = (smooth * seen.toward).sum(1, keepdims=True) < 0
    return np.asarray(np.where(away, -bent, bent), dtype=np.float32)


@njit(parallel=True, cache=True, nogil=True)
def _look(  # noqa: PLR0917
    scene: int, base: int, start: Float, ways: Float, triangles: Ids, weights: Float
) -> None:
    count = len(ways)
    for block in prange((count + _BLOCK - 1) // _BLOCK):
        address, ray, bits = ray_of(base, block)
        for n in range(block * _BLOCK, min(count, block * _BLOCK + _BLOCK)):
            aim(ray, bits, start, ways[n], 0.0, UNBOUND)
            if first_hit(scene, address, bits):
                triangles[n] = bits[17]
                weights[n, 0], weights[n, 1] = ray[15], ray[16]
