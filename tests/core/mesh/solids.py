"""Models drawn by formulas, with UVs, whose maps can be worked out by hand."""

from __future__ import annotations

from collections.abc import Callable

import numpy as np

from copper_sieve.core.image.raster import Float
from copper_sieve.core.mesh.mesh import Mesh, join_meshes
from copper_sieve.demo.patches import WHOLE as _WHOLE
from copper_sieve.demo.patches import Rect, patch


def floor(size: float, pieces: int = 1, uv: Rect | None = _WHOLE, height: float = 0.0) -> Mesh:
    """A square in the ground, looking up: u goes along x, v along z."""

    def surface(u: Float, v: Float) -> tuple[Float, Float]:
        flat = np.stack([(u - 0.5) * size, np.full_like(u, height), (v - 0.5) * size], -1)
        return flat, np.array([0.0, 1.0, 0.0])

    return patch(surface, pieces, pieces, uv, "floor")


def wall(place: Float, along: Float, up: Float, uv: Rect | None = _WHOLE, pieces: int = 1) -> Mesh:
    """A parallelogram; it is seen from where along x up points to."""
    out = np.cross(along, up)

    def surface(u: Float, v: Float) -> tuple[Float, Float]:
        at = (
            np.asarray(place)
            + u[..., None] * np.asarray(along)
            + (1 - v)[..., None] * np.asarray(up)
        )
        return at, out / np.linalg.norm(out)

    return patch(surface, pieces, pieces, uv, "wall")


def ball(
    radius: float, middle: tuple[float, float, float] = (0, 0, 0), rings: int = 64,
    uv: Rect | None = _WHOLE, part: str = "ball",
    swell: Callable[[Float, Float], Float] | None = None,
) -> Mesh:  # fmt: skip
    """By longitude and latitude. swell : metres outwards, by u and v; its normals follow."""

    def outwards(u: Float, v: Float) -> Float:
        turn, fall = 2 * np.pi * u, np.pi * v
        out = np.stack([np.sin(fall) * np.sin(turn), np.cos(fall), np.sin(fall) * np.cos(turn)], -1)
        r = radius + (0 if swell is None else swell(u, v))
        return np.asarray(r)[..., None] * out if swell is not None else radius * out

    def surface(u: Float, v: Float) -> tuple[Float, Float]:
        places = outwards(u, v)
        if swell is None:
            return places + middle, places / radius
        step = 1e-5
        inside = np.clip(v, step, 1 - step)
        along = outwards(u + step, inside) - outwards(u - step, inside)
        up = outwards(u, inside - step) - outwards(u, inside + step)
        normals = np.cross(along, up)
        return places + middle, normals / np.linalg.norm(normals, axis=-1, keepdims=True)

    return patch(surface, 2 * rings, rings, uv, part)


def tube(radius: float, length: float, pieces: int = 96, uv: Rect | None = _WHOLE) -> Mesh:
    """An open cylinder along y."""

    def surface(u: Float, v: Float) -> tuple[Float, Float]:
        out = np.stack([np.sin(2 * np.pi * u), 0 * u, np.cos(2 * np.pi * u)], -1)
        up = np.stack([0 * u, (0.5 - v) * length, 0 * u], -1)
        return radius * out + up, out

    return patch(surface, pieces, 8, uv, "tube")


def box(size: tuple[float, float, float], inwards: bool = False) -> Mesh:
    """A box about the origin, its six sides beside each other in UV, three by two."""
    x, y, z = np.array(size) / 2
    sides = (
        ((-x, -y, z), (2 * x, 0, 0), (0, 2 * y, 0)), ((x, -y, -z), (-2 * x, 0, 0), (0, 2 * y, 0)),
        ((x, -y, z), (0, 0, -2 * z), (0, 2 * y, 0)), ((-x, -y, -z), (0, 0, 2 * z), (0, 2 * y, 0)),
        ((-x, y, z), (2 * x, 0, 0), (0, 0, -2 * z)), ((-x, -y, -z), (2 * x, 0, 0), (0, 0, 2 * z)),
    )  # fmt: skip
    found = []
    for n, (place, along, up) in enumerate(sides):
        uv = (n % 3 / 3 + 0.01, n // 3 / 2 + 0.01, 1 / 3 - 0.02, 1 / 2 - 0.02)
        start, ahead = np.array(place), np.array(along)
        if inwards:
            start, ahead = start + ahead, -ahead
        found.append(wall(start, ahead, np.array(up), uv))
    return join_meshes(found)
