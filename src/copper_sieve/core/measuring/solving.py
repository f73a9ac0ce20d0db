"""Normals, colors and roughness of a surface from pictures under known lights.

Each texel is fitted separately: Lambertian diffuse light, a GGX highlight, and outliers (cast
shadows, highlights beyond the model, interreflection), whose weight approaches zero.

References: R. Woodham, "Photometric method for determining surface orientation from multiple
images", 1980 (basic fit). S. Ikehata, D. Wipf, Y. Matsushita and K. Aizawa, "Robust photometric
stereo using sparse regression", 2012 (outliers). S. Geman and D. McClure, 1987 (weights).
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
from copper_sieve.core.measuring.gauss_newton import TURNS, refine_texels, restart_from_all_sides
from copper_sieve.core.measuring.simd_batch import (
    ALPHA,
    BX,
    BY,
    BZ,
    COST,
    FINE,
    GLINT,
    LANES,
    LENGTH,
    NX,
    NY,
    NZ,
    ROOM,
    SEEN,
    SHINE,
    TRACE,
    TX,
    TY,
    TZ,
    WEIGHT,
    Y,
    at,
    fit_matte,
    fit_with_glints,
    load,
    mirror,
    set_directions,
)

_LEAST_ALPHA = 0.02
_TRIPLES = 96  # that a texel is tried with at most
_OUT = 10  # numbers a texel: normal 3, color 3, error, lights, glint, cost
_STANDS_OUT = np.cos(np.radians(9.0))  # from the median of the normals around it
_ROWS = 16
_AS_WELL = 0.7  # of one light that does not fit


@dataclass(frozen=True, slots=True)
class Solved:
    """Measurement of each texel.

    normal : (H, W, 3) float32 unit vectors, Y+
    color : (H, W, 3) float32, diffuse reflectance, linear
    error : (H, W, 1) float32, standard deviation of the normal in degrees
    lights : (H, W, 1) float32, number of consistent pictures
    glint : (H, W, 1) float32, specular share of the brightest picture
    """

    normal: Float
    color: Float
    error: Float
    lights: Float
    glint: Float


def triples_of(towards: Float) -> tuple[Float, Float]:
    """Return well-conditioned triples of lights with their inverse matrices.

    Parameters
    ----------
    towards : (L, 3) unit vectors

    Returns
    -------
    (T, 3) int64 indices; (T, 3, 3) float32, from brightness to normal times reflectance
    """
    found = []
    for three in combinations(range(len(towards)), 3):
        of = towards[list(three)]
        least = float(np.linalg.svd(of, compute_uv=False)[-1])
        found.append((least, three))
    found.sort(key=lambda one: -one[0])
    good = [three for least, three in found[:_TRIPLES] if least > 0.15] or [found[0][1]]
    inverse = [np.linalg.pinv(towards[list(three)]) for three in good]
    return np.array(good, dtype=np.int64), np.array(inverse, dtype=np.float32)


def solve(light: Float, towards: Float, roughness: Float | None, noise: float = 0.01) -> Solved:
    """Fit normal and reflectance of every texel of a band.

    Parameters
    ----------
    light : (L, H, W, 3) float32, linear, divided by each light's intensity; negative where a
        picture has no value or was clipped
    towards : (L, 3) float32 unit vectors, or (L, H, W, 3) for near lights
    roughness : (H, W) float32; None: no highlights
    noise : standard deviation in linear light

    Returns
    -------
    Solved
    """
    height, width = light.shape[1:3]
    out = np.empty((height, width, _OUT), dtype=np.float32)
    rough = np.full((1, 1), -1, np.float32) if roughness is None else roughness
    far, near = solve_distant_and_near(towards)
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


def solve_distant_and_near(towards: Float) -> tuple[Float, Float]:
    """Return light directions for kernels: (L, 3) from the center, and (L, H, W, 3) or empty."""
    if towards.ndim == 2:
        return np.ascontiguousarray(towards, dtype=np.float32), np.empty((0, 0, 0, 3), np.float32)
    middle = towards[:, towards.shape[1] // 2, towards.shape[2] // 2]
    return np.ascontiguousarray(middle, dtype=np.float32), towards


def by_rows(height: int, work: Callable[[int, int], None]) -> None:
    """Call `work` for all rows, `_ROWS` at a time, on all cores."""
    starts = range(0, height, _ROWS)
    parallel_map(lambda first: work(first, min(height, first + _ROWS)), starts)


def _median(normal: Float) -> Float:
    """Return the component-wise median of the neighborhood, as unit vectors."""
    found = np.stack([cv2.medianBlur(np.ascontiguousarray(normal[..., c]), 5) for c in range(3)],
                     axis=-1)  # fmt: skip
    length = np.linalg.norm(found, axis=-1, keepdims=True)
    return np.asarray(found / np.maximum(length, 1e-6), np.float32)


@njit(cache=True, nogil=True, fastmath=True, error_model="numpy")
def _solve(  # noqa: PLR0917
    light: Any, far: Any, near: Any, roughness: Any, triples: Any, inverse: Any, noise: Any,
    out: Any, first: int, last: int,
) -> None:  # fmt: skip
    """Fit every texel of some rows.

    Texels with highlights, and those that highlights make uncertain, are collected into full
    batches.
    """
    count, width = light.shape[0], light.shape[2]
    rows = np.zeros(ROOM, np.float32)
    set_directions(rows, far)
    columns, fits = np.empty(LANES, np.int64), np.empty((width, 4), np.float32)
    shining, uncertain = np.empty(width, np.int64), np.empty(width, np.int64)
    matte = roughness[0, 0] < 0
    for row in range(first, last):
        shines = doubts = 0
        for start in range(0, width, LANES):
            here = min(LANES, width - start)
            for lane in range(LANES):
                columns[lane] = start + min(lane, here - 1)
            load(rows, light, near, row, columns, count, noise)
            fit_matte(rows, count, triples, inverse)
            if not matte:
                _roughen(rows, roughness, row, columns)
                fit_with_glints(rows, count)
            for lane in range(here):
                shine, length = rows[at(SHINE + lane)], rows[at(LENGTH + lane)]
                if not matte and shine >= np.float32(0.05) * length:
                    shining[shines] = start + lane
                    _note(rows, lane, fits, start + lane)
                    shines += 1
                else:
                    _tell(rows, lane, light, row, start + lane, noise, out)
        for start in range(0, shines, LANES):
            here = _gather(
                rows, light, near, row, columns, shining, start, shines, noise, roughness
            )
            _begin(rows, columns, fits)
            refine_texels(rows, count, TURNS)
            for lane in range(here):
                if rows[at(COST + lane)] > np.float32(FINE) * count:
                    uncertain[doubts] = columns[lane]
                    _note(rows, lane, fits, columns[lane])
                    doubts += 1
                else:
                    _tell(rows, lane, light, row, columns[lane], noise, out)
        for start in range(0, doubts, LANES):
            here = _gather(
                rows, light, near, row, columns, uncertain, start, doubts, noise, roughness
            )
            _begin(rows, columns, fits)
            refine_texels(rows, count, 1)
            restart_from_all_sides(rows, count)
            for lane in range(here):
                _tell(rows, lane, light, row, columns[lane], noise, out)


@njit(cache=True, nogil=True, fastmath=True, error_model="numpy")
def _solve_again(  # noqa: PLR0917
    light: Any, far: Any, near: Any, roughness: Any, around: Any, noise: Any, out: Any,
    first: int, last: int,
) -> None:  # fmt: skip
    """Refit outlying texels from the normal of their neighborhood.

    The result is kept if it fits about as well, because one highlight allows two slopes.
    """
    count, width = light.shape[0], light.shape[2]
    rows = np.zeros(ROOM, np.float32)
    set_directions(rows, far)
    columns, odd = np.empty(LANES, np.int64), np.empty(width, np.int64)
    for row in range(first, last):
        odds = 0
        for column in range(width):
            with_those = np.float32(0)
            for c in range(3):
                with_those += out[row, column, c] * around[row, column, c]
            if with_those <= np.float32(_STANDS_OUT):
                odd[odds] = column
                odds += 1
        for start in range(0, odds, LANES):
            here = _gather(rows, light, near, row, columns, odd, start, odds, noise, roughness)
            for lane in range(LANES):
                nx, ny, nz = around[row, columns[lane]]
                rows[at(NX + lane)], rows[at(NY + lane)], rows[at(NZ + lane)] = nx, ny, nz
            mirror(rows, count)
            for lane in range(LANES):
                nx, ny, nz = around[row, columns[lane]]
                length = np.float32(1e-3)
                for k in range(count):
                    lit = (
                        nx * rows[at(TX + k * LANES + lane)]
                        + ny * rows[at(TY + k * LANES + lane)]
                        + nz * rows[at(TZ + k * LANES + lane)]
                    )
                    if rows[at(SEEN + k * LANES + lane)] > 0 and lit > np.float32(0.2):
                        matte = rows[at(Y + k * LANES + lane)] - rows[at(GLINT + k * LANES + lane)]
                        length = max(length, matte / lit * np.float32(0.6))
                rows[at(LENGTH + lane)] = length
            refine_texels(rows, count, TURNS)
            for lane in range(here):
                if rows[at(COST + lane)] < out[row, columns[lane], 9] + np.float32(_AS_WELL):
                    _tell(rows, lane, light, row, columns[lane], noise, out)


@njit(cache=True, nogil=True, fastmath=True, error_model="numpy")
def _gather(  # noqa: PLR0917
    rows: Any, light: Any, near: Any, row: Any, columns: Any, those: Any, start: Any, count: Any,
    noise: Any, roughness: Any,
) -> Any:  # fmt: skip
    """Load a batch of collected columns; return the number of used lanes."""
    here = min(LANES, count - start)
    for lane in range(LANES):
        columns[lane] = those[start + min(lane, here - 1)]
    load(rows, light, near, row, columns, light.shape[0], noise)
    _roughen(rows, roughness, row, columns)
    return here


@njit(cache=True, nogil=True, fastmath=True, error_model="numpy")
def _roughen(rows: Any, roughness: Any, row: Any, columns: Any) -> None:
    for lane in range(LANES):
        alpha = roughness[row, columns[lane]] * roughness[row, columns[lane]]
        rows[at(ALPHA + lane)] = max(alpha, np.float32(_LEAST_ALPHA))


@njit(cache=True, nogil=True, fastmath=True, error_model="numpy")
def _note(rows: Any, lane: Any, fits: Any, column: Any) -> None:
    for n in range(3):
        fits[column, n] = rows[at(NX + n * LANES + lane)]
    fits[column, 3] = rows[at(LENGTH + lane)]


@njit(cache=True, nogil=True, fastmath=True, error_model="numpy")
def _begin(rows: Any, columns: Any, fits: Any) -> None:
    for lane in range(LANES):
        for n in range(3):
            rows[at(NX + n * LANES + lane)] = fits[columns[lane], n]
        rows[at(LENGTH + lane)] = fits[columns[lane], 3]


@njit(cache=True, nogil=True, fastmath=True, error_model="numpy")
def _tell(  # noqa: PLR0917
    rows: Any, lane: Any, light: Any, row: Any, column: Any, noise: Any, out: Any
) -> None:
    """Write the result of a texel in the order of `Solved`, followed by its cost."""
    place = out[row, column]
    bx, by, bz = rows[at(BX + lane)], rows[at(BY + lane)], rows[at(BZ + lane)]
    place[9] = rows[at(COST + lane)]
    length = np.sqrt(bx * bx + by * by + bz * bz)
    if length < np.float32(1e-6) or bz <= 0:
        place[:9] = 0
        place[2] = 1
        place[6] = 90
        return
    nx, ny, nz = bx / length, by / length, bz / length
    place[0], place[1], place[2] = nx, ny, nz
    agree = squares = shine = whole = np.float32(0)
    red = green = blue = np.float32(0)
    for k in range(light.shape[0]):
        if rows[at(SEEN + k * LANES + lane)] <= 0:
            continue
        bright, mirrored, w = (
            rows[at(Y + k * LANES + lane)],
            rows[at(GLINT + k * LANES + lane)],
            rows[at(WEIGHT + k * LANES + lane)],
        )
        lit = (
            nx * rows[at(TX + k * LANES + lane)]
            + ny * rows[at(TY + k * LANES + lane)]
            + nz * rows[at(TZ + k * LANES + lane)]
        )
        if bright > 0:
            shine = max(shine, mirrored / bright)
        if lit <= 0:
            continue
        left = bright - mirrored - length * lit
        squares += w * left * left
        agree += w
        whole += w * lit * lit
        red += w * lit * (light[k, row, column, 0] - mirrored)
        green += w * lit * (light[k, row, column, 1] - mirrored)
        blue += w * lit * (light[k, row, column, 2] - mirrored)
    over = np.float32(1) / max(whole, np.float32(1e-6))
    place[3] = max(red * over, np.float32(0))
    place[4] = max(green * over, np.float32(0))
    place[5] = max(blue * over, np.float32(0))
    # Of the fit: its own residual, not less than the noise, over what there was to see.
    free = max(agree - np.float32(3), np.float32(0.5))
    sigma = np.sqrt(squares / free + noise * noise / np.float32(3))
    spread = np.sqrt(max(rows[at(TRACE + lane)], np.float32(0)) * np.float32(0.67))
    place[6] = min(np.float32(57.29578) * sigma * spread / length, np.float32(90))
    place[7] = agree
    place[8] = shine
