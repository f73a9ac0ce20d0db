"""Roughness from glossiness: 1 - g, exact on integer codes and its own inverse."""

from __future__ import annotations

from collections.abc import Mapping
from typing import Any

import numpy as np

from copper_sieve.core.image.map_kind import MapKind
from copper_sieve.core.image.raster import Float
from copper_sieve.core.operations.declaration import Inputs, SurfaceContext, operation


@operation(
    "roughness_from_glossiness",
    version=1,
    title="Inverted glossiness",
    output=MapKind.ROUGHNESS,
    inputs=(MapKind.GLOSSINESS,),
    default=True,
)
def roughness_from_glossiness(
    inputs: Inputs, parameters: Mapping[str, Any], surface: SurfaceContext
) -> Float:
    """Convert glossiness to perceptual roughness, 1 - glossiness: (H, W, 1) float32, [0, 1]."""
    return np.float32(1) - inputs[MapKind.GLOSSINESS]
