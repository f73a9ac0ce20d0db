"""Sixteen texels under several lights, processed side by side: diffuse light and outliers.

Outliers (cast shadows, highlights beyond the model, interreflection) lose their weight (S. Geman
and D. McClure, 1987). All numbers of a batch are in one flat array of `ROOM` float32, a row of
`LANES` for each number of a texel, so that each step is a loop that a processor vectorizes. Names
in capitals state where their row begins, those of lights where the first of `MOST` does. Functions
change rows in place and state which ones. See also `gauss_newton`.
"""

from __future__ import annotations

from typing import Any

import numpy as np
from numba import njit

from copper_sieve.core.measuring.light_directions import MOST

LANES = 16
at = np.uintp  # an index that is never negative: loops over lanes are simple then

# Rows with one for each light: brightness, 1 where it is seen, weight, its glint, direction.
Y, SEEN, WEIGHT, GLINT, TX, TY, TZ = (n * MOST * LANES for n in range(7))
_FIRST = 7 * MOST * LANES
# Per texel: normal times reflectance, trace of its inverse, cost, tolerance of a picture.
BX, BY, BZ, TRACE, COST, WIDTH, ALPHA = (_FIRST + n * LANES for n in range(7))
NX, NY, NZ, LENGTH, SHINE = (_FIRST + n * LANES for n in range(7, 12))
SUMS = _FIRST + 12 * LANES  # nine sums of a step
TRIED = SUMS + 9 * LANES  # six of a try: cost, normal times reflectance, best cost, 1 / WIDTH
KEPT = TRIED + 6 * LANES  # six values of the best fit: normal, length, trace, cost
ACROSS = KEPT + 6 * LANES  # six: two directions across the normal
LIGHT = ACROSS + 6 * LANES  # five of the light that is looked at: Y, SEEN, TX, TY, TZ
MOVE = LIGHT + 5 * LANES
ROOM = MOVE + LANES

F0 = 0.04  # what mirrors head on where the surface is no metal
NO_INVERSE = 1e3
FINE = 0.3  # of all lights: a fit as good as that is looked for no further

_0, _1, _2 = (np.float32(n) for n in range(3))
_HALF, _LEAST = np.float32(0.5), np.float32(1e-4)
_F0, _TINY = np.float32(F0), np.float32(1e-6)


@njit(cache=True, nogil=True, fastmath=True, error_model="numpy")
def solve_batch(  # noqa: PLR0917
    aa: Any, ab: Any, ac: Any, bb: Any, bc: Any, cc: Any, ra: Any, rb: Any, rc: Any
) -> Any:
    """Solve symmetric systems of three equations; return the diagonals of the inverses, too.

    The diagonal is very large for singular systems.
    """
    c00 = bb * cc - bc * bc
    c01 = ac * bc - ab * cc
    c02 = ab * bc - ac * bb
    det = aa * c00 + ab * c01 + ac * c02
    there = det > _0
    by = _1 / (det if there else _1)
    c11 = aa * cc - ac * ac
    c12 = ab * ac - aa * bc
    c22 = aa * bb - ab * ab
    none = np.float32(NO_INVERSE)
    return (
        (c00 * ra + c01 * rb + c02 * rc) * by if there else _0,
        (c01 * ra + c11 * rb + c12 * rc) * by if there else _0,
        (c02 * ra + c12 * rb + c22 * rc) * by if there else _0,
        c00 * by if there else none,
        c11 * by if there else none,
        c22 * by if there else _0,
    )


@njit(cache=True, nogil=True, fastmath=True, error_model="numpy")
def specular_of(  # noqa: PLR0917
    nx: Any, ny: Any, nz: Any, lx: Any, ly: Any, lz: Any, alpha: Any
) -> Any:
    """Return the highlight of a white light of intensity 1 on a surface seen from above, times pi.

    GGX with height-correlated Smith shadowing and Schlick's Fresnel (glTF 2.0, appendix B).
    """
    lit = nx * lx + ny * ly + nz * lz
    hz = np.sqrt(_HALF * (_1 + lz))  # of the half vector, which lies between
    scale = _HALF / hz
    across = (nx * lx + ny * ly) * scale + nz * hz
    a2 = alpha * alpha
    spread = across * across * (a2 - _1) + _1
    slant = (_1 - hz) * (_1 - hz)
    fresnel = _F0 + (_1 - _F0) * slant * slant * (_1 - hz)
    shadow = lit * np.sqrt(nz * nz * (_1 - a2) + a2) + nz * np.sqrt(lit * lit * (_1 - a2) + a2)
    found = fresnel * a2 / (spread * spread) * _HALF / (shadow + _TINY) * lit
    return found if (lit > _0) & (nz > _0) else _0


