"""An imported height map with adjustments: range, inversion, smoothing, second height."""

from __future__ import annotations

from collections.abc import Mapping
from typing import Any

import numpy as np

from copper_sieve.core.image.map_kind import MapKind
from copper_sieve.core.image.raster import Float
from copper_sieve.core.operations.declaration import (
    Inputs,
    OperationInput,
    Parameter,
    SurfaceContext,
    operation,
)
from copper_sieve.core.operations.height.height_finish import (
    HEIGHT_FINISH,
    HEIGHT_SLOTS,
    finish_height,
)
from copper_sieve.core.operations.numerics.spectrum import blur


@operation(
    "height_from_picture",
    version=1,
    title="Adjusted height picture",
    output=MapKind.HEIGHT,
    inputs=(),
    surface_reads=("wrap",),
    slots=(
        OperationInput("picture", "Picture", "the imported height", takes=MapKind.HEIGHT,
             required=True, group="Relief"),
        *HEIGHT_SLOTS,
    ),
    parameters=(
        Parameter("full_range", "Full range", False, "scales the lowest point to 0 "
                                              "and the highest to 1", group="Relief",
                  form="switch"),
        Parameter("contrast", "Contrast", 1.0, "spread of the heights around the mean",
                  high=3.0, group="Relief"),
        Parameter("smoothing", "Smoothing", 0.0, "blur radius", high=0.02, unit="tile",
                  group="Relief"),
        Parameter("invert", "Invert", False, "raised becomes recessed", group="Relief",
                  form="switch"),
        *HEIGHT_FINISH,
    ),
)  # fmt: skip
def height_from_picture(
    inputs: Inputs, parameters: Mapping[str, Any], surface: SurfaceContext
) -> Float:
    """Adjust a height map: (H, W, 1) float32, [0, 1]; unchanged with default parameters."""
    height = inputs["picture"][:, :, 0].copy()
    height = blur(height, parameters["smoothing"], wrap=surface.wrap)
    if parameters["invert"]:
        height = np.float32(1) - height
    if parameters["full_range"]:
        lowest, highest = height.min(), height.max()
        if highest - lowest > 1e-6:
            height = (height - lowest) / (highest - lowest)
    if parameters["contrast"] != 1:
        height = (height - np.float32(0.5)) * np.float32(parameters["contrast"]) + np.float32(0.5)
    return finish_height(height, inputs, parameters, surface)
