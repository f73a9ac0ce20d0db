"""Refine light directions, intensities and distances from the captures.

Lights and surface are fitted together, as cameras and points are in bundle adjustment:
Gauss–Newton steps in the light parameters, from which the normal and albedo of each texel are
eliminated (Schur complement), with robust weights that exclude shadows and highlights. A near light
has another direction at each texel, and its irradiance decreases with the square of the distance;
captures of a dome with distant lights explain that nearly as well, but not completely.

References: B. Triggs, P. McLauchlan, R. Hartley and A. Fitzgibbon, "Bundle adjustment, a modern
synthesis", 2000. Y. Quéau et al., "LED-based photometric stereo: modeling, calibration and
numerical solution", 2018 (near lights).
"""

from __future__ import annotations

from collections.abc import Callable, Sequence
from dataclasses import dataclass, replace

import numpy as np

from copper_sieve.core.image.raster import Float
from copper_sieve.core.measuring.light_directions import Lamp
from copper_sieve.core.measuring.light_priors import (
    LightParameters,
    LightPriors,
    Numbers,
    PriorResiduals,
    tangent_vectors,
)
from copper_sieve.core.measuring.prediction import predict_capture, roughness_of, specular_part
from copper_sieve.core.measuring.solving import Solved, solve

_TRIED = (0.0, 0.15, 0.4)  # one over the distance, from which adjusting begins
_COMING, _STAYING = 3, 6  # turns in which lamps come from afar, and those after
_COARSE, _FINE = 0.15, 0.05  # of what should be seen: by so much it may be off then, and later
_ENOUGH = 32  # texels of the shorter side, from which lamps come from afar
_LISTEN = 2  # turns from one look at the roughness to the next
_SMALL = 1e-3  # step for numerical derivatives
_LONGEST = np.array([0.15, 0.15, 0.2, 0.3])  # of a step: radians, one over widths, logarithm
_SETTLED = 3e-4  # of a step's parts: no more turns
_FLAT = np.radians(1.5)  # sigma of the mean slope of a surface that is looked at from above
_TOGETHER = 30.0  # texels whose errors are correlated and count as one
_BETTER = 0.97  # minimum share of the cost reduction for a refinement
_DARK = 1e-4
_SOFT = 1e-3  # of a texel's own equations, so that they can always be solved


@dataclass(frozen=True, slots=True)
class RefinedLights:
    """Refined lights.

    lamps : relative to the center; the mean of their strengths is 1
    cost, before : fitting cost after and before
    """

    lamps: list[Lamp]
    cost: float
    before: float

    @property
    def is_better(self) -> bool:
        """Whether they fit the pictures significantly better than the stated lights."""
        return self.cost < _BETTER * self.before


def refine_lights(
    light: Float, places: Float, noise: float, priors: LightPriors,
    between: Callable[[], None] | None = None,
) -> RefinedLights:  # fmt: skip
    """Fit lights and surface to the pictures, starting at the priors (as bundle adjustment).

    Parameters
    ----------
    light : (L, h, w, 3) float32, linear, aligned, negative where a picture has no value
    places : (h, w, 3) of the texels, picture widths from the center, y up
    noise : standard deviation in linear light
    priors : priors of the lights
    between : called after each iteration, so that other threads can run; may raise

    Returns
    -------
    RefinedLights
    """
    pictures, hold = _Captures(light, places, noise), PriorResiduals(priors)
    stated = LightParameters.of(priors.lamps)
    begins = [stated]
    if not any(one.distance for one in priors.lamps):
        intensity = stated.intensity if priors.intensity is not None else pictures.strengths(stated)
        begins = [LightParameters.seen(priors, near, intensity) for near in _TRIED]
    few = (
        pictures
        if min(light.shape[1:3]) < 2 * _ENOUGH
        else _Captures(light[:, ::2, ::2], places[::2, ::2], noise)
    )
    came = [_turned(few, hold, one, _COMING, True, between) for one in begins]
    cost, found = min(came, key=lambda one: one[0])
    cost, found = _turned(pictures, hold, found, _STAYING, False, between)
    return RefinedLights(found.lamps(), cost, pictures.cost(stated))


