"""Priors of lights: stated or detected directions, and how certain they are."""

from __future__ import annotations

from collections.abc import Sequence
from dataclasses import dataclass

import numpy as np
from numpy.typing import NDArray

from copper_sieve.core.image.raster import Float
from copper_sieve.core.measuring.light_directions import Lamp

Numbers = NDArray[np.float64]

NEAREST = 1.2  # one over the distance
_FAR = 0.02  # one over the distance: a lamp fifty widths away is far
_SAME = 0.05  # of the logarithm of what one lamp gives that is carried around, one sigma
_LOOSE = 6.0  # times that while lamps still come from afar
_TELLS = 0.04  # reciprocal distance below which an intensity can't be estimated
_ALIKE = 0.15  # one over widths, sigma: somebody who walks around keeps about the same distance
_AS_SAID = 0.01  # reciprocal image widths, sigma of a stated distance
_EVEN = 30.0  # weight that fixes the mean intensity, which the captures don't determine
_LOWEST = 0.05  # of a direction's length: a lamp in the surface lights nothing


@dataclass(frozen=True, slots=True)
class LightPriors:
    """Prior values of light parameters.

    lamps : of each capture, seen from one viewpoint; a distance is measured from the image center
    direction, elevation : one sigma of azimuth and elevation, in degrees
    intensity : one sigma of the logarithm of the intensity; None if only one light is stated, whose
        effect decreases with distance
    seen_from : that viewpoint in image widths from the image center, y up and z toward the camera
    """

    lamps: Sequence[Lamp]
    direction: float
    elevation: float
    intensity: float | None = None
    seen_from: tuple[float, float, float] = (0.0, 0.0, 0.0)


@dataclass(frozen=True, slots=True)
class LightParameters:
    """Parameters of L lights relative to the center.

    Unit vectors (L, 3), 1 / distance (L,), and intensity (L,).
    """

    towards: Numbers
    nearness: Numbers
    intensity: Numbers

    @classmethod
    def of(cls, lamps: Sequence[Lamp]) -> LightParameters:
        """Return the parameters of lights as seen from the center."""
        near = [0.0 if one.distance is None else 1 / one.distance for one in lamps]
        return cls(
            np.stack([one.unit for one in lamps]).astype(np.float64), np.array(near),
            np.array([one.intensity for one in lamps], np.float64),
        )  # fmt: skip

    def lamps(self) -> list[Lamp]:
        """Return the lights; a distance beyond the measurable range becomes distant."""
        each = zip(self.towards, self.nearness, self.intensity, strict=True)
        return [
            Lamp(
                (float(x), float(y), float(max(z, _LOWEST))),
                None if near < _FAR else float(1 / near),
                float(intensity),
            )
            for (x, y, z), near, intensity in each
        ]

    def moved(self, step: Numbers) -> LightParameters:
        """Return the parameters after a step.

        Parameters
        ----------
        step : (L, 4), two angles in radians, change of 1 / distance, change of log(intensity)
        """
        u, v = tangent_vectors(self.towards)
        towards = self.towards + step[:, :1] * u + step[:, 1:2] * v
        return LightParameters(
            towards / np.linalg.norm(towards, axis=1, keepdims=True),
            np.clip(self.nearness + step[:, 2], 0, NEAREST),
            self.intensity * np.exp(step[:, 3]),
        )

    def ways(self, places: Float) -> tuple[Float, Float]:
        """Return direction and relative squared distance of each light; see `Lamp.ways`.

        Parameters
        ----------
        places : (h, w, 3)

        Returns
        -------
        (L, h, w, 3), (L, h, w, 1)
        """
        near = self.nearness.astype(np.float32)[:, None, None, None] * places
        way = self.towards.astype(np.float32)[:, None, None] - near
        square = np.einsum("lhwc,lhwc->lhw", way, way)[..., None]
        return np.ascontiguousarray(way / np.sqrt(square)), square

    def seen_from(self, place: Sequence[float]) -> tuple[Numbers, Numbers]:
        """Return unit vectors (L, 3) from one place, and the log of the intensity there, (L,)."""
        way = self.towards - self.nearness[:, None] * np.array(place)
        square = (way * way).sum(1)
        return way / np.sqrt(square)[:, None], np.log(self.intensity / square)

    @classmethod
    def seen(cls, priors: LightPriors, near: float, intensity: Numbers) -> LightParameters:
        """Return the parameters of lights at their stated directions, all at one distance.

        Parameters
        ----------
        priors : priors of the lights
        near : 1 / distance from the center
        intensity : (L,) at the place from which the lights were stated, or else at the center
        """
        unit, place = cls.of(priors.lamps).towards, np.array(priors.seen_from)
        if near:  # convert from the viewpoint to the image center
            back = unit @ place
            root = np.maximum(back**2 - place @ place + 1 / near**2, 1e-6)
            unit = near * (place + (np.sqrt(root) - back)[:, None] * unit)
            unit = unit / np.linalg.norm(unit, axis=1, keepdims=True)
        found = cls(unit, np.full(len(unit), near), np.ones(len(unit)))
        if priors.intensity is not None:
            intensity = intensity * np.exp(-found.seen_from(priors.seen_from)[1])
        return cls(found.towards, found.nearness, intensity / np.exp(np.log(intensity).mean()))


