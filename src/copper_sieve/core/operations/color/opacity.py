"""Opacity from a color key, lightness, or a grayscale picture, with a threshold."""

from __future__ import annotations

from collections.abc import Mapping
from typing import Any

import numpy as np

from copper_sieve.core.image.encoding import linear_to_srgb, luminance
from copper_sieve.core.image.map_kind import MapKind
from copper_sieve.core.image.raster import Float
from copper_sieve.core.operations.color.color_key import KEY_PARAMETERS, key_similarity
from copper_sieve.core.operations.color.ranges import soft_step
from copper_sieve.core.operations.declaration import (
    Inputs,
    OperationInput,
    Parameter,
    SurfaceContext,
    operation,
)

_CUT = (
    Parameter("threshold", "Threshold", 0.5, "lighter texels are opaque", group="Cutout"),
    Parameter(
        "softness", "Softness", 0.1, "width of the fade around the threshold", group="Cutout"
    ),
    Parameter("invert", "Invert", False, "darker texels are opaque", group="Cutout", form="switch"),
)


def _cut(values: Float, parameters: Mapping[str, Any]) -> Float:
    kept = soft_step(values, parameters["threshold"], parameters["softness"])
    return np.float32(1) - kept if parameters["invert"] else kept


@operation(
    "opacity_from_color",
    version=3,
    title="Transparent at picked colors",
    output=MapKind.OPACITY,
    inputs=(MapKind.BASE_COLOR,),
    parameters=(
        *KEY_PARAMETERS,
        Parameter("invert", "Keep colors", False, "picked colors are opaque, everything else "
                                                  "is transparent",
                  group="Selection", form="switch"),
    ),
    surface_reads=("wrap",), default=True,
)  # fmt: skip
def opacity_from_color(
    inputs: Inputs, parameters: Mapping[str, Any], surface: SurfaceContext
) -> Float:
    """Derive opacity with a color key: 0 near the picked colors, 1 elsewhere, or inverted.

    Parameters
    ----------
    inputs : base_color (H, W, 3) float32, linear light

    Returns
    -------
    (H, W, 1) float32, [0, 1], 1 = opaque; 1 everywhere if no color is picked
    """
    if not parameters["colors"]:
        return np.ones((*inputs[MapKind.BASE_COLOR].shape[:2], 1), dtype=np.float32)
    key = {name: value for name, value in parameters.items() if name != "invert"}
    near = key_similarity(inputs[MapKind.BASE_COLOR], **key, wrap=surface.wrap)[:, :, None]
    return near if parameters["invert"] else np.float32(1) - near


@operation(
    "opacity_from_lightness",
    version=1,
    title="Transparent where dark",
    output=MapKind.OPACITY,
    inputs=(MapKind.BASE_COLOR,),
    parameters=_CUT,
)
def opacity_from_lightness(
    inputs: Inputs, parameters: Mapping[str, Any], surface: SurfaceContext
) -> Float:
    """Derive opacity from the sRGB-encoded luminance with a soft threshold.

    Parameters
    ----------
    inputs : base_color (H, W, 3) float32, linear light

    Returns
    -------
    (H, W, 1) float32, [0, 1], 1 = opaque
    """
    light = linear_to_srgb(np.clip(luminance(inputs[MapKind.BASE_COLOR]), 0, 1))
    return _cut(light, parameters)[:, :, None]


@operation(
    "opacity_from_picture",
    version=1,
    title="Black is transparent",
    output=MapKind.OPACITY,
    inputs=(),
    slots=(
        OperationInput(
            "picture", "Cutout mask", "a black-and-white picture or its alpha channel: white "
                                      "is opaque",
            takes=MapKind.OPACITY, required=True, group="Cutout",
        ),
    ),
    parameters=_CUT,
)  # fmt: skip
def opacity_from_picture(
    inputs: Inputs, parameters: Mapping[str, Any], surface: SurfaceContext
) -> Float:
    """Derive opacity from a grayscale picture with a soft threshold: (H, W, 1) float32, [0, 1]."""
    return _cut(inputs["picture"], parameters)
