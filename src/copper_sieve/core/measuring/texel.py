"""One texel under several lights: Lambert's law, a GGX glint on it, and outliers.

Outliers (cast shadows, glints beyond the model, interreflection) lose their weight (S. Geman and
D. McClure, 1987); steps are those of Gauss and Newton in the normal and the reflectance.
"""

from __future__ import annotations

from typing import Any

import numpy as np
from numba import njit

_F0 = 0.04  # what mirrors head on where the surface is no metal
TURNS = 8  # of Gauss and Newton
_NO_INVERSE = 1e3
_FINE = 0.3  # of all lights: a fit as good as that is looked for no further


@njit(cache=True, nogil=True, fastmath=True)
def is_seen(r: Any, g: Any, b: Any) -> Any:
    """1 where a picture says something: it is there, and was not clipped."""
    return np.float32(1) if r >= 0 and g >= 0 and b >= 0 else np.float32(0)


@njit(cache=True, nogil=True, fastmath=True)
def glint_of(  # noqa: PLR0917
    nx: Any, ny: Any, nz: Any, lx: Any, ly: Any, lz: Any, alpha: Any
) -> Any:
    """What a white lamp of strength 1 shows of itself on a surface seen from straight above.

    Times pi: GGX with height-correlated Smith shadowing and Schlick's Fresnel (glTF 2.0, B).
    """
    lit = nx * lx + ny * ly + nz * lz
    if lit <= 0 or nz <= 0:
        return 0.0
    hz = np.sqrt(np.float32(0.5) * (1 + lz))  # of the half vector, which lies between
    scale = np.float32(0.5) / hz
    across = (nx * lx + ny * ly) * scale + nz * hz
    a2 = alpha * alpha
    spread = across * across * (a2 - 1) + 1
    slant = (1 - hz) ** 2
    fresnel = np.float32(_F0) + np.float32(1 - _F0) * slant * slant * (1 - hz)
    shadow = lit * np.sqrt(nz * nz * (1 - a2) + a2) + nz * np.sqrt(lit * lit * (1 - a2) + a2)
    return fresnel * a2 / (spread * spread) * np.float32(0.5) / (shadow + np.float32(1e-6)) * lit


@njit(cache=True, nogil=True, fastmath=True)
def _normal_equations(
    y: Any, towards: Any, weight: Any, count: Any,
) -> Any:  # fmt: skip
    xx = xy = xz = yy = yz = zz = bx = by = bz = np.float32(0)
    for k in range(count):
        w = weight[k]
        if w <= 0:
            continue
        a, b, c = towards[k, 0], towards[k, 1], towards[k, 2]
        xx += w * a * a
        xy += w * a * b
        xz += w * a * c
        yy += w * b * b
        yz += w * b * c
        zz += w * c * c
        bx += w * a * y[k]
        by += w * b * y[k]
        bz += w * c * y[k]
    return xx, xy, xz, yy, yz, zz, bx, by, bz


@njit(cache=True, nogil=True, fastmath=True)
def _solved(  # noqa: PLR0917
    aa: Any, ab: Any, ac: Any, bb: Any, bc: Any, cc: Any, ra: Any, rb: Any, rc: Any
) -> Any:
    """Solve three symmetric equations; also the inverse's diagonal, huge where there is none."""
    c00 = bb * cc - bc * bc
    c01 = ac * bc - ab * cc
    c02 = ab * bc - ac * bb
    det = aa * c00 + ab * c01 + ac * c02
    none = np.float32(0)
    if not det > 0:
        return none, none, none, np.float32(_NO_INVERSE), np.float32(_NO_INVERSE), none
    c11 = aa * cc - ac * ac
    c12 = ab * ac - aa * bc
    c22 = aa * bb - ab * ab
    return (
        (c00 * ra + c01 * rb + c02 * rc) / det,
        (c01 * ra + c11 * rb + c12 * rc) / det,
        (c02 * ra + c12 * rb + c22 * rc) / det,
        c00 / det,
        c11 / det,
        c22 / det,
    )


