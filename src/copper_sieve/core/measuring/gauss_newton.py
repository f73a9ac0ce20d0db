"""Gauss–Newton steps in normal and reflectance; highlights move with the normal.

Works on batches of texels as laid out by `simd_batch`.
"""

from __future__ import annotations

from typing import Any

import numpy as np
from numba import njit

from copper_sieve.core.measuring.simd_batch import (
    ACROSS,
    ALPHA,
    BX,
    BY,
    BZ,
    COST,
    F0,
    FINE,
    KEPT,
    LANES,
    LENGTH,
    LIGHT,
    MOVE,
    NO_INVERSE,
    NX,
    NY,
    NZ,
    SEEN,
    SUMS,
    TRACE,
    TX,
    TY,
    TZ,
    WIDTH,
    Y,
    at,
    mirror,
    solve_batch,
    weigh,
)

TURNS = 8
_NO_STEP = np.float32(1e-6)  # square of an angle: 0.06 degrees
_0, _1, _2 = np.float32(0), np.float32(1), np.float32(2)
_HALF, _F0, _TINY = np.float32(0.5), np.float32(F0), np.float32(1e-6)
_FARTHEST = np.float32(0.15)  # radians of a step
_TILT = np.float32(0.35)  # of the sides from which a start is tried


@njit(cache=True, nogil=True, fastmath=True, error_model="numpy")
def refine_texels(rows: Any, count: Any, turns: Any) -> None:
    """Refine N, LENGTH and TRACE by Gauss–Newton steps; update B, WEIGHT and COST."""
    for lane in range(LANES):
        rows[at(TRACE + lane)] = np.float32(NO_INVERSE)
    for _ in range(turns):
        _look_across(rows)
        _sum_up(rows, count)
        if _step(rows) < _NO_STEP:
            break
    _weigh_anew(rows, count)


@njit(cache=True, nogil=True, fastmath=True, error_model="numpy")
def _weigh_anew(rows: Any, count: Any) -> None:
    """Update GLINT, B, WEIGHT and COST from N and LENGTH."""
    mirror(rows, count)
    for lane in range(LANES):
        length = rows[at(LENGTH + lane)]
        rows[at(BX + lane)] = rows[at(NX + lane)] * length
        rows[at(BY + lane)] = rows[at(NY + lane)] * length
        rows[at(BZ + lane)] = rows[at(NZ + lane)] * length
    weigh(rows, count)


@njit(cache=True, nogil=True, fastmath=True, error_model="numpy")
def _look_across(rows: Any) -> None:
    """Set ACROSS to two directions perpendicular to N, and SUMS to 0."""
    for lane in range(LANES):
        nx, ny, nz = rows[at(NX + lane)], rows[at(NY + lane)], rows[at(NZ + lane)]
        flat = _1 - ny * ny
        scale = _1 / np.sqrt(flat if flat > _TINY else _TINY)
        ux, uz = nz * scale, -nx * scale
        (
            rows[at(ACROSS + lane)],
            rows[at(ACROSS + LANES + lane)],
            rows[at(ACROSS + 2 * LANES + lane)],
        ) = ux, _0, uz
        rows[at(ACROSS + 3 * LANES + lane)] = ny * uz
        rows[at(ACROSS + 4 * LANES + lane)] = nz * ux - nx * uz
        rows[at(ACROSS + 5 * LANES + lane)] = -ny * ux
        for n in range(9):
            rows[at(SUMS + n * LANES + lane)] = _0


