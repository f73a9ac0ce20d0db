"""Estimate lights from the pictures alone, with lower certainty.

Two starts are tried: a light that was carried around; and factorization, since pictures of a matte
surface are linear combinations of three: brightness is normal times light, and both are known up
to a matrix (Hayakawa 1994), which equal intensities and an even color determine. Each is refined
by the pictures; see `light_refinement`. What single texels don't determine follows from the
surface: its slopes are those of a height (Belhumeur 1999), it is flat on average, and shadows
distinguish bumps from dents.

References: H. Hayakawa, "Photometric stereo under a light source with arbitrary motion", 1994.
P. Belhumeur, D. Kriegman and A. Yuille, "The bas-relief ambiguity", 1999.
"""

from __future__ import annotations

from collections.abc import Callable, Sequence
from dataclasses import dataclass, replace

import numpy as np
from numpy.typing import NDArray
from scipy.optimize import least_squares

from copper_sieve.core.errors import MeasureError
from copper_sieve.core.image.raster import Float
from copper_sieve.core.measuring.light_directions import Lamp
from copper_sieve.core.measuring.light_priors import LightParameters, LightPriors
from copper_sieve.core.measuring.light_refinement import RefinedLights, refine_lights
from copper_sieve.core.measuring.prediction import roughness_of
from copper_sieve.core.measuring.solving import solve

Matrix = NDArray[np.float64]

FEWEST = 5  # pictures: fewer leave the matrix open
_TURNS = 25
_OUTLIER = 2.5  # times the median
_UP = 45.0  # degrees of the lamp of somebody who walks around
_WALKED, _FACTORED, _ARRANGED = 12.0, 10.0, 6.0  # degrees by which such lamps are off, one sigma
_RING = 1.5  # and those of a ring whose height is known
_WORST = 0.3  # of the cost
_CLEARLY = 0.7  # of the other's curl: it is mirrored
_TELLS = 0.05  # of likeness: less is chance
_NEARBY = 0.06  # 1 / distance above which near lights determine their side
_SIDED = 0.95  # of the other side's cost
_MIRROR = np.array([-1.0, 1.0, 1.0])
_STRONG = 4.0  # how much equal lamps count against an even color
_SOFT = 0.15  # of a color's logarithm: more is another color
_SOME = 4000  # texels by which the matrix is settled
_FARTHEST = 32  # texels from what casts a shadow


@dataclass(frozen=True, slots=True)
class UncalibratedStart:
    """Lights estimated from the pictures alone.

    lamps : of each picture
    sided : certainty of bumps versus dents, [0, 2], from shadows or near lights; 0: unknown, and
    the first light is assumed to be on the right
    """

    lamps: list[Lamp]
    sided: float


def estimate_start(  # noqa: PLR0917
    light: Float,
    places: Float,
    noise: float,
    hint: Sequence[Lamp] = (),
    elevation: float | None = None,
    between: Callable[[], None] | None = None,
) -> UncalibratedStart:
    """Estimate the light of each picture from the pictures alone.

    Parameters
    ----------
    light : (L, H, W, 3) float32, linear, aligned, negative where a picture has no value
    places : (H, W, 3) of the texels; see `refine_lights`
    noise : standard deviation in linear light
    hint : approximate lights relative to each other, from the rotation of the sample
    elevation : common elevation of all lights in degrees, if known
    between : called repeatedly, so that other threads can run; may raise

    Raises
    ------
    MeasureError : if there are too few pictures, or they don't determine the lights
    """
    count = len(light)
    if count < FEWEST and not hint:
        raise MeasureError(
            f"{count} pictures are too few to estimate light directions. Take at least "
            f"{FEWEST}, place a ball next to the surface, or give the light directions"
        )

    def tried(lamps: Sequence[Lamp], off: float) -> RefinedLights:
        if elevation is not None:
            lamps = [Lamp.at(one.azimuth, elevation, one.distance, one.intensity) for one in lamps]
        held = LightPriors(lamps, off, off if elevation is None else _RING)
        return refine_lights(light, places, noise, held, between)

    if hint:
        found = tried(hint, _WALKED)
    else:
        walked = [Lamp.at(360 * n / count, _UP) for n in range(count)]
        each = [
            tried(walked, _WALKED), tried(_by_slant(light, places), _WALKED),
            tried(_by_factors(light), _FACTORED),
        ]  # fmt: skip
        found = min(each, key=lambda one: one.cost)
    if found.cost > _WORST:
        raise MeasureError(
            "the light directions couldn't be estimated from the pictures. Place a ball "
            "next to the surface, or give the light directions"
        )
    if np.mean([1 / (one.distance or np.inf) for one in found.lamps]) > _NEARBY:
        other = tried([replace(one.turned(180), distance=None) for one in found.lamps], _ARRANGED)
        if found.cost < _SIDED * other.cost:
            return UncalibratedStart(found.lamps, 1.0)
    lamps, sided = _arranged(light, places, found.lamps, noise)
    return UncalibratedStart(
        tried([replace(one, distance=None) for one in lamps], _ARRANGED).lamps, sided
    )


