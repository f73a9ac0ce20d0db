"""Metallic with a color key."""

from __future__ import annotations

from collections.abc import Mapping
from dataclasses import replace
from typing import Any

from copper_sieve.core.image.map_kind import MapKind
from copper_sieve.core.image.raster import Float
from copper_sieve.core.operations.color.color_key import KEY_PARAMETERS, key_similarity
from copper_sieve.core.operations.declaration import Inputs, SurfaceContext, operation

_EVEN = 0.001  # share of the tile: a single texel at 1024 doesn't count as metal


@operation(
    "metallic_from_color",
    version=3,
    title="Metallic at picked colors",
    output=MapKind.METALLIC,
    inputs=(MapKind.BASE_COLOR,),
    parameters=(*KEY_PARAMETERS[:-1], replace(KEY_PARAMETERS[-1], default=_EVEN)),
    surface_reads=("wrap",),
    default=True,
)
def metallic_from_color(
    inputs: Inputs, parameters: Mapping[str, Any], surface: SurfaceContext
) -> Float:
    """Derive metallic with a color key: 1 near the picked colors, 0 elsewhere.

    With colors picked from non-metals, each texel belongs to the nearer side.

    Parameters
    ----------
    inputs : base_color (H, W, 3) float32, linear light

    Returns
    -------
    (H, W, 1) float32, [0, 1]; 0 everywhere if no color is picked
    """
    near = key_similarity(inputs[MapKind.BASE_COLOR], **parameters, wrap=surface.wrap)
    return near[:, :, None]