class PriorResiduals:
    """Residuals of light parameters relative to their priors, scaled to unit variance."""

    def __init__(self, priors: LightPriors) -> None:
        stated = LightParameters.of(priors.lamps)
        self._direction, intensity = stated.towards, np.log(stated.intensity)
        self._strength, self._sigma = intensity - intensity.mean(), priors.intensity
        self._seen_from = priors.seen_from
        x, y, _ = stated.towards.T
        flat = np.maximum(np.hypot(x, y), 1e-6)
        around = np.stack([-y / flat, x / flat, np.zeros_like(x)], axis=-1)
        self._around = around / np.radians(priors.direction)
        self._up = np.cross(stated.towards, around) / np.radians(priors.elevation)
        self._near = stated.nearness if any(one.distance for one in priors.lamps) else None

    def residuals(self, state: LightParameters, loose: bool = False) -> Numbers:
        """Return the residuals of lights, (R,).

        Parameters
        ----------
        state : current lights
        loose : they are still far from the solution
        """
        off = state.seen_from(self._seen_from)[0] - self._direction
        near = (
            (state.nearness - state.nearness.mean()) / _ALIKE
            if self._near is None
            else (state.nearness - self._near) / _AS_SAID
        )
        return np.concatenate([
            (off * self._around).sum(1), (off * self._up).sum(1),
            self._of_strength(state) / (_LOOSE if loose else 1.0), near,
            [_EVEN * float(np.log(state.intensity).sum())],
        ])  # fmt: skip

    def _of_strength(self, state: LightParameters) -> Numbers:
        if self._sigma is None:
            given = np.log(state.intensity) - 2 * np.log(np.maximum(state.nearness, _TELLS))
            return np.asarray((given - given.mean()) / _SAME)
        _, intensity = state.seen_from(self._seen_from)
        return np.asarray((intensity - intensity.mean() - self._strength) / self._sigma)

    def slopes(self, state: LightParameters, loose: bool = False) -> tuple[Numbers, Numbers]:
        """Return the Jacobian of the residuals, (R, 4 L), and the residuals."""
        here, count = self.residuals(state, loose), 4 * len(state.towards)
        found = np.empty((len(here), count))
        for n in range(count):
            step = np.zeros(count)
            step[n] = 1e-5
            found[:, n] = (self.residuals(state.moved(step.reshape(-1, 4)), loose) - here) / 1e-5
        return found, here


def tangent_vectors(unit: Numbers) -> tuple[Numbers, Numbers]:
    """Return two directions perpendicular to unit vectors (..., 3)."""
    x, z = unit[..., 0], unit[..., 2]
    u = np.stack([z, np.zeros_like(x), -x], axis=-1)
    u = u / np.maximum(np.linalg.norm(u, axis=-1, keepdims=True), 1e-9)
    return u, np.cross(unit, u)