def _by_slant(light: Float, places: Float) -> list[Lamp]:
    """Place each light on the brighter side of its picture, as near lights are."""
    grey = np.maximum(light.mean(-1).astype(np.float64), 1e-4)
    share = np.log(grey) - np.log(grey.mean(0))
    basis = np.stack([places[..., 0], places[..., 1], np.ones_like(places[..., 0])], -1)
    found = []
    for one in share:
        typical = float(np.median(np.abs(one - np.median(one)))) + 1e-6
        near = np.abs(one - np.median(one)) < _OUTLIER * typical
        x, y, _ = np.linalg.lstsq(basis[near], one[near], rcond=None)[0]
        found.append(Lamp.at(float(np.degrees(np.arctan2(y, x))), _UP))
    return found


def _by_factors(light: Float) -> list[Lamp]:
    count = len(light)
    grey = light.mean(-1).reshape(count, -1).astype(np.float64)
    seen = np.all(light >= 0, axis=-1).reshape(count, -1)
    pull, towards = _settled(*_factored(grey, seen), grey)
    unit = np.median(pull / np.maximum(np.linalg.norm(pull, axis=0), 1e-12), axis=1)
    towards = towards @ _onto_z(unit).T
    return [
        Lamp((float(x), float(y), float(max(z, 0.05 * np.hypot(x, y) + 1e-6))))
        for x, y, z in towards
    ]


def _arranged(
    light: Float, places: Float, lamps: list[Lamp], noise: float
) -> tuple[list[Lamp], float]:
    """Rotate lights about the camera axis, which single texels don't determine: slopes must be
    integrable, and shadows must be behind raised areas. If neither determines it, the
    photographer is assumed to start on the right and walk counterclockwise.
    """
    state = LightParameters.of(lamps)
    towards, square = state.ways(places)
    scale = (state.intensity[:, None, None, None] / square).astype(np.float32)
    even = np.where(light < 0, light, light / scale)
    found = solve(even, towards, roughness_of(even, towards, noise), noise)
    normal = found.normal.astype(np.float64)
    ways = [_spun(flip * normal, flip * state.towards) for flip in (np.ones(3), _MIRROR)]
    ways.sort(key=lambda way: -_walk(way[1]))  # against the clock first
    chosen = ways[1] if ways[1][2] < _CLEARLY * ways[0][2] else ways[0]
    normal, unit = chosen[0], chosen[1]
    sided = _sides(normal, unit, even.mean(-1), found.color.mean(-1))
    side = float(np.sign(sided)) if abs(sided) > _TELLS else float(np.sign(unit[0, 0]) or 1)
    turned = [
        replace(lamp, direction=(side * float(x), side * float(y), float(z)))
        for lamp, (x, y, z) in zip(lamps, unit, strict=True)
    ]
    return turned, abs(sided) if abs(sided) > _TELLS else 0.0


def _walk(towards: Matrix) -> float:
    """Return a value above 0 if the lights follow each other counterclockwise."""
    angle = np.arctan2(towards[:, 1], towards[:, 0])
    return float(np.sin(np.diff(angle)).sum())


def _factored(grey: Matrix, seen: NDArray[np.bool_]) -> tuple[Matrix, Matrix]:
    """Return normals times color (3, N) and lights (L, 3), a robust factorization."""
    weight = seen.astype(np.float64)
    filled = np.where(seen, grey, 0)
    left, sizes, right = np.linalg.svd(filled, full_matrices=False)
    towards = left[:, :3] * np.sqrt(sizes[:3])
    pull = np.sqrt(sizes[:3, None]) * right[:3]
    for _ in range(_TURNS):
        pull = _each(towards, filled, weight)
        towards = _each(pull.T, filled.T, weight.T).T
        off = np.abs(filled - towards @ pull)
        typical = np.median(off[seen]) + 1e-9
        weight = seen / (1 + (off / (_OUTLIER * typical)) ** 2) ** 2
    return pull, towards


def _each(basis: Matrix, values: Matrix, weight: Matrix) -> Matrix:
    """Return the weighted coefficients of each column of values (L, N): (3, N)."""
    square = np.einsum("ln,li,lj->nij", weight, basis, basis, optimize=True)
    square += 1e-9 * np.trace(square, axis1=1, axis2=2)[:, None, None] * np.eye(3) + 1e-15 * np.eye(
        3
    )
    right = np.einsum("ln,li->ni", weight * values, basis, optimize=True)
    return np.asarray(np.linalg.solve(square, right[..., None])[..., 0].T)


