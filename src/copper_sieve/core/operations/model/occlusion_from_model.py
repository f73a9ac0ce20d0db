"""Occlusion and bent normals from a model, by ray casting."""

from __future__ import annotations

from collections.abc import Mapping
from typing import Any

import numpy as np

from copper_sieve.core.image.map_kind import MapKind
from copper_sieve.core.image.raster import Float
from copper_sieve.core.operations.declaration import Inputs, Parameter, SurfaceContext, operation
from copper_sieve.core.operations.model.shared_parameters import (
    ALONE,
    DETAILED,
    GROUND,
    RAYS,
    REACH,
    SAMPLES,
    sampled_from_model,
)
from copper_sieve.core.operations.numerics.memo import memoized
from copper_sieve.core.operations.occlusion.ambient_occlusion_from_height import (
    ambient_occlusion_from_height,
)
from copper_sieve.core.operations.occlusion.horizon import QUALITY
from copper_sieve.core.operations.occlusion.horizon import REACH as RELIEF_REACH

_INTENSITY = Parameter(
    "intensity", "Intensity", 1.0, "exponent of the visibility; 1 is physically correct",
    high=4.0, group="Shade",
)  # fmt: skip
_RAY_PARAMETERS = (REACH, GROUND, ALONE, DETAILED, RAYS, SAMPLES)


@operation(
    "ambient_occlusion_from_model",
    version=1,
    title="Baked from the model",
    output=MapKind.AMBIENT_OCCLUSION,
    inputs=(),
    takes_from="model",
    parameters=(_INTENSITY, *_RAY_PARAMETERS),
)
def ambient_occlusion_from_model(
    inputs: Inputs, parameters: Mapping[str, Any], surface: SurfaceContext
) -> Float:
    """Bake the visibility of the hemisphere above each texel, cosine weighted.

    Returns
    -------
    (H, W, 1) float32, [0, 1], 1 = open

    Raises
    ------
    MeshError : if the set has no model
    CancelledError
    """
    shade = _of_model(parameters, surface)
    return _with_intensity(shade, parameters)


@operation(
    "ambient_occlusion_from_model_and_height",
    version=1,
    title="Baked from model and height",
    output=MapKind.AMBIENT_OCCLUSION,
    inputs=(MapKind.HEIGHT,),
    surface_reads=("tile_size", "depth", "wrap"),
    takes_from="model",
    parameters=(_INTENSITY, RELIEF_REACH, QUALITY, *_RAY_PARAMETERS),
)
def ambient_occlusion_from_model_and_height(
    inputs: Inputs, parameters: Mapping[str, Any], surface: SurfaceContext
) -> Float:
    """Multiply the ambient occlusion of the model by that of the height map.

    Parameters
    ----------
    inputs : height (H, W, 1) float32, [0, 1]

    Returns
    -------
    (H, W, 1) float32, [0, 1], 1 = open

    Raises
    ------
    MeshError : if the set has no model
    CancelledError
    """
    height = inputs[MapKind.HEIGHT]
    rays = tuple(parameters[one.name] for one in _RAY_PARAMETERS)
    model = surface.on_model
    shade = memoized(
        "ambient_occlusion_from_model", height,
        (rays, model.key, model.quick),
        lambda: _of_model(parameters, surface),
    )  # fmt: skip
    relief = ambient_occlusion_from_height(
        inputs, {**parameters, "softness": 0.0, "intensity": 1.0}, surface
    )
    return _with_intensity(shade * relief, parameters)


def _of_model(parameters: Mapping[str, Any], surface: SurfaceContext) -> Float:
    return sampled_from_model(
        surface, "ambient_occlusion", parameters, max_distance=parameters["max_distance"]
    )


def _with_intensity(shade: Float, parameters: Mapping[str, Any]) -> Float:
    if parameters["intensity"] != 1:
        shade = np.power(shade, np.float32(parameters["intensity"]))
    return np.asarray(np.clip(shade, 0, 1), dtype=np.float32)


@operation(
    "bent_normal_from_model",
    version=1,
    title="Baked from the model",
    output=MapKind.BENT_NORMAL,
    inputs=(),
    takes_from="model",
    parameters=_RAY_PARAMETERS,
)
def bent_normal_from_model(
    inputs: Inputs, parameters: Mapping[str, Any], surface: SurfaceContext
) -> Float:
    """Bake the mean unoccluded direction in the model's tangent space (MikkTSpace).

    Returns
    -------
    (H, W, 3) float32, unit vectors, Y up

    Raises
    ------
    MeshError : if the set has no model
    CancelledError
    """
    return sampled_from_model(
        surface, "bent_normal", parameters, max_distance=parameters["max_distance"]
    )