@njit(cache=True, nogil=True, fastmath=True)
def _fit(
    y: Any, towards: Any, weight: Any, count: Any,
) -> Any:  # fmt: skip
    """Weighted least squares: normal times reflectance, and the trace of the inverse across."""
    xx, xy, xz, yy, yz, zz, bx, by, bz = _normal_equations(y, towards, weight, count)
    least = np.float32(1e-4)  # so that it can always be solved
    x, y_, z, i, j, k = _solved(xx + least, xy, xz, yy + least, yz, zz + least, bx, by, bz)
    return x, y_, z, i + j + k


@njit(cache=True, nogil=True, fastmath=True)
def _most(bright: Any, fitted: Any, width: Any) -> Any:
    """What a light costs at most that does not fit: little where it is as dark as in a cast shadow,
    since whatever stands in its way is no reason to turn the surface away from it."""
    dark = bright < np.float32(2.5) * width and fitted > bright
    return np.float32(1.2) if dark else np.float32(4)


@njit(cache=True, nogil=True, fastmath=True)
def _weigh(  # noqa: PLR0917
    y: Any, mirrored: Any, towards: Any, valid: Any, weight: Any, count: Any, bx: Any, by: Any,
    bz: Any, width: Any,
) -> Any:  # fmt: skip
    """New weights by what the fit leaves over; returns the truncated sum of it."""
    cost = np.float32(0)
    for k in range(count):
        weight[k] = 0
        if valid[k] <= 0:
            continue
        fitted = bx * towards[k, 0] + by * towards[k, 1] + bz * towards[k, 2]
        wide = width + np.float32(0.2) * mirrored[k]
        left = (y[k] - mirrored[k] - max(fitted, np.float32(0))) / wide
        square = left * left
        cost += min(square, _most(y[k], fitted, width))
        if fitted > 0:
            weight[k] = 1 / ((1 + square) * (1 + square))
    return cost


@njit(cache=True, nogil=True, fastmath=True)
def _start(  # noqa: PLR0917
    y: Any, towards: Any, valid: Any, count: Any, triples: Any, inverse: Any, width: Any,
) -> Any:  # fmt: skip
    """The three lights that most others agree with."""
    best = np.float32(1e30)
    fx = fy = fz = np.float32(0)
    for t in range(triples.shape[0]):
        i, j, k = triples[t, 0], triples[t, 1], triples[t, 2]
        if valid[i] <= 0 or valid[j] <= 0 or valid[k] <= 0:
            continue
        p, q, r = y[i], y[j], y[k]
        bx = inverse[t, 0, 0] * p + inverse[t, 0, 1] * q + inverse[t, 0, 2] * r
        by = inverse[t, 1, 0] * p + inverse[t, 1, 1] * q + inverse[t, 1, 2] * r
        bz = inverse[t, 2, 0] * p + inverse[t, 2, 1] * q + inverse[t, 2, 2] * r
        if bz <= 0:
            continue
        cost = np.float32(0)
        for n in range(count):
            if valid[n] > 0:
                fitted = bx * towards[n, 0] + by * towards[n, 1] + bz * towards[n, 2]
                left = (y[n] - max(fitted, np.float32(0))) / width
                cost += min(left * left, _most(y[n], fitted, width))
        if cost < best:
            best, fx, fy, fz = cost, bx, by, bz
    return fx, fy, fz, best


@njit(cache=True, nogil=True, fastmath=True)
def width_of_fit(y: Any, valid: Any, count: Any, noise: Any) -> Any:
    """What a picture may be off before it counts for less."""
    top = np.float32(0)
    for k in range(count):
        top = max(top, y[k] * valid[k])
    return 2 * (noise + np.float32(0.02) * top)