def _settled(pull: Matrix, towards: Matrix, grey: Matrix) -> tuple[Matrix, Matrix]:
    """Apply the matrix that makes the intensities equal and the color even."""
    bright = grey.mean(0)
    usable = np.flatnonzero(bright > 0.3 * np.median(bright))
    some = pull[:, usable[:: max(1, len(usable) // _SOME)]]
    # Initially, both are isotropic.
    root = np.linalg.cholesky(np.cov(towards.T) + np.outer(towards.mean(0), towards.mean(0)))
    start = np.linalg.inv(root) / np.sqrt(3)

    def left(numbers: Matrix) -> Matrix:
        matrix = numbers.reshape(3, 3)
        lights = np.linalg.norm(towards @ matrix.T, axis=1)
        back = np.linalg.inv(matrix)
        color = np.log(np.maximum(np.linalg.norm(back.T @ some, axis=0), 1e-9))
        even = (color - np.median(color)) / _SOFT
        soft = np.sqrt(np.log1p(even * even)) / np.sqrt(len(color))
        strong = (lights - 1) / 0.03 / np.sqrt(len(lights))
        return np.concatenate([_STRONG * strong, soft])

    best = least_squares(left, start.ravel(), max_nfev=200)
    matrix = best.x.reshape(3, 3)
    return np.linalg.inv(matrix).T @ pull, towards @ matrix.T


def _spun(normal: Matrix, towards: Matrix) -> tuple[Matrix, Matrix, float]:
    """Rotate normals (H, W, 3) and lights (L, 3) around z so that the slopes are those of a height.

    Returns them with the remaining share that isn't integrable, [0, 1].
    """
    angle, curl = _flattest(normal)
    c, s = np.cos(angle), np.sin(angle)
    spin = np.array([[c, -s, 0], [s, c, 0], [0, 0, 1.0]])
    return normal @ spin.T, towards @ spin.T, curl


def _onto_z(axis: Matrix) -> Matrix:
    """Return the rotation from a direction to z."""
    z = axis / np.linalg.norm(axis)
    x = np.cross([0.0, 1.0, 0.0], z)
    x /= np.linalg.norm(x)
    return np.stack([x, np.cross(z, x), z])


def _flattest(normal: Matrix) -> tuple[float, float]:
    """Return the rotation about z with the most integrable slopes, and the remaining share."""
    z = np.maximum(normal[..., 2], 0.15)
    p, q = (np.clip(-normal[..., n] / z, -3, 3) for n in (0, 1))
    px, qx = (np.diff(one, axis=1)[:-1] for one in (p, q))
    py, qy = (-np.diff(one, axis=0)[:, :-1] for one in (p, q))  # y goes up
    # Turned by a, the curl is cos(a) (qx - py) + sin(a) (px + qy).
    curl, spread = (qx - py).ravel(), (px + qy).ravel()
    keep = np.hypot(curl, spread) < np.quantile(np.hypot(curl, spread), 0.9)
    square = np.cov(np.stack([curl[keep], spread[keep]]))
    values, vectors = np.linalg.eigh(square)
    c, s = vectors[:, 0]
    return float(np.arctan2(s, c)), float(values[0] / max(values[1], 1e-12))


def _sides(normal: Matrix, towards: Matrix, grey: Float, color: Float) -> float:
    """Return evidence for bumps (above 0) or dents (below 0) from cast shadows, [-2, 2].

    The same surface rotated by 180° explains everything else equally well.
    """
    due = color * np.maximum(np.einsum("hwc,lc->lhw", normal, towards), 0)
    dark = (grey >= 0) & (grey < 0.4 * due) & (due > 0.2 * np.median(due))
    height = _height(normal)
    likeness = []
    for side in (1.0, -1.0):
        cast = [_shadowed(side * height, one * [side, side, 1]) for one in towards]
        both = np.stack([dark.ravel(), np.stack(cast).ravel()]).astype(np.float64)
        spread = float(both.std(1).prod())
        likeness.append(float(np.cov(both)[0, 1]) / spread if spread > 0 else 0.0)
    return likeness[0] - likeness[1]


def _height(normal: Matrix) -> Matrix:
    """Integrate slopes to a height in texels (Frankot and Chellappa 1988)."""
    z = np.maximum(normal[..., 2], 0.15)
    p, q = (np.clip(-normal[..., n] / z, -3, 3) for n in (0, 1))
    rows, columns = z.shape
    u = 2j * np.pi * np.fft.fftfreq(columns)[None]
    v = -2j * np.pi * np.fft.fftfreq(rows)[:, None]  # rows go down
    over = np.abs(u) ** 2 + np.abs(v) ** 2
    over[0, 0] = 1
    spectrum = (np.conj(u) * np.fft.fft2(p) + np.conj(v) * np.fft.fft2(q)) / over
    return np.asarray(np.real(np.fft.ifft2(spectrum)))


def _shadowed(height: Matrix, towards: Matrix) -> NDArray[np.bool_]:
    """Return (H, W) bool, True where the surface occludes the light some texels away."""
    x, y, z = towards
    flat = float(np.hypot(x, y))
    found = np.zeros(height.shape, bool)
    if flat < 1e-3:
        return found
    for step in range(2, _FARTHEST):
        right, down = round(step * x / flat), round(-step * y / flat)
        there = np.roll(height, (-down, -right), (0, 1))
        found |= there > height + step * z / flat + 0.1
    return found
