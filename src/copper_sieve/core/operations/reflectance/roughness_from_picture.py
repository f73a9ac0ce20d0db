"""An imported roughness map with adjustments: inversion, range, target median, smoothing."""

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
from copper_sieve.core.operations.reflectance.roughness_finish import (
    ROUGHNESS_FINISH,
    finish_roughness,
    move_median,
)


@operation(
    "roughness_from_picture",
    version=1,
    title="Adjusted roughness picture",
    output=MapKind.ROUGHNESS,
    inputs=(),
    surface_reads=("wrap",),
    slots=(
        OperationInput("picture", "Picture", "roughness, or any grayscale picture, as imported",
             takes=MapKind.ROUGHNESS, required=True, prefers=(MapKind.BASE_COLOR,), group="Level"),
    ),
    parameters=(
        Parameter("invert", "Invert", False,
            "the picture is glossiness", group="Level", form="switch"),
        Parameter("set_median", "Set median", False, "shifts the values so that Median is the "
                                                     "median",
                  group="Level", form="switch"),
        Parameter("median", "Median", 0.5, "half of the area is rougher than this",
                  group="Level"),
        Parameter("contrast", "Contrast", 1.0,
            "factor on differences from the median", high=3.0, group="Level"),
        *ROUGHNESS_FINISH,
    ),
)  # fmt: skip
def roughness_from_picture(
    inputs: Inputs, parameters: Mapping[str, Any], surface: SurfaceContext
) -> Float:
    """Adjust a roughness map: (H, W, 1) float32, [0, 1]; unchanged with default parameters."""
    rough = np.ascontiguousarray(inputs["picture"][:, :, 0])
    if parameters["invert"]:
        rough = np.float32(1) - rough
    rough = move_median(
        rough, parameters["median"] if parameters["set_median"] else None, parameters["contrast"]
    )
    return finish_roughness(rough, parameters, surface)