@njit(cache=True, nogil=True, fastmath=True, error_model="numpy")
def load(  # noqa: PLR0917
    rows: Any, light: Any, near: Any, row: Any, columns: Any, count: Any, noise: Any
) -> None:
    """Load Y, SEEN and WIDTH of some texels of a row, and T for near lights.

    Parameters
    ----------
    rows : the batch; modified
    light : (L, H, W, 3)
    near : (L, H, W, 3), or an empty array
    row, columns, count : texels; columns is (LANES,)
    noise : standard deviation in linear light
    """
    third = np.float32(1 / 3)
    for lane in range(LANES):
        rows[at(WIDTH + lane)] = _0
    for k in range(count):
        for lane in range(LANES):
            column = columns[lane]
            r, g, b = light[k, row, column, 0], light[k, row, column, 1], light[k, row, column, 2]
            rows[at(Y + k * LANES + lane)] = (r + g + b) * third
            rows[at(SEEN + k * LANES + lane)] = _1 if (r >= _0) & (g >= _0) & (b >= _0) else _0
        for lane in range(LANES):
            bright = rows[at(Y + k * LANES + lane)] * rows[at(SEEN + k * LANES + lane)]
            rows[at(WIDTH + lane)] = (
                bright if bright > rows[at(WIDTH + lane)] else rows[at(WIDTH + lane)]
            )
    for lane in range(LANES):
        rows[at(WIDTH + lane)] = _2 * (noise + np.float32(0.02) * rows[at(WIDTH + lane)])
    if near.shape[0]:
        for k in range(count):
            for lane in range(LANES):
                rows[at(TX + k * LANES + lane)] = near[k, row, columns[lane], 0]
                rows[at(TY + k * LANES + lane)] = near[k, row, columns[lane], 1]
                rows[at(TZ + k * LANES + lane)] = near[k, row, columns[lane], 2]


@njit(cache=True, nogil=True, fastmath=True, error_model="numpy")
def set_directions(rows: Any, far: Any) -> None:
    """Set T of distant lights, (L, 3)."""
    for k in range(far.shape[0]):
        for lane in range(LANES):
            (
                rows[at(TX + k * LANES + lane)],
                rows[at(TY + k * LANES + lane)],
                rows[at(TZ + k * LANES + lane)],
            ) = far[k]


@njit(cache=True, nogil=True, fastmath=True, error_model="numpy")
def _fit(rows: Any, count: Any) -> None:
    """Fit the diffuse part by weighted least squares; return B and the trace of the inverse."""
    for n in range(9):
        for lane in range(LANES):
            rows[at(SUMS + n * LANES + lane)] = _0
    for k in range(count):
        for lane in range(LANES):
            w = rows[at(WEIGHT + k * LANES + lane)]
            a, b, c = (
                rows[at(TX + k * LANES + lane)],
                rows[at(TY + k * LANES + lane)],
                rows[at(TZ + k * LANES + lane)],
            )
            left = rows[at(Y + k * LANES + lane)] - rows[at(GLINT + k * LANES + lane)]
            wa, wb, wc = w * a, w * b, w * c
            rows[at(SUMS + lane)] += wa * a
            rows[at(SUMS + LANES + lane)] += wa * b
            rows[at(SUMS + 2 * LANES + lane)] += wa * c
            rows[at(SUMS + 3 * LANES + lane)] += wb * b
            rows[at(SUMS + 4 * LANES + lane)] += wb * c
            rows[at(SUMS + 5 * LANES + lane)] += wc * c
            rows[at(SUMS + 6 * LANES + lane)] += wa * left
            rows[at(SUMS + 7 * LANES + lane)] += wb * left
            rows[at(SUMS + 8 * LANES + lane)] += wc * left
    for lane in range(LANES):  # a bit on the diagonal, so that it can always be solved
        x, y, z, i, j, k_ = solve_batch(
            rows[at(SUMS + lane)] + _LEAST,
            rows[at(SUMS + LANES + lane)],
            rows[at(SUMS + 2 * LANES + lane)],
            rows[at(SUMS + 3 * LANES + lane)] + _LEAST,
            rows[at(SUMS + 4 * LANES + lane)],
            rows[at(SUMS + 5 * LANES + lane)] + _LEAST,
            rows[at(SUMS + 6 * LANES + lane)],
            rows[at(SUMS + 7 * LANES + lane)],
            rows[at(SUMS + 8 * LANES + lane)],
        )
        rows[at(BX + lane)], rows[at(BY + lane)], rows[at(BZ + lane)] = x, y, z
        rows[at(TRACE + lane)] = i + j + k_


