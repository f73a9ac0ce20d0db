"""Rays above and below the surface: occlusion, bent normal, thickness."""

from __future__ import annotations

from typing import Any

import numpy as np
from numba import njit, prange

from copper_sieve.core.baking.surface_samples import Surroundings, Texels
from copper_sieve.core.image.raster import Float
from copper_sieve.core.mesh.rays import RayMemory, RayScene, aim, first_hit, is_blocked, ray_of

_BLOCK = 256  # points of one thread at a time
_GOLDEN = 0.6180339887498949
_NO_FLOOR = -1e30


def openness(  # noqa: PLR0917
    scene: RayScene,
    at: Surroundings,
    texels: Texels,
    rays: int,
    max_distance: float,
    step: float,
    floor: float | None = None,
) -> tuple[Float, Float]:
    """Return the visibility of the hemisphere, by cosine-weighted rays of equal weight.

    Parameters
    ----------
    scene : triangles that occlude
    at : positions and normals
    texels : (N,), which rotate the ray pattern, so that it isn't visible
    rays : number per sample
    max_distance : meters beyond which nothing occludes
    step : distance in meters at which rays start above the surface
    floor : height of a ground plane that occludes; None: none

    Returns
    -------
    (N, 1) float32, [0, 1], share of unblocked rays; (N, 3) float32, sum of their directions divided
        by the number of rays
    """
    count = len(texels)
    blocks = (count + _BLOCK - 1) // _BLOCK
    room = RayMemory(blocks)
    shares = np.empty((count, 1), dtype=np.float32)
    directions = np.empty((count, 3), dtype=np.float32)
    _open(
        scene.handle, room.base, at.lifted, at.normals, at.flat, texels, _pattern(rays),
        max_distance,
        step, _NO_FLOOR if floor is None else floor, shares, directions,
    )  # fmt: skip
    return shares, directions


def thickness(  # noqa: PLR0917
    scene: RayScene,
    at: Surroundings,
    texels: Texels,
    rays: int,
    max_distance: float,
    step: float,
) -> Float:
    """Return the thickness of the model below the surface.

    Cosine-weighted rays go inward; the depth of their hits is measured along the normal, so that
    the thickness of a slab is independent of the number of rays, and that of a sphere is its
    radius. A ray without a hit counts as `max_distance`.

    Parameters
    ----------
    scene, at, texels, rays, step : see `openness`
    max_distance : largest thickness in meters

    Returns
    -------
    (N, 1) float32, meters
    """
    count = len(texels)
    blocks = (count + _BLOCK - 1) // _BLOCK
    room = RayMemory(blocks)
    out = np.empty((count, 1), dtype=np.float32)
    _inwards(
        scene.handle,
        room.base,
        at.positions,
        at.normals,
        at.flat,
        texels,
        _pattern(rays),
        max_distance,
        step,
        out,
    )
    return out


@njit(cache=True, nogil=True, inline="always")
def _shift(number: int) -> tuple[float, float]:
    """Return two pseudorandom numbers in [0, 1], constant per texel."""
    mixed = np.uint64(number) * np.uint64(0x9E3779B97F4A7C15) + np.uint64(0x632BE59BD9B4E019)
    mixed = (mixed ^ (mixed >> np.uint64(30))) * np.uint64(0xBF58476D1CE4E5B9)
    mixed = (mixed ^ (mixed >> np.uint64(27))) * np.uint64(0x94D049BB133111EB)
    mixed ^= mixed >> np.uint64(31)
    low, high = mixed & np.uint64(0xFFFFFF), (mixed >> np.uint64(32)) & np.uint64(0xFFFFFF)
    return float(low) / 16777216.0, float(high) / 16777216.0


def _pattern(rays: int) -> Float:
    """Return rotations by multiples of the golden ratio, (rays, 2), as cosine and sine."""
    turns = 2 * np.pi * ((np.arange(rays) * _GOLDEN) % 1.0)
    return np.stack([np.cos(turns), np.sin(turns)], axis=1).astype(np.float32)


