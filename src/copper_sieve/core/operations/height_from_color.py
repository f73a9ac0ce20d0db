"""Height from one picture: lighting evened out, bands of detail weighted coarse to fine."""

from __future__ import annotations

from collections.abc import Mapping
from typing import Any

import numpy as np

from copper_sieve.core.image.encoding import luminance
from copper_sieve.core.image.map_kind import MapKind
from copper_sieve.core.image.raster import Float
from copper_sieve.core.operations.declaration import Parameter, Surface, operation
from copper_sieve.core.operations.spectrum import filter_spectrum

_LIGHT_SIGMA = 1 / 8  # of the tile: what is larger counts as lighting
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
            "evenness", "Even lighting", 0.9, "share of the large-scale light taken out",
            group="Light",
        ),
        Parameter(
            "detail", "Fine detail", 0.5, "0 keeps coarse forms only, 1 keeps all bands alike",
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

    Log luminance, its large-scale part (Gaussian, sigma an eighth of the tile) reduced by
    `evenness`, each frequency weighted by wavelength^(1 - detail), spread about 0.5.

    inputs : base_color (H, W, 3) float32, linear light. Returns (H, W, 1) float32, [0, 1].
    """
    light = np.log(luminance(inputs[MapKind.BASE_COLOR]) + np.float32(0.01))
    evenness, detail = parameters["evenness"], parameters["detail"]

    def response(frequency: Float) -> Float:
        large = np.exp(-2 * (np.pi * _LIGHT_SIGMA * frequency) ** 2)
        weight = np.maximum(frequency, 1) ** np.float32(-(1 - detail))
        weight *= 1 - evenness * large
        weight[0, 0] = 0  # no mean: the middle of the range is the middle of the relief
        return weight

    relief = filter_spectrum(light, response, wrap=surface.wrap)
    spread = float(relief.std())
    if spread < 1e-6:
        return np.full((*light.shape, 1), 0.5, dtype=np.float32)
    sign = -1.0 if parameters["invert"] else 1.0
    scale = np.float32(sign * parameters["contrast"] / (2 * _SPREAD * spread))
    return np.clip(relief * scale + np.float32(0.5), 0, 1)[:, :, None]