@njit(cache=True, nogil=True, fastmath=True, error_model="numpy")
def most(bright: Any, fitted: Any, width: Any) -> Any:
    """Return the largest cost of a light that doesn't fit.

    It is small where the texel is as dark as in a cast shadow, because an occluder is no evidence
    about the normal.
    """
    dark = (bright < np.float32(2.5) * width) & (fitted > bright)
    return np.float32(1.2) if dark else np.float32(4)


@njit(cache=True, nogil=True, fastmath=True, error_model="numpy")
def weigh(rows: Any, count: Any) -> None:
    """Set WEIGHT from the residuals after B and highlights, and COST, their truncated sum."""
    for lane in range(LANES):
        rows[at(COST + lane)] = _0
    for k in range(count):
        for lane in range(LANES):
            bright, shine, width = (
                rows[at(Y + k * LANES + lane)],
                rows[at(GLINT + k * LANES + lane)],
                rows[at(WIDTH + lane)],
            )
            fitted = (
                rows[at(BX + lane)] * rows[at(TX + k * LANES + lane)]
                + rows[at(BY + lane)] * rows[at(TY + k * LANES + lane)]
                + rows[at(BZ + lane)] * rows[at(TZ + k * LANES + lane)]
            )
            lit = fitted if fitted > _0 else _0
            left = (bright - shine - lit) / (width + np.float32(0.2) * shine)
            square = left * left
            at_most = most(bright, fitted, width)
            rows[at(COST + lane)] += rows[at(SEEN + k * LANES + lane)] * (
                square if square < at_most else at_most
            )
            weight = _1 / ((_1 + square) * (_1 + square))
            rows[at(WEIGHT + k * LANES + lane)] = (
                rows[at(SEEN + k * LANES + lane)] * weight if fitted > _0 else _0
            )


@njit(cache=True, nogil=True, fastmath=True, error_model="numpy")
def _try_threes(rows: Any, count: Any, triples: Any, inverse: Any) -> None:
    """Set B from the three lights that most others agree with, if that has a lower cost."""
    for lane in range(LANES):
        rows[at(TRIED + 4 * LANES + lane)] = rows[at(COST + lane)]
        rows[at(TRIED + 5 * LANES + lane)] = _1 / rows[at(WIDTH + lane)]
    for t in range(triples.shape[0]):
        i, j, k = triples[t, 0], triples[t, 1], triples[t, 2]
        aa, ab, ac = inverse[t, 0, 0], inverse[t, 0, 1], inverse[t, 0, 2]
        ba, bb, bc = inverse[t, 1, 0], inverse[t, 1, 1], inverse[t, 1, 2]
        ca, cb, cc = inverse[t, 2, 0], inverse[t, 2, 1], inverse[t, 2, 2]
        for lane in range(LANES):
            p, q, r = (
                rows[at(Y + i * LANES + lane)],
                rows[at(Y + j * LANES + lane)],
                rows[at(Y + k * LANES + lane)],
            )
            seen = (
                rows[at(SEEN + i * LANES + lane)]
                * rows[at(SEEN + j * LANES + lane)]
                * rows[at(SEEN + k * LANES + lane)]
            )
            up = ca * p + cb * q + cc * r
            rows[at(TRIED + LANES + lane)] = aa * p + ab * q + ac * r
            rows[at(TRIED + 2 * LANES + lane)] = ba * p + bb * q + bc * r
            rows[at(TRIED + 3 * LANES + lane)] = up
            rows[at(TRIED + lane)] = _0 if (seen > _0) & (up > _0) else np.float32(1e30)
        for n in range(count):
            for lane in range(LANES):
                bright, width = rows[at(Y + n * LANES + lane)], rows[at(WIDTH + lane)]
                fitted = (
                    rows[at(TRIED + LANES + lane)] * rows[at(TX + n * LANES + lane)]
                    + rows[at(TRIED + 2 * LANES + lane)] * rows[at(TY + n * LANES + lane)]
                    + rows[at(TRIED + 3 * LANES + lane)] * rows[at(TZ + n * LANES + lane)]
                )
                lit = fitted if fitted > _0 else _0
                left = (bright - lit) * rows[at(TRIED + 5 * LANES + lane)]
                square, at_most = left * left, most(bright, fitted, width)
                cost = square if square < at_most else at_most
                rows[at(TRIED + lane)] += rows[at(SEEN + n * LANES + lane)] * cost
        for lane in range(LANES):
            cost, least = rows[at(TRIED + lane)], rows[at(TRIED + 4 * LANES + lane)]
            x, y, z = (
                rows[at(TRIED + LANES + lane)],
                rows[at(TRIED + 2 * LANES + lane)],
                rows[at(TRIED + 3 * LANES + lane)],
            )
            bx, by, bz = rows[at(BX + lane)], rows[at(BY + lane)], rows[at(BZ + lane)]
            better = cost < least
            rows[at(TRIED + 4 * LANES + lane)] = cost if better else least
            rows[at(BX + lane)] = x if better else bx
            rows[at(BY + lane)] = y if better else by
            rows[at(BZ + lane)] = z if better else bz


