"""An imported normal map with adjustments: intensity, inversion, second normal."""

from __future__ import annotations

from collections.abc import Mapping
from typing import Any

import numpy as np

from copper_sieve.core.image.map_kind import MapKind
from copper_sieve.core.image.normals import normalize
from copper_sieve.core.image.raster import Float
from copper_sieve.core.operations.declaration import (
    Inputs,
    OperationInput,
    Parameter,
    SurfaceContext,
    operation,
)
from copper_sieve.core.operations.normal.blend_normals import NORMAL_MIX, NORMAL_SLOTS, mix_in
from copper_sieve.core.operations.numerics.spectrum import blur


@operation(
    "normal_from_picture",
    version=1,
    title="Adjusted normal map",
    output=MapKind.NORMAL,
    inputs=(),
    surface_reads=("wrap",),
    slots=(
        OperationInput("picture", "Picture", "the imported normal map", takes=MapKind.NORMAL,
             required=True, group="Relief"),
        *NORMAL_SLOTS,
    ),
    parameters=(
        Parameter("strength", "Intensity", 1.0, "factor on the slopes", high=8.0, group="Relief"),
        Parameter("invert", "Invert", False, "raised becomes recessed", group="Relief",
                  form="switch"),
        Parameter("smoothing", "Smoothing", 0.0,
            "blur radius of the slopes", high=0.02, unit="tile",
                  group="Relief"),
        *NORMAL_MIX,
    ),
)  # fmt: skip
def normal_from_picture(
    inputs: Inputs, parameters: Mapping[str, Any], surface: SurfaceContext
) -> Float:
    """Adjust a normal map, (H, W, 3) float32, Y up; unchanged with default parameters."""
    normal = inputs["picture"]
    factor = np.float32(parameters["strength"] * (-1 if parameters["invert"] else 1))
    if factor != 1 or parameters["smoothing"]:
        slopes = normal[:, :, :2] / np.maximum(normal[:, :, 2:], np.float32(1e-3)) * factor
        parts = [
            blur(np.ascontiguousarray(slopes[:, :, i]), parameters["smoothing"], wrap=surface.wrap)
            for i in (0, 1)
        ]
        normal = normalize(np.stack([*parts, np.ones_like(parts[0])], axis=2))
    return mix_in(normal, inputs, parameters)
