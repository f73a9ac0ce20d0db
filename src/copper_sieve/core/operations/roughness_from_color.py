"""Roughness from color: local lightness and local variation about a chosen middle."""

from __future__ import annotations

from collections.abc import Mapping
from typing import Any

import numpy as np

from copper_sieve.core.image.encoding import linear_to_srgb, luminance
from copper_sieve.core.image.map_kind import MapKind
from copper_sieve.core.image.raster import Float
from copper_sieve.core.operations.declaration import Parameter, Surface, operation
from copper_sieve.core.operations.spectrum import blur

_LIGHT_SIGMA = 1 / 8
_VARIATION_SIGMA = 0.01


@operation(
    "roughness_from_color",
    version=1,
    title="From the color's lightness",
    output=MapKind.ROUGHNESS,
    inputs=(MapKind.BASE_COLOR,),
    surface_reads=("wrap",),
    parameters=(
        Parameter("middle", "Middle", 0.65, "roughness of an average texel", group="Level"),
        Parameter(
            "lightness", "By lightness", 0.3, "light texels rougher; below 0 smoother",
            low=-1.0, group="Variation",
        ),
        Parameter(
            "variation", "By variation", 0.2, "busy places rougher; below 0 smoother",
            low=-1.0, group="Variation",
        ),
    ),
)  # fmt: skip
def roughness_from_color(
    inputs: Mapping[MapKind, Float], parameters: Mapping[str, Any], surface: Surface
) -> Float:
    """Derive perceptual roughness from a color picture.

    The sRGB-encoded luminance less its large-scale part, and its local standard deviation
    (Gaussian, a hundredth of the tile), are added to the chosen middle.

    inputs : base_color (H, W, 3) float32, linear light. Returns (H, W, 1) float32, [0, 1].
    """
    light = linear_to_srgb(np.clip(luminance(inputs[MapKind.BASE_COLOR]), 0, 1))
    out = np.full(light.shape, parameters["middle"], dtype=np.float32)
    local = light - blur(light, _LIGHT_SIGMA, wrap=surface.wrap)
    out += np.float32(parameters["lightness"]) * local
    if parameters["variation"]:
        power = np.maximum(blur(local * local, _VARIATION_SIGMA, wrap=surface.wrap), 0)
        busy = np.sqrt(power)
        out += np.float32(parameters["variation"] * 2) * (busy - busy.mean())
    return np.clip(out, 0, 1)[:, :, None]