@njit(cache=True, nogil=True, fastmath=True, error_model="numpy")
def mirror(rows: Any, count: Any) -> None:
    """Set GLINT of every light from N and ALPHA, and SHINE, the largest of them."""
    for lane in range(LANES):
        rows[at(SHINE + lane)] = _0
    for k in range(count):
        for lane in range(LANES):
            found = specular_of(
                rows[at(NX + lane)],
                rows[at(NY + lane)],
                rows[at(NZ + lane)],
                rows[at(TX + k * LANES + lane)],
                rows[at(TY + k * LANES + lane)],
                rows[at(TZ + k * LANES + lane)],
                rows[at(ALPHA + lane)],
            )
            rows[at(GLINT + k * LANES + lane)] = found
            rows[at(SHINE + lane)] = (
                found if found > rows[at(SHINE + lane)] else rows[at(SHINE + lane)]
            )


@njit(cache=True, nogil=True, fastmath=True, error_model="numpy")
def separate_lobes(rows: Any) -> None:
    """Set N and LENGTH from B."""
    for lane in range(LANES):
        x, y, z = rows[at(BX + lane)], rows[at(BY + lane)], rows[at(BZ + lane)]
        length = np.sqrt(x * x + y * y + z * z) + _TINY
        rows[at(NX + lane)], rows[at(NY + lane)], rows[at(NZ + lane)] = (
            x / length,
            y / length,
            z / length,
        )
        rows[at(LENGTH + lane)] = length


@njit(cache=True, nogil=True, fastmath=True, error_model="numpy")
def fit_matte(rows: Any, count: Any, triples: Any, inverse: Any) -> None:
    """Set B, TRACE, WEIGHT and COST for a surface without highlights."""
    for k in range(count):
        for lane in range(LANES):
            rows[at(GLINT + k * LANES + lane)] = _0
            rows[at(WEIGHT + k * LANES + lane)] = rows[at(SEEN + k * LANES + lane)]
    _fit(rows, count)
    weigh(rows, count)
    worst = _0
    for lane in range(LANES):
        worst = max(worst, rows[at(COST + lane)])
    if worst > np.float32(FINE) * count:
        _try_threes(rows, count, triples, inverse)
        weigh(rows, count)
    for _ in range(3):
        _fit(rows, count)
        weigh(rows, count)


@njit(cache=True, nogil=True, fastmath=True, error_model="numpy")
def fit_with_glints(rows: Any, count: Any) -> None:
    """Set B, TRACE, WEIGHT and COST with predicted highlights of roughness ALPHA subtracted."""
    for _ in range(2):
        separate_lobes(rows)
        mirror(rows, count)
        weigh(rows, count)
        _fit(rows, count)
    separate_lobes(rows)
    mirror(rows, count)
    weigh(rows, count)
