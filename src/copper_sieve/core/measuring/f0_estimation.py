"""Estimate F0, the specular reflectance at normal incidence, from highlights.

An F0 that is too high or too low leaves a residual in the highlights. The value that minimizes
this residual over a sample of texels is selected, as far as highlights were observed.
"""

from __future__ import annotations

import numpy as np

from copper_sieve.core.image.raster import Float
from copper_sieve.core.measuring.prediction import predict_by_surface, roughness_of
from copper_sieve.core.measuring.simd_batch import F0

# Stops by which glints may be weaker than those of most surfaces.
_STOPS = (-3.0, -2.0, -1.0, 0.0, 1.0, 2.0, 3.0)
_TOLD = 1.12  # times the least cost: what a stop more or less costs where glints tell it
_SHINES = 0.95  # times the cost of a usual surface: there is hardly anything but glints
_CLEARLY = 1.2  # times the least cost: the cost of a common F0 that is rejected
_LEAST = 1e-9
_NEARLY = 0.6  # stops: nearer than that it is as with most surfaces


def estimate_f0(light: Float, towards: Float, noise: float) -> float | None:
    """Estimate the reflectance at normal incidence from highlights.

    It is one value for the whole surface and accurate to about half a stop. Estimates within 0.6
    stops of 0.04, or hardly better, return 0.04; 1 is a metal, whose other properties can't be
    measured.

    Parameters
    ----------
    light : (L, h, w, 3) float32, of a stack that assumes 0.04
    towards : light directions as in `solve`
    noise : standard deviation in linear light

    Returns
    -------
    float in (0, 1], or None if the highlights don't determine it
    """
    cost = {stop: _cost(light, towards, noise, 2.0**stop) for stop in _STOPS}
    best = min(cost, key=lambda stop: cost[stop])
    if best == _STOPS[0] and cost[best] < _SHINES * cost[0.0]:
        return 1.0
    if best in (_STOPS[0], _STOPS[-1]):
        return None
    if (cost[best - 1] + cost[best + 1]) / 2 < _TOLD * cost[best]:
        return None
    for stop in (best - 0.5, best + 0.5):
        cost[stop] = _cost(light, towards, noise, 2.0**stop)
    best = min((best - 0.5, best, best + 0.5), key=lambda stop: cost[stop])
    for stop in (best - 0.5, best + 0.5):
        if stop not in cost:
            cost[stop] = _cost(light, towards, noise, 2.0**stop)
    low, least, high = (cost[best + step] for step in (-0.5, 0.0, 0.5))
    stops = best + 0.25 * (low - high) / max(low - 2 * least + high, _LEAST)
    if abs(stops) < _NEARLY or cost[0.0] < _CLEARLY * least:
        return F0
    return float(min(F0 / 2.0**stops, 1.0))


def _cost(light: Float, towards: Float, noise: float, scale: float) -> float:
    """Return the residual of a surface for pictures scaled by a brightness, [0, 1]."""
    brighter = np.where(light < 0, light, light * np.float32(scale))
    sigma = noise * scale
    rough = roughness_of(brighter, towards, sigma)
    here = predict_by_surface(brighter, towards, rough, sigma)
    off = (brighter.mean(-1) - here) / (2 * (sigma + 0.02 * here))
    square = (off * off)[np.all(light >= 0, axis=-1)]
    return float((square / (1 + square)).mean())
