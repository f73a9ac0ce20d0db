"""Emission: bright areas or a mask, tinted and multiplied by a strength."""

from __future__ import annotations

from collections.abc import Mapping
from typing import Any

import numpy as np

from copper_sieve.core.image.encoding import linear_to_srgb, luminance
from copper_sieve.core.image.map_kind import MapKind
from copper_sieve.core.image.raster import Float
from copper_sieve.core.operations.color.color_key import colors_to_linear
from copper_sieve.core.operations.color.ranges import soft_step
from copper_sieve.core.operations.declaration import (
    Inputs,
    OperationInput,
    Parameter,
    SurfaceContext,
    operation,
)


@operation(
    "emissive_from_color",
    version=1,
    title="Emission from bright areas or a mask",
    output=MapKind.EMISSIVE,
    inputs=(MapKind.BASE_COLOR,),
    slots=(
        OperationInput(
            "mask", "Mask", "white emits light, black doesn't; without a mask, all bright "
                            "areas emit",
            takes=MapKind.DETAIL_MASK, group="Area",
        ),
    ),
    parameters=(
        Parameter(
            "threshold", "Threshold", 0.5, "only texels lighter than this emit light", group="Area"
        ),
        Parameter("softness", "Softness", 0.2, "width of the fade around the threshold",
                  group="Area"),
        Parameter("tint", "Tint", "#ffffff", "color that the emission is multiplied by", most=1,
                  group="Light", form="colors"),
        Parameter(
            "picture_colors", "Picture colors", 1.0,
            "1 uses the picture's colors, 0 the tint alone", group="Light",
        ),
        Parameter("strength", "Strength", 1.0,
            "factor on the emitted light; 8- and 16-bit files are "
            "limited to 1", high=10.0, group="Light"),
    ), default=True,
)  # fmt: skip
def emissive_from_color(
    inputs: Inputs, parameters: Mapping[str, Any], surface: SurfaceContext
) -> Float:
    """Derive emitted light from a color map.

    Color (or white) x tint x strength where the sRGB-encoded luminance, or the mask, is above the
    threshold. The threshold of a mask is soft, too: threshold 0.5 and softness 1 leave it almost
    unchanged.

    Parameters
    ----------
    inputs : base_color (H, W, 3) float32, linear light; mask (H, W, 1) float32, [0, 1]

    Returns
    -------
    (H, W, 3) float32, linear light, >= 0
    """
    color = inputs[MapKind.BASE_COLOR]
    mask = inputs.get("mask")
    if mask is None:
        mask = linear_to_srgb(np.clip(luminance(color), 0, 1))[:, :, None]
    where = soft_step(mask, parameters["threshold"], parameters["softness"])
    tint = colors_to_linear(parameters["tint"] or "#ffffff")[0] * np.float32(parameters["strength"])
    own = np.float32(parameters["picture_colors"])
    light = np.asarray(color * (own * tint), dtype=np.float32)
    if own < 1:
        light += (1 - own) * tint
    light *= where
    return light
