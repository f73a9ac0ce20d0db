"""Roughness from color: local lightness and local variation around a chosen median."""

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

_VARIATION_SIGMA = 0.01


@operation(
    "roughness_from_color",
    version=2,
    title="Based on luminance",
    output=MapKind.ROUGHNESS,
    inputs=(MapKind.BASE_COLOR,),
    surface_reads=("wrap",),
    parameters=(
        Parameter("median", "Median", 0.65, "half of the area is rougher than this",
                  group="Level"),
        Parameter("invert", "Invert", False, "swaps smooth and rough",
                  group="Level", form="switch"),
        Parameter(
            "lightness", "Luminance", 0.3, "above 0 bright areas are rougher; below 0 they are "
                                           "smoother",
            low=-1.0, group="Variation",
        ),
        Parameter(
            "variation", "Detail", 0.2, "above 0 areas with more detail are rougher; below 0 "
                                        "they are smoother",
            low=-1.0, group="Variation",
        ),
        *ROUGHNESS_FINISH,
    ), default=True,
)  # fmt: skip
def roughness_from_color(
    inputs: Inputs, parameters: Mapping[str, Any], surface: SurfaceContext
) -> Float:
    """Derive perceptual roughness from a color picture.

    The sum of the sRGB-encoded luminance without its large-scale part and its local standard
    deviation (Gaussian, a hundredth of the tile), around the chosen median.

    Parameters
    ----------
    inputs : base_color (H, W, 3) float32, linear light

    Returns
    -------
    (H, W, 1) float32, [0, 1]
    """
    color = inputs[MapKind.BASE_COLOR]
    local = memoized(
        "roughness_from_color", color, surface.wrap, lambda: local_lightness(color, surface.wrap)
    )
    rough = local * np.float32(parameters["lightness"])
    if parameters["variation"]:
        busy = memoized(
            "roughness_from_color.busy", color, surface.wrap, lambda: _busy(local, surface.wrap)
        )
        rough += busy * np.float32(parameters["variation"] * 2)
    rough = move_median(rough, parameters["median"], -1 if parameters["invert"] else 1)
    return finish_roughness(rough, parameters, surface)


def _busy(local: Float, wrap: Wrap) -> Float:
    power = blur(local * local, _VARIATION_SIGMA, wrap=wrap)
    return np.sqrt(np.maximum(power, 0, out=power), out=power)