@njit(cache=True, nogil=True, fastmath=True)
def fit_texel(  # noqa: PLR0917
    y: Any, towards: Any, valid: Any, mirrored: Any, weight: Any, count: Any, triples: Any,
    inverse: Any, alpha: Any, noise: Any,
) -> Any:  # fmt: skip
    """One texel: normal times reflectance; weights, glints and the trace stay in the arrays.

    y : (L,) brightness; alpha : of the glints, negative: none
    Returns bx, by, bz, trace, cost
    """
    for k in range(count):
        mirrored[k] = 0
        weight[k] = valid[k]
    width = width_of_fit(y, valid, count, noise)
    bx, by, bz, trace = _fit(y, towards, weight, count)
    cost = _weigh(y, mirrored, towards, valid, weight, count, bx, by, bz, width)
    if cost > np.float32(_FINE) * count:
        sx, sy, sz, tried = _start(y, towards, valid, count, triples, inverse, width)
        if tried < cost:
            cost = _weigh(y, mirrored, towards, valid, weight, count, sx, sy, sz, width)
    for _ in range(3):
        bx, by, bz, trace = _fit(y, towards, weight, count)
        cost = _weigh(y, mirrored, towards, valid, weight, count, bx, by, bz, width)
    if alpha < 0:
        return bx, by, bz, trace, cost
    left = np.empty(count, np.float32)
    for _ in range(2):
        length = np.sqrt(bx * bx + by * by + bz * bz) + np.float32(1e-6)
        nx, ny, nz = bx / length, by / length, bz / length
        for k in range(count):
            mirrored[k] = glint_of(nx, ny, nz, towards[k, 0], towards[k, 1], towards[k, 2], alpha)
            left[k] = y[k] - mirrored[k]
        cost = _weigh(y, mirrored, towards, valid, weight, count, bx, by, bz, width)
        bx, by, bz, trace = _fit(left, towards, weight, count)
    length = np.sqrt(bx * bx + by * by + bz * bz) + np.float32(1e-6)
    nx, ny, nz = bx / length, by / length, bz / length
    shine = np.float32(0)
    for k in range(count):
        mirrored[k] = glint_of(nx, ny, nz, towards[k, 0], towards[k, 1], towards[k, 2], alpha)
        shine = max(shine, mirrored[k])
    cost = _weigh(y, mirrored, towards, valid, weight, count, bx, by, bz, width)
    if shine < np.float32(0.05) * length:
        return bx, by, bz, trace, cost
    nx, ny, nz, length, trace = _shining(
        y, mirrored, towards, valid, weight, count, nx, ny, nz, length, alpha, width
    )
    bx, by, bz = nx * length, ny * length, nz * length
    for k in range(count):
        mirrored[k] = glint_of(nx, ny, nz, towards[k, 0], towards[k, 1], towards[k, 2], alpha)
    cost = _weigh(y, mirrored, towards, valid, weight, count, bx, by, bz, width)
    return bx, by, bz, trace, cost


@njit(cache=True, nogil=True, fastmath=True)
def _shining(  # noqa: PLR0917
    y: Any, mirrored: Any, towards: Any, valid: Any, weight: Any, count: Any, nx: Any, ny: Any,
    nz: Any, length: Any, alpha: Any, width: Any,
) -> Any:  # fmt: skip
    """The same where glints count: from a first fit, and from other sides too where that leads
    nowhere, since glints make several places look right."""
    nx, ny, nz, length, trace, cost = polish(
        y, mirrored, towards, valid, weight, count, nx, ny, nz, length, alpha, width, TURNS
    )
    for start in range(5):
        if cost < np.float32(_FINE) * count:
            break
        turn = np.float32(np.pi / 2) * start
        tilt = np.float32(0 if start == 4 else 0.35)
        sx, sy, sz = np.cos(turn) * tilt, np.sin(turn) * tilt, np.float32(1)
        size = 1 / np.sqrt(1 + tilt * tilt)
        px, py, pz, other, t, tried = polish(
            y, mirrored, towards, valid, weight, count, sx * size, sy * size, sz * size, length,
            alpha, width, TURNS
        )  # fmt: skip
        if tried < cost:
            nx, ny, nz, length, trace, cost = px, py, pz, other, t, tried
    return nx, ny, nz, length, trace


