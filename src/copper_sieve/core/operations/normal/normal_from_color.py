"""Normals directly from a color picture, through an intermediate height."""

from __future__ import annotations

from collections.abc import Mapping
from dataclasses import replace
from typing import Any

from copper_sieve.core.image.map_kind import MapKind
from copper_sieve.core.image.raster import Float
from copper_sieve.core.operations.declaration import (
    Inputs,
    SurfaceContext,
    get_operation,
    operation,
)
from copper_sieve.core.operations.height.height_from_color import height_from_color
from copper_sieve.core.operations.height.relief_depth import depth_by_tilt
from copper_sieve.core.operations.normal.blend_normals import NORMAL_SLOTS
from copper_sieve.core.operations.normal.normal_from_height import normal_from_height

_FROM_HEIGHT = get_operation("height_from_color")
_RELIEF = ("delight", "lighting_scale", "detail", "very_coarse", "coarse", "medium", "fine")
_NORMAL = get_operation("normal_from_height")


@operation(
    "normal_from_color",
    version=2,
    title="Directly from luminance",
    output=MapKind.NORMAL,
    inputs=(MapKind.BASE_COLOR,),
    surface_reads=("tile_size", "depth", "wrap", "relief"),
    slots=NORMAL_SLOTS,
    parameters=(
        *_NORMAL.parameters,
        *(p for p in _FROM_HEIGHT.parameters if p.name in _RELIEF),
    ),
    default=True,
)
def normal_from_color(
    inputs: Inputs, parameters: Mapping[str, Any], surface: SurfaceContext
) -> Float:
    """Derive normals from a color picture: `height_from_color`, then `normal_from_height`.

    Parameters
    ----------
    inputs : base_color (H, W, 3) float32, linear light

    Returns
    -------
    (H, W, 3) float32, unit vectors, Y up
    """
    relief = {name: parameters[name] for name in _RELIEF}
    height = height_from_color(
        {MapKind.BASE_COLOR: inputs[MapKind.BASE_COLOR]}, _FROM_HEIGHT.resolve(relief), surface
    )
    if surface.relief is not None:
        share = depth_by_tilt(height[:, :, 0], surface.relief, surface.wrap)
        surface = replace(surface, depth=share * surface.tile_size)
    given = {name: value for name, value in parameters.items() if name not in _RELIEF}
    return normal_from_height({**inputs, MapKind.HEIGHT: height}, _NORMAL.resolve(given), surface)