@njit(cache=True, nogil=True, fastmath=True, error_model="numpy")
def _sum_up(rows: Any, count: Any) -> None:
    """Accumulate the SUMS of the normal equations of a step."""
    for k in range(count):
        for lane in range(LANES):  # to where it is known not to lie in the way of the sums
            rows[at(LIGHT + lane)] = rows[at(Y + k * LANES + lane)]
            rows[at(LIGHT + LANES + lane)] = rows[at(SEEN + k * LANES + lane)]
            rows[at(LIGHT + 2 * LANES + lane)] = rows[at(TX + k * LANES + lane)]
            rows[at(LIGHT + 3 * LANES + lane)] = rows[at(TY + k * LANES + lane)]
            rows[at(LIGHT + 4 * LANES + lane)] = rows[at(TZ + k * LANES + lane)]
        for lane in range(LANES):
            nx, ny, nz = rows[at(NX + lane)], rows[at(NY + lane)], rows[at(NZ + lane)]
            lx, ly = rows[at(LIGHT + 2 * LANES + lane)], rows[at(LIGHT + 3 * LANES + lane)]
            lz = rows[at(LIGHT + 4 * LANES + lane)]
            ux, uz = rows[at(ACROSS + lane)], rows[at(ACROSS + 2 * LANES + lane)]
            vx, vy, vz = (
                rows[at(ACROSS + 3 * LANES + lane)],
                rows[at(ACROSS + 4 * LANES + lane)],
                rows[at(ACROSS + 5 * LANES + lane)],
            )
            length, alpha = rows[at(LENGTH + lane)], rows[at(ALPHA + lane)]
            lit = nx * lx + ny * ly + nz * lz
            lu, lv = ux * lx + uz * lz, vx * lx + vy * ly + vz * lz
            here, by_across, by_lit, by_up = _slopes(nx, ny, nz, lx, ly, lz, alpha)
            hz = np.sqrt(_HALF * (_1 + lz))
            half = _HALF / hz
            au, av = ux * lx * half + uz * hz, (vx * lx + vy * ly) * half + vz * hz
            gu = by_across * au + by_lit * lu + by_up * uz
            gv = by_across * av + by_lit * lv + by_up * vz
            seen = rows[at(LIGHT + LANES + lane)]
            off = rows[at(LIGHT + lane)] - here - length * (lit if lit > _0 else _0)
            wide = rows[at(WIDTH + lane)] + np.float32(0.2) * here
            by = _1 / (wide * wide)
            fits = _1 / (_1 + off * off * by)
            w = seen * fits * fits * by
            w = w if lit > _0 else _0
            ja, jb = length * lu + gu, length * lv + gv
            wa, wb, wc = w * ja, w * jb, w * lit
            rows[at(SUMS + lane)] += wa * ja
            rows[at(SUMS + LANES + lane)] += wa * jb
            rows[at(SUMS + 2 * LANES + lane)] += wa * lit
            rows[at(SUMS + 3 * LANES + lane)] += wb * jb
            rows[at(SUMS + 4 * LANES + lane)] += wb * lit
            rows[at(SUMS + 5 * LANES + lane)] += wc * lit
            rows[at(SUMS + 6 * LANES + lane)] += wa * off
            rows[at(SUMS + 7 * LANES + lane)] += wb * off
            rows[at(SUMS + 8 * LANES + lane)] += wc * off


@njit(cache=True, nogil=True, fastmath=True, error_model="numpy")
def _slopes(  # noqa: PLR0917
    nx: Any, ny: Any, nz: Any, lx: Any, ly: Any, lz: Any, alpha: Any
) -> Any:
    """Return a highlight as `simd_batch.specular_of`, and its derivatives.

    They are by the cosine to the half vector, the cosine to the light, and nz.
    """
    lit = nx * lx + ny * ly + nz * lz
    hz = np.sqrt(_HALF * (_1 + lz))
    half = _HALF / hz
    across = (nx * lx + ny * ly) * half + nz * hz
    a2 = alpha * alpha
    spread = across * across * (a2 - _1) + _1
    slant = (_1 - hz) * (_1 - hz)
    fresnel = _F0 + (_1 - _F0) * slant * slant * (_1 - hz)
    seen_by = np.sqrt(nz * nz * (_1 - a2) + a2)
    lit_by = np.sqrt(lit * lit * (_1 - a2) + a2)
    over = _1 / (lit * seen_by + nz * lit_by + _TINY)
    each = fresnel * a2 / (spread * spread) * _HALF * over  # times lit
    here = each * lit
    by_across = np.float32(-4) * across * (a2 - _1) / spread * here
    by_lit = each - here * over * (seen_by + nz * lit * (_1 - a2) / lit_by)
    by_up = -here * over * (lit_by + lit * nz * (_1 - a2) / seen_by)
    shows = (lit > _0) & (nz > _0)
    return (
        here if shows else _0,
        by_across if shows else _0,
        by_lit if shows else _0,
        by_up if shows else _0,
    )