def _turned(  # noqa: PLR0917
    pictures: _Captures, hold: PriorResiduals, state: LightParameters, turns: int, loose: bool,
    between: Callable[[], None] | None,
) -> tuple[float, LightParameters]:  # fmt: skip
    """Return the best result of several iterations with its cost.

    loose : the lights are still far from the solution
    """
    rough: Float | None = None
    least, found = np.inf, state
    for turn in range(turns + 1):
        if between:
            between()
        rough = pictures.roughness(state) if rough is None or turn % _LISTEN == 0 else rough
        look = pictures.look(state, rough, _COARSE if loose else _FINE)
        if look.cost < least:
            least, found = look.cost, state
        if turn == turns:
            break
        step = look.step(hold, loose)
        state = state.moved(step)
        if (np.abs(step) < _SETTLED).all():
            break
    return least, found


class _Captures:
    """Observations for light refinement."""

    def __init__(self, light: Float, places: Float, noise: float) -> None:
        self._light, self._places, self._noise = light, places, noise
        self._grey: Float = np.ascontiguousarray(light.mean(-1))
        self._seen = np.all(light >= 0, axis=-1)

    def strengths(self, stated: LightParameters) -> Numbers:
        """Return approximate relative strengths of lights, from the medians of the pictures,
        assuming a surface that is flat on average: (L,).
        """
        grey = np.where(self._seen, np.maximum(self._grey, _DARK), np.nan)
        share = np.log(grey) - np.log(np.maximum(self._grey.mean(0), _DARK))
        middle = np.nanmedian(share.reshape(len(grey), -1), axis=1)
        found = np.nan_to_num(middle) - np.log(np.maximum(stated.towards[:, 2], 0.1))
        return np.asarray(np.exp(found - found.mean()), np.float64)

    def roughness(self, state: LightParameters) -> Float:
        """Return the roughness; see `prediction`."""
        light, towards, _ = self._evened(state)
        return roughness_of(light, towards, self._noise)

    def cost(self, state: LightParameters) -> float:
        """Return the error of the prediction, [0, 1]."""
        light, towards, scale = self._evened(state)
        rough = roughness_of(light, towards, self._noise)
        here = predict_capture(solve(light, towards, rough, self._noise), rough, towards) * scale
        return self._cost(here)

    def look(self, state: LightParameters, rough: Float, share: float) -> _Linearization:
        """Return the surface for these lights, and the derivatives of the prediction.

        share : relative tolerance of the predicted values
        """
        light, towards, scale = self._evened(state)
        found = solve(light, towards, rough, self._noise)
        plain = predict_capture(found, rough, towards)
        here = plain * scale
        by_surface: list[Float | Numbers] = [
            (predict_capture(_tilted(found, way), rough, towards) - plain) * scale / _SMALL
            for way in tangent_vectors(found.normal.astype(np.float64))
        ]
        by_surface.append((plain - specular_part(found, rough, towards)) * scale)

        def shown(part: int) -> Float:
            step = np.zeros((len(here), 4))
            step[:, part] = _SMALL
            _, to, by = self._evened(state.moved(step))
            return np.asarray(predict_capture(found, rough, to) * by, np.float32)

        by_lamp: list[Float | Numbers] = [(shown(part) - here) / _SMALL for part in range(3)]
        by_lamp.append(here)
        left = self._grey - here
        width = 2 * (self._noise + share * here)
        weight = self._seen * (plain > 0) / (1 + (left / width) ** 2) ** 2 / width**2
        return _Linearization(
            state, self._cost(here), _by_texel(weight), _by_texel(left), _parts(by_surface),
            _parts(by_lamp), found.normal.reshape(-1, 3).astype(np.float64),
        )  # fmt: skip

    def _evened(self, state: LightParameters) -> tuple[Float, Float, Float]:
        """Return pictures normalized to lights of strength 1 everywhere, unit vectors to the
        lights, and the divisor.
        """
        towards, square = state.ways(self._places)
        scale = (state.intensity[:, None, None] / square[..., 0]).astype(np.float32)
        light = np.where(self._light < 0, self._light, self._light / scale[..., None])
        return np.ascontiguousarray(light, np.float32), towards, scale

    def _cost(self, here: Float) -> float:
        off = (self._grey - here) / (2 * (self._noise + 0.02 * here))
        square = (off * off)[self._seen]
        return float((square / (1 + square)).mean())


