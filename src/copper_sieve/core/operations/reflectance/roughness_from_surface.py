"""Roughness from color and relief: cavities, worn areas, grain and lightness, around a median."""

from __future__ import annotations

from collections.abc import Mapping
from typing import Any

import numpy as np

from copper_sieve.core.image.map_kind import MapKind
from copper_sieve.core.image.raster import Float
from copper_sieve.core.image.wrap import Wrap
from copper_sieve.core.operations.declaration import Inputs, Parameter, SurfaceContext, operation
from copper_sieve.core.operations.numerics.memo import memoized
from copper_sieve.core.operations.numerics.spectrum import blur
from copper_sieve.core.operations.reflectance.roughness_finish import (
    ROUGHNESS_FINISH,
    finish_roughness,
    local_lightness,
    move_median,
)

_GRAIN_SIGMA = 0.004
_DEEP_SIGMA = 0.02  # size of the neighborhood that defines cavities
_FULL = 0.03  # standard deviation of lightness from which the spread is given in full
_FLAT = 1e-6
# What a surface of each material has in its middle, where nothing else is known: a guess.
MATERIALS = {"stone": 0.8, "wood": 0.65, "metal": 0.35, "cloth": 0.85, "paint": 0.5}


@operation(
    "roughness_from_surface",
    version=1,
    title="Based on color and relief",
    output=MapKind.ROUGHNESS,
    inputs=(MapKind.BASE_COLOR, MapKind.HEIGHT),
    surface_reads=("wrap",),
    parameters=(
        Parameter(
            "material", "Material", "as set", 'sets the median; "as set" uses the value below',
            choices=("as set", *MATERIALS), group="Level", form="choice"
        ),
        Parameter("median", "Median", 0.7, "half of the area is rougher than this",
                  group="Level"),
        Parameter(
            "spread", "Spread", 0.08, "standard deviation of the roughness",
            high=0.3, group="Level",
        ),
        Parameter("cavities", "Cavities", 0.7, "above 0 cavities are rougher; below 0 they are "
                                              "smoother",
                  low=-1.0, group="Contributions"),
        Parameter("worn_areas", "Worn areas", 0.5,
        "above 0 raised areas are smoother; below 0 they "
                                             "are rougher",
                  low=-1.0, group="Contributions"),
        Parameter("grain", "Grain", 0.4, "above 0 areas with more detail are rougher; below 0 "
                                         "they are smoother",
                  low=-1.0, group="Contributions"),
        Parameter(
            "bright_areas", "Bright areas are", "smoother",
            "on most materials, worn bare areas are bright and smooth; dust, lime and salt "
                "are bright and rough",
            choices=("smoother", "rougher", "neither"), group="Contributions", form="choice"
        ),
        Parameter("lightness", "Luminance", 0.4, "weight of the luminance",
                  group="Contributions"),
        *ROUGHNESS_FINISH,
    ), default=True,
)  # fmt: skip
def roughness_from_surface(
    inputs: Inputs, parameters: Mapping[str, Any], surface: SurfaceContext
) -> Float:
    """Derive perceptual roughness from color and height.

    The weighted sum of four fields of standard deviation 1: areas below their neighborhood of two
    hundredths of the tile, areas above it (less), the local standard deviation of lightness, and
    the lightness without its large-scale part. The sum is scaled to the stated spread, less where
    lightness varies by under 0.03, and moved to the stated median.

    Parameters
    ----------
    inputs : base_color (H, W, 3) float32, linear light; height (H, W, 1) float32, [0, 1]

    Returns
    -------
    (H, W, 1) float32, [0, 1]
    """
    color, height, wrap = inputs[MapKind.BASE_COLOR], inputs[MapKind.HEIGHT], surface.wrap
    light = memoized("roughness.light", color, wrap, lambda: local_lightness(color, wrap))
    total = np.zeros(light.shape, dtype=np.float32)
    if parameters["cavities"] or parameters["worn_areas"]:
        low, high = memoized("roughness.relief", height, wrap, lambda: _relief(height, wrap))
        total += low * np.float32(parameters["cavities"])
        total -= high * np.float32(parameters["worn_areas"])
    if parameters["grain"]:
        busy = memoized("roughness.grain", color, wrap, lambda: _busy(light, wrap))
        total += busy * np.float32(parameters["grain"])
    sign = {"rougher": 1, "smoother": -1, "neither": 0}[parameters["bright_areas"]]
    if sign and parameters["lightness"]:
        total += _even(light) * np.float32(sign * parameters["lightness"])
    spread = float(total.std())
    share = min(1.0, float(light.std()) / _FULL)
    scale = parameters["spread"] * share / spread if spread > _FLAT else 0.0
    middle = MATERIALS.get(parameters["material"], parameters["median"])
    return finish_roughness(move_median(total, middle, scale), parameters, surface)


def _even(field: Float) -> Float:
    """Normalize to mean 0 and standard deviation 1; 0 for a constant field."""
    spread = float(field.std())
    if spread < _FLAT:
        return np.zeros_like(field)
    return np.asarray((field - field.mean()) / np.float32(spread), dtype=np.float32)


def _busy(light: Float, wrap: Wrap) -> Float:
    fine = light - blur(light, _GRAIN_SIGMA, wrap=wrap)
    power = blur(fine * fine, 4 * _GRAIN_SIGMA, wrap=wrap)
    return _even(np.sqrt(np.maximum(power, 0, out=power), out=power))


def _relief(height: Float, wrap: Wrap) -> tuple[Float, Float]:
    """Return the height of each texel below and above its neighborhood."""
    field = height[:, :, 0]
    # What is finer than a scratch is no place where dirt lies or a hand rubs.
    above = blur(field, _GRAIN_SIGMA / 2, wrap=wrap) - blur(field, _DEEP_SIGMA, wrap=wrap)
    return _even(np.maximum(-above, 0)), _even(np.maximum(above, 0))