@njit(cache=True, nogil=True, fastmath=True, error_model="numpy")
def _step(rows: Any) -> Any:
    """Move N, LENGTH and TRACE by the SUMS; return the square of the largest move."""
    more, little = np.float32(1.05), np.float32(1.02)  # so that no step goes too far
    for lane in range(LANES):
        da, db, dc, i, j, _ = solve_batch(
            rows[at(SUMS + lane)] * more,
            rows[at(SUMS + LANES + lane)],
            rows[at(SUMS + 2 * LANES + lane)],
            rows[at(SUMS + 3 * LANES + lane)] * more,
            rows[at(SUMS + 4 * LANES + lane)],
            rows[at(SUMS + 5 * LANES + lane)] * little,
            rows[at(SUMS + 6 * LANES + lane)],
            rows[at(SUMS + 7 * LANES + lane)],
            rows[at(SUMS + 8 * LANES + lane)],
        )
        stuck = i >= np.float32(NO_INVERSE)
        far = np.sqrt(da * da + db * db)
        less = _FARTHEST / far if far > _FARTHEST else _1
        less = _0 if stuck else less
        da, db = da * less, db * less
        nx = (
            rows[at(NX + lane)]
            + da * rows[at(ACROSS + lane)]
            + db * rows[at(ACROSS + 3 * LANES + lane)]
        )
        ny = rows[at(NY + lane)] + db * rows[at(ACROSS + 4 * LANES + lane)]
        nz = (
            rows[at(NZ + lane)]
            + da * rows[at(ACROSS + 2 * LANES + lane)]
            + db * rows[at(ACROSS + 5 * LANES + lane)]
        )
        size = _1 / np.sqrt(nx * nx + ny * ny + nz * nz)
        rows[at(NX + lane)], rows[at(NY + lane)], rows[at(NZ + lane)] = (
            nx * size,
            ny * size,
            nz * size,
        )
        length, width = rows[at(LENGTH + lane)], rows[at(WIDTH + lane)]
        trace = (i + j) * length * length / (width * width)
        rows[at(TRACE + lane)] = i if stuck else trace
        longer = length + (_0 if stuck else dc)
        rows[at(LENGTH + lane)] = longer if longer > np.float32(1e-5) else np.float32(1e-5)
        relative = np.float32(0.3) * dc / length
        rows[at(MOVE + lane)] = da * da + db * db + (_0 if stuck else relative * relative)
    largest = _0
    for lane in range(LANES):
        largest = max(largest, rows[at(MOVE + lane)])
    return largest


@njit(cache=True, nogil=True, fastmath=True, error_model="numpy")
def store_state(rows: Any, better_only: Any) -> None:
    """Copy N, LENGTH, TRACE and COST to KEPT, for all texels or those with lower cost."""
    for lane in range(LANES):
        takes = (not better_only) or rows[at(COST + lane)] < rows[at(KEPT + 5 * LANES + lane)]
        if takes:
            rows[at(KEPT + lane)], rows[at(KEPT + LANES + lane)] = (
                rows[at(NX + lane)],
                rows[at(NY + lane)],
            )
            rows[at(KEPT + 2 * LANES + lane)], rows[at(KEPT + 3 * LANES + lane)] = (
                rows[at(NZ + lane)],
                rows[at(LENGTH + lane)],
            )
            rows[at(KEPT + 4 * LANES + lane)], rows[at(KEPT + 5 * LANES + lane)] = (
                rows[at(TRACE + lane)],
                rows[at(COST + lane)],
            )


@njit(cache=True, nogil=True, fastmath=True, error_model="numpy")
def restore_state(rows: Any, count: Any) -> None:
    """Restore N, LENGTH, TRACE, B, GLINT, WEIGHT and COST from KEPT."""
    for lane in range(LANES):
        rows[at(NX + lane)], rows[at(NY + lane)] = (
            rows[at(KEPT + lane)],
            rows[at(KEPT + LANES + lane)],
        )
        rows[at(NZ + lane)], rows[at(LENGTH + lane)] = (
            rows[at(KEPT + 2 * LANES + lane)],
            rows[at(KEPT + 3 * LANES + lane)],
        )
        rows[at(TRACE + lane)] = rows[at(KEPT + 4 * LANES + lane)]
    _weigh_anew(rows, count)


@njit(cache=True, nogil=True, fastmath=True, error_model="numpy")
def restart_from_all_sides(rows: Any, count: Any) -> None:
    """Restart from several directions, because highlights cause local minima; keep the best."""
    store_state(rows, False)
    fine = np.float32(FINE) * count
    for start in range(5):
        worst = _0
        for lane in range(LANES):
            worst = max(worst, rows[at(KEPT + 5 * LANES + lane)])
        if worst < fine:
            break
        turn = np.float32(np.pi / 2) * np.float32(start)
        tilt = _0 if start == 4 else _TILT
        size = _1 / np.sqrt(_1 + tilt * tilt)
        for lane in range(LANES):
            rows[at(NX + lane)], rows[at(NY + lane)] = (
                np.cos(turn) * tilt * size,
                np.sin(turn) * tilt * size,
            )
            rows[at(NZ + lane)], rows[at(LENGTH + lane)] = size, rows[at(KEPT + 3 * LANES + lane)]
        refine_texels(rows, count, TURNS)
        for lane in range(LANES):  # slope below which a texel isn't refined
            if rows[at(KEPT + 5 * LANES + lane)] < fine:
                rows[at(COST + lane)] = np.float32(1e30)
        store_state(rows, True)
    restore_state(rows, count)