def _tilted(found: Solved, way: Numbers) -> Solved:
    normal = found.normal + _SMALL * way
    normal = normal / np.linalg.norm(normal, axis=-1, keepdims=True)
    return replace(found, normal=np.ascontiguousarray(normal, np.float32))


def _by_texel(values: Float | Numbers) -> Numbers:
    """Convert (L, h, w) to (N, L)."""
    return np.asarray(values.reshape(len(values), -1).T, np.float64)


def _parts(each: Sequence[Float | Numbers]) -> Numbers:
    """Convert some of (L, h, w) to (N, L, parts)."""
    return np.stack([_by_texel(one) for one in each], axis=-1)


@dataclass(frozen=True, slots=True)
class _Linearization:
    """Lights and the surface they imply, for N texels and L lights.

    weight, left : (N, L), and the residuals
    by_surface : (N, L, 3), derivatives by two slopes of a texel and the logarithm of its
    reflectance; by_lamp : (N, L, 4), by a step, see `LightParameters`
    normal : (N, 3)
    """

    state: LightParameters
    cost: float
    weight: Numbers
    left: Numbers
    by_surface: Numbers
    by_lamp: Numbers
    normal: Numbers

    def step(self, hold: PriorResiduals, loose: bool) -> Numbers:
        """Return a bounded Gauss–Newton step of the light parameters, (L, 4).

        Residuals are those of the pictures, of the light priors, and of the mean slope.
        """
        square, right, tilt = self._eliminated()
        z = np.maximum(self.normal[:, 2], 0.2)
        slope = np.array([np.mean(self.normal[:, n] / z) for n in (0, 1)])
        for more, off in ((tilt / _FLAT, slope / _FLAT), hold.slopes(self.state, loose)):
            square += more.T @ more
            right -= more.T @ off
        square += 1e-9 * np.trace(square) * np.eye(len(square))
        step = np.linalg.solve(square, right).reshape(-1, 4)
        return np.asarray(step / max(1.0, float((np.abs(step) / _LONGEST).max())))

    def _eliminated(self) -> tuple[Numbers, Numbers, Numbers]:
        """Return the normal equations of the lights alone, (4 L, 4 L) and (4 L,).

        Also the derivative of the mean normal by the lights, (2, 4 L).
        """
        count = self.weight.shape[1]
        heavy = self.weight[:, :, None] * self.by_surface
        own = np.einsum("nli,nlj->nij", heavy, self.by_surface, optimize=True)
        trace = np.trace(own, axis1=1, axis2=2)
        own += (_SOFT * trace / 3 + 1e-9)[:, None, None] * np.eye(3)
        pull = np.einsum("nli,nl->ni", heavy, self.left)
        both = heavy.transpose(0, 2, 1)[..., None] * self.by_lamp[:, None]  # (N, 3, L, 4)
        shared = both.reshape(-1, 3, 4 * count)
        follows = np.linalg.inv(own) @ shared
        flat = follows.reshape(-1, 4 * count)
        square, right = -flat.T @ shared.reshape(flat.shape), -flat.T @ pull.ravel()
        lamps = self.weight[:, :, None] * self.by_lamp
        each = np.einsum("nlk,nlm->lkm", lamps, self.by_lamp, optimize=True)
        for n in range(count):
            square[4 * n : 4 * n + 4, 4 * n : 4 * n + 4] += each[n]
        right += np.einsum("nlk,nl->lk", lamps, self.left).ravel()
        return square / _TOGETHER, right / _TOGETHER, -follows[:, :2].mean(0)