@njit(cache=True, nogil=True, inline="always")
def _cosine(
    pattern: Float, k: int, first: float, cosine: float, sine: float
) -> tuple[float, float, float]:
    """Return the k-th direction of a cosine-weighted pattern around z, rotated (Malley)."""
    u = (k + first) / len(pattern)
    r = np.sqrt(u)
    x = pattern[k, 0] * cosine - pattern[k, 1] * sine
    y = pattern[k, 1] * cosine + pattern[k, 0] * sine
    return r * x, r * y, np.sqrt(max(0.0, 1.0 - u))


@njit(cache=True, nogil=True, inline="always")
def _turned(n: Any, x: float, y: float, z: float) -> tuple[float, float, float]:
    """Rotate (x, y, z) from around z to around the unit vector n (Duff et al. 2017)."""
    sign = 1.0 if n[2] >= 0 else -1.0
    a = -1.0 / (sign + n[2])
    b = n[0] * n[1] * a
    return (
        x * (1.0 + sign * n[0] * n[0] * a) + y * b + z * n[0],
        x * sign * b + y * (sign + n[1] * n[1] * a) + z * n[1],
        -x * sign * n[0] - y * n[1] + z * n[2],
    )


@njit(parallel=True, cache=True, nogil=True)
def _open(  # noqa: PLR0917
    scene: int, base: int, positions: Float, normals: Float, flat: Float, texels: Texels,
    pattern: Float, max_distance: float, step: float, floor: float, shares: Float,
    directions: Float,
) -> None:  # fmt: skip
    count, rays = len(positions), len(pattern)
    for block in prange((count + _BLOCK - 1) // _BLOCK):
        address, ray, bits = ray_of(base, block)
        for n in range(block * _BLOCK, min(count, block * _BLOCK + _BLOCK)):
            origin = (positions[n, 0] + step * flat[n, 0], positions[n, 1] + step * flat[n, 1],
                      positions[n, 2] + step * flat[n, 2])  # fmt: skip
            first, second = _shift(texels[n])
            cosine, sine = np.cos(2 * np.pi * second), np.sin(2 * np.pi * second)
            free, sx, sy, sz = 0, 0.0, 0.0, 0.0
            for k in range(rays):
                x, y, z = _cosine(pattern, k, first, cosine, sine)
                x, y, z = _turned(normals[n], x, y, z)
                if y < 0 and origin[1] + max_distance * y < floor:
                    continue
                aim(ray, bits, origin, (x, y, z), 0.0, max_distance)
                if not is_blocked(scene, address, ray):
                    free += 1
                    sx, sy, sz = sx + x, sy + y, sz + z
            shares[n, 0] = free / rays
            directions[n, 0], directions[n, 1] = sx / rays, sy / rays
            directions[n, 2] = sz / rays


@njit(parallel=True, cache=True, nogil=True)
def _inwards(  # noqa: PLR0917
    scene: int, base: int, positions: Float, normals: Float, flat: Float, texels: Texels,
    pattern: Float, max_distance: float, step: float, out: Float,
) -> None:  # fmt: skip
    count, rays = len(positions), len(pattern)
    for block in prange((count + _BLOCK - 1) // _BLOCK):
        address, ray, bits = ray_of(base, block)
        for n in range(block * _BLOCK, min(count, block * _BLOCK + _BLOCK)):
            origin = (positions[n, 0] - step * flat[n, 0], positions[n, 1] - step * flat[n, 1],
                      positions[n, 2] - step * flat[n, 2])  # fmt: skip
            first, second = _shift(texels[n])
            cosine, sine = np.cos(2 * np.pi * second), np.sin(2 * np.pi * second)
            depth = 0.0
            for k in range(rays):
                x, y, z = _cosine(pattern, k, first, cosine, sine)
                across = z
                x, y, z = _turned(normals[n], x, y, z)
                aim(ray, bits, origin, (-x, -y, -z), 0.0, max_distance / max(across, 1e-6))
                found = first_hit(scene, address, bits)
                depth += min(max_distance, (ray[8] + step) * across) if found else max_distance
            out[n, 0] = depth / rays
