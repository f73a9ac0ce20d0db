"""Normals, colors and roughness of a surface out of pictures under known lights.

Each texel is fitted for itself: what scatters by Lambert's law, a GGX glint on it, and outliers
(cast shadows, glints beyond the model, interreflection), whose weight goes to nothing.

References: R. Woodham, "Photometric method for determining surface orientation from multiple
images", 1980 (the plain fit). S. Ikehata, D. Wipf, Y. Matsushita and K. Aizawa, "Robust photometric
stereo using sparse regression", 2012 (outliers). S. Geman and D. McClure, 1987 (the weights).
"""

from __future__ import annotations

from collections.abc import Callable
from dataclasses import dataclass
from functools import partial
from itertools import combinations
from typing import Any

import cv2
import numpy as np
from numba import njit

from copper_sieve.core.image.parallel import parallel_map
from copper_sieve.core.image.raster import Float
from copper_sieve.core.measuring.texel import (
    TURNS,
    fit_texel,
    glint_of,
    is_seen,
    polish,
    room_for,
    width_of_fit,
)

_LEAST_ALPHA = 0.02
_TRIPLES = 96  # that a texel is tried with at most
_OUT = 10  # numbers a texel: normal 3, color 3, error, lights, glint, cost
_STANDS_OUT = np.cos(np.radians(9.0))  # from the median of the normals around it
_ROWS = 16
_AS_WELL = 0.7  # of one light that does not fit


@dataclass(frozen=True, slots=True)
class Solved:
    """What is known of each texel.

    normal : (H, W, 3) float32 unit vectors, Y up
    color : (H, W, 3) float32, what scatters, linear light
    error : (H, W, 1) float32, degrees by which the normal may be off (one sigma)
    lights : (H, W, 1) float32, how many pictures agree
    glint : (H, W, 1) float32, how much of the brightest picture was mirrored
    """

    normal: Float
    color: Float
    error: Float
    lights: Float
    glint: Float


def triples_of(towards: Float) -> tuple[Float, Float]:
    """Threes of lights that a normal can be told from well, and what solves each.

    towards : (L, 3) unit vectors
    Returns (T, 3) int64 and (T, 3, 3) float32: brightnesses to a normal times its reflectance.
    """
    found = []
    for three in combinations(range(len(towards)), 3):
        of = towards[list(three)]
        least = float(np.linalg.svd(of, compute_uv=False)[-1])
        found.append((least, three))
    found.sort(key=lambda one: -one[0])
    good = [three for least, three in found[:_TRIPLES] if least > 0.15] or [found[0][1]]
    inverse = [np.linalg.inv(towards[list(three)]) for three in good]
    return np.array(good, dtype=np.int64), np.array(inverse, dtype=np.float32)


def solve(light: Float, towards: Float, roughness: Float | None, noise: float = 0.01) -> Solved:
    """Fit every texel of a band.

    light : (L, H, W, 3) float32, linear, divided by each lamp's strength; negative where
        the picture has none or was clipped
    towards : (L, 3) float32 unit vectors, or (L, H, W, 3) for lamps nearby
    roughness : (H, W) float32 for glints, None: taken as matte
    noise : of the light, one sigma
    """
    height, width = light.shape[1:3]
    out = np.empty((height, width, _OUT), dtype=np.float32)
    rough = np.full((1, 1), -1, np.float32) if roughness is None else roughness
    far, near = far_and_near(towards)
    triples, inverse = triples_of(far.astype(np.float64))
    sigma = np.float32(noise)
    by_rows(height, partial(_solve, light, far, near, rough, triples, inverse, sigma, out))
    if roughness is not None:
        for _ in range(2):
            again = partial(
                _solve_again, light, far, near, rough, _median(out[..., :3]), sigma, out
            )
            by_rows(height, again)
    return Solved(
        *(np.ascontiguousarray(out[..., part])
          for part in (slice(0, 3), slice(3, 6), *(slice(n, n + 1) for n in range(6, _OUT - 1))))
    )  # fmt: skip


