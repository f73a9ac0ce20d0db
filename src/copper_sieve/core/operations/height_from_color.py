"""Height from one picture: lighting evened out, bands of detail weighted coarse to fine."""

from __future__ import annotations

from collections.abc import Mapping
from typing import Any

import numpy as np

from copper_sieve.core.image.encoding import luminance
from copper_sieve.core.image.map_kind import MapKind
from copper_sieve.core.image.raster import Float
from copper_sieve.core.operations.declaration import Parameter, Surface, operation
from copper_sieve.core.operations.spectrum import filter_spectrum, gaussian_response

_SPREAD = 3.0  # standard deviations that fill half of the range at contrast 1


@operation(
    "height_from_color",
    version=1,
    title="From the color's lightness",
    output=MapKind.HEIGHT,
    inputs=(MapKind.BASE_COLOR,),
    surface_reads=("wrap",),
    parameters=(
        Parameter(
            "evenness", "Even lighting", 1.0, "share of the large-scale light taken out",
            group="Light",
        ),
        Parameter(
            "light_scale", "Light's size", 0.06, "what is larger than this counts as light",
            low=0.02, high=0.25, unit="tile", group="Light",
        ),
        Parameter(
            "detail", "Fine detail", 0.65, "0 keeps coarse forms only, 1 keeps all bands alike",
            group="Relief",
        ),
        Parameter(
            "contrast", "Contrast", 1.0, "spread of the heights about the middle",
            high=3.0, group="Relief",
        ),
        Parameter(
            "invert", "Inside out", False, "dark stands for high instead of low", group="Relief"
        ),
    ),
)  # fmt: skip
def height_from_color(
    inputs: Mapping[MapKind, Float], parameters: Mapping[str, Any], surface: Surface
) -> Float:
    """Derive a height map from a color picture.

    Log luminance, its large-scale part (Gaussian of sigma `light_scale`) reduced by
    `evenness`, each frequency weighted by wavelength^(1 - detail), spread about 0.5.

    inputs : base_color (H, W, 3) float32, linear light. Returns (H, W, 1) float32, [0, 1].
    """
    light = np.log(luminance(inputs[MapKind.BASE_COLOR]) + np.float32(0.01))
    evenness, detail = parameters["evenness"], parameters["detail"]
    lighting = gaussian_response(parameters["light_scale"])

    def response(frequency: Float) -> Float:
        weight = np.maximum(frequency, 1) ** np.float32(-(1 - detail))
        weight *= 1 - evenness * lighting(frequency)
        weight[0, 0] = 0  # no mean: the middle of the range is the middle of the relief
        return weight

    relief = filter_spectrum(light, response, wrap=surface.wrap)
    spread = float(relief.std())
    if spread < 1e-6:
        return np.full((*light.shape, 1), 0.5, dtype=np.float32)
    sign = -1.0 if parameters["invert"] else 1.0
    scale = np.float32(sign * parameters["contrast"] / (2 * _SPREAD * spread))
    return np.clip(relief * scale + np.float32(0.5), 0, 1)[:, :, None]