@njit(cache=True, nogil=True, fastmath=True)
def polish(  # noqa: PLR0917
    y: Any, mirrored: Any, towards: Any, valid: Any, weight: Any, count: Any, nx: Any, ny: Any,
    nz: Any, length: Any, alpha: Any, width: Any, turns: int,
) -> Any:  # fmt: skip
    """Steps from a start, and what they end with."""
    trace = np.float32(1e3)
    for _ in range(turns):
        nx, ny, nz, length, trace = _turn(
            y, mirrored, towards, valid, weight, count, nx, ny, nz, length, alpha, width
        )
    for k in range(count):
        mirrored[k] = glint_of(nx, ny, nz, towards[k, 0], towards[k, 1], towards[k, 2], alpha)
    cost = _weigh(
        y, mirrored, towards, valid, weight, count, nx * length, ny * length, nz * length, width
    )
    return nx, ny, nz, length, trace, cost


@njit(cache=True, nogil=True, fastmath=True)
def _turn(  # noqa: PLR0917
    y: Any, mirrored: Any, towards: Any, valid: Any, weight: Any, count: Any, nx: Any, ny: Any,
    nz: Any, length: Any, alpha: Any, width: Any,
) -> Any:  # fmt: skip
    """A step of Gauss and Newton in the normal and the reflectance; glints move with the normal."""
    step = np.float32(2e-3)
    # Two directions across the normal.
    scale = 1 / np.sqrt(max(1 - ny * ny, np.float32(1e-6)))
    ux, uy, uz = nz * scale, np.float32(0), -nx * scale
    vx, vy, vz = ny * uz - nz * uy, nz * ux - nx * uz, nx * uy - ny * ux
    aa = ab = ac = bb = bc = cc = ra = rb = rc = np.float32(0)
    for k in range(count):
        if valid[k] <= 0:
            continue
        lx, ly, lz = towards[k, 0], towards[k, 1], towards[k, 2]
        lit = nx * lx + ny * ly + nz * lz
        here = glint_of(nx, ny, nz, lx, ly, lz, alpha)
        off = y[k] - here - length * max(lit, np.float32(0))
        wide = width + np.float32(0.2) * here
        w = 1 / (1 + (off / wide) ** 2)
        w = w * w / (wide * wide)
        if lit <= 0:
            continue
        gu = glint_of(nx + step * ux, ny + step * uy, nz + step * uz, lx, ly, lz, alpha)
        gv = glint_of(nx + step * vx, ny + step * vy, nz + step * vz, lx, ly, lz, alpha)
        ja = length * (ux * lx + uy * ly + uz * lz) + (gu - here) / step
        jb = length * (vx * lx + vy * ly + vz * lz) + (gv - here) / step
        jc = lit
        aa += w * ja * ja
        ab += w * ja * jb
        ac += w * ja * jc
        bb += w * jb * jb
        bc += w * jb * jc
        cc += w * jc * jc
        ra += w * ja * off
        rb += w * jb * off
        rc += w * jc * off
    aa *= np.float32(1.05)
    bb *= np.float32(1.05)
    cc *= np.float32(1.02)
    da, db, dc, i, j, _ = _solved(aa, ab, ac, bb, bc, cc, ra, rb, rc)
    if i >= np.float32(_NO_INVERSE):
        return nx, ny, nz, length, i
    far = np.sqrt(da * da + db * db)
    if far > np.float32(0.15):
        da *= np.float32(0.15) / far
        db *= np.float32(0.15) / far
    nx += da * ux + db * vx
    ny += da * uy + db * vy
    nz += da * uz + db * vz
    size = 1 / np.sqrt(nx * nx + ny * ny + nz * nz)
    trace = (i + j) * length * length / (width * width)
    return nx * size, ny * size, nz * size, max(length + dc, np.float32(1e-5)), trace


@njit(cache=True, nogil=True, fastmath=True)
def room_for(count: int) -> Any:
    """What one texel is worked on in: brightness, validity, weight and glint of each light."""
    return (
        np.empty(count, np.float32),
        np.empty(count, np.float32),
        np.empty(count, np.float32),
        np.empty(count, np.float32),
    )