def far_and_near(towards: Float) -> tuple[Float, Float]:
    """Where light comes from for kernels: in the middle (L, 3), and (L, H, W, 3) or none."""
    if towards.ndim == 2:
        return np.ascontiguousarray(towards, dtype=np.float32), np.empty((0, 0, 0, 3), np.float32)
    middle = towards[:, towards.shape[1] // 2, towards.shape[2] // 2]
    return np.ascontiguousarray(middle, dtype=np.float32), towards


def by_rows(height: int, work: Callable[[int, int], None]) -> None:
    """Do the work of all rows, `_ROWS` at a time, on all cores."""
    starts = range(0, height, _ROWS)
    parallel_map(lambda first: work(first, min(height, first + _ROWS)), starts)


def _median(normal: Float) -> Float:
    """Unit vectors: the median of those around each texel, component by component."""
    found = np.stack([cv2.medianBlur(np.ascontiguousarray(normal[..., c]), 5) for c in range(3)],
                     axis=-1)  # fmt: skip
    length = np.linalg.norm(found, axis=-1, keepdims=True)
    return np.asarray(found / np.maximum(length, 1e-6), np.float32)


@njit(cache=True, nogil=True, fastmath=True)
def read_texel(  # noqa: PLR0917
    light: Any, near: Any, row: Any, column: Any, count: Any, y: Any, valid: Any, towards: Any,
) -> None:  # fmt: skip
    """Brightnesses of a texel, which of them count, and where its light came from."""
    if near.shape[0]:
        for k in range(count):
            for c in range(3):
                towards[k, c] = near[k, row, column, c]
    for k in range(count):
        r, g, b = light[k, row, column]
        y[k] = (r + g + b) / 3
        valid[k] = is_seen(r, g, b)


@njit(cache=True, nogil=True, fastmath=True)
def _solve(  # noqa: PLR0917
    light: Any, far: Any, near: Any, roughness: Any, triples: Any, inverse: Any, noise: Any,
    out: Any, first: int, last: int,
) -> None:  # fmt: skip
    count, width = light.shape[0], light.shape[2]
    for row in range(first, last):
        y, valid, weight, mirrored = room_for(count)
        towards = far.copy()
        for column in range(width):
            read_texel(light, near, row, column, count, y, valid, towards)
            alpha = np.float32(-1)
            if roughness[0, 0] >= 0:
                alpha = max(roughness[row, column] ** 2, np.float32(_LEAST_ALPHA))
            bx, by, bz, trace, cost = fit_texel(
                y, towards, valid, mirrored, weight, count, triples, inverse, alpha, noise
            )
            _tell(light[:, row, column], y, mirrored, towards, valid, weight, count,
                  bx, by, bz, trace, noise, cost, out[row, column])  # fmt: skip


@njit(cache=True, nogil=True, fastmath=True)
def _solve_again(  # noqa: PLR0917
    light: Any, far: Any, near: Any, roughness: Any, around: Any, noise: Any, out: Any,
    first: int, last: int,
) -> None:  # fmt: skip
    """Texels that stand out are tried from the normal of those around them, which is kept where it
    fits about as well: a glint alone does not tell two slopes apart."""
    count, width = light.shape[0], light.shape[2]
    for row in range(first, last):
        y, valid, weight, mirrored = room_for(count)
        towards = far.copy()
        for column in range(width):
            place = out[row, column]
            nx, ny, nz = around[row, column]
            if place[0] * nx + place[1] * ny + place[2] * nz > np.float32(_STANDS_OUT):
                continue
            read_texel(light, near, row, column, count, y, valid, towards)
            alpha = max(roughness[row, column] ** 2, np.float32(_LEAST_ALPHA))
            length = np.float32(0)
            for k in range(count):
                lit = nx * towards[k, 0] + ny * towards[k, 1] + nz * towards[k, 2]
                if valid[k] > 0 and lit > np.float32(0.2):
                    shine = glint_of(nx, ny, nz, towards[k, 0], towards[k, 1], towards[k, 2], alpha)
                    length = max(length, (y[k] - shine) / lit * np.float32(0.6))
            width_of = width_of_fit(y, valid, count, noise)
            nx, ny, nz, length, trace, cost = polish(
                y, mirrored, towards, valid, weight, count,
                nx, ny, nz, max(length, np.float32(1e-3)), alpha, width_of, TURNS
            )  # fmt: skip
            if cost < place[9] + np.float32(_AS_WELL):
                _tell(light[:, row, column], y, mirrored, towards, valid, weight, count,
                      nx * length, ny * length, nz * length, trace, noise, cost, place)  # fmt: skip


@njit(cache=True, nogil=True, fastmath=True)
def _tell(  # noqa: PLR0917
    light: Any, y: Any, mirrored: Any, towards: Any, valid: Any, weight: Any, count: Any,
    bx: Any, by: Any, bz: Any, trace: Any, noise: Any, cost: Any, place: Any,
) -> None:  # fmt: skip
    """What is known of a texel by its fit, in the order of `Solved`, and the cost behind it."""
    place[9] = cost
    length = np.sqrt(bx * bx + by * by + bz * bz)
    if length < np.float32(1e-6) or bz <= 0:
        place[:9] = 0
        place[2] = 1
        place[6] = 90
        return
    nx, ny, nz = bx / length, by / length, bz / length
    place[0], place[1], place[2] = nx, ny, nz
    agree = squares = shine = whole = np.float32(0)
    place[3:6] = 0
    for k in range(count):
        if valid[k] <= 0:
            continue
        lit = nx * towards[k, 0] + ny * towards[k, 1] + nz * towards[k, 2]
        if y[k] > 0:
            shine = max(shine, mirrored[k] / y[k])
        if lit <= 0:
            continue
        w = weight[k]
        left = y[k] - mirrored[k] - length * lit
        squares += w * left * left
        agree += w
        whole += w * lit * lit
        for c in range(3):
            place[3 + c] += w * lit * (light[k, c] - mirrored[k])
    for c in range(3):
        place[3 + c] = max(place[3 + c] / max(whole, np.float32(1e-6)), np.float32(0))
    # Of the fit: its own residual, not less than the noise, over what there was to see.
    free = max(agree - 3, np.float32(0.5))
    sigma = np.sqrt(squares / free + noise * noise / 3)
    spread = np.sqrt(max(trace, np.float32(0)) * np.float32(0.67))
    place[6] = min(np.degrees(sigma * spread / length), np.float32(90))
    place[7] = agree
    place[8] = shine
