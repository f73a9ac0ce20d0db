"""Specular color of a metallic material: base color on metal, F0 elsewhere."""

from __future__ import annotations

from collections.abc import Mapping
from typing import Any

import numpy as np

from copper_sieve.core.image.map_kind import MapKind
from copper_sieve.core.image.raster import Float
from copper_sieve.core.operations.declaration import Inputs, Parameter, SurfaceContext, operation


@operation(
    "specular_color_from_color",
    version=1,
    title="Base color on metallic areas",
    output=MapKind.SPECULAR_COLOR,
    inputs=(MapKind.BASE_COLOR, MapKind.METALLIC),
    parameters=(
        Parameter("f0", "Reflectance", 0.04, "reflectance of dielectrics at normal "
                                             "incidence (F0)", high=0.16,
                  group="Non-metals"),
    ), default=True,
)  # fmt: skip
def specular_color_from_color(
    inputs: Inputs, parameters: Mapping[str, Any], surface: SurfaceContext
) -> Float:
    """Derive specular color: lerp(F0, base color, metallic).

    Parameters
    ----------
    inputs : base_color (H, W, 3) float32, linear light; metallic (H, W, 1) float32, [0, 1]

    Returns
    -------
    (H, W, 3) float32, linear light
    """
    f0 = np.float32(parameters["f0"])
    base, metallic = inputs[MapKind.BASE_COLOR], inputs[MapKind.METALLIC]
    return np.asarray(f0 + (base - f0) * metallic, dtype=np.float32)
