"""Maps measured from light captures: normals, base color, roughness, uncertainty."""

from __future__ import annotations

from collections.abc import Mapping
from typing import Any

import numpy as np

from copper_sieve.core.image.map_kind import MapKind
from copper_sieve.core.image.normals import normalize
from copper_sieve.core.image.raster import Float
from copper_sieve.core.measuring.measure import MeasuredSurface as Measured
from copper_sieve.core.operations.declaration import Inputs, Parameter, SurfaceContext, operation
from copper_sieve.core.operations.measured.fill_uncertain import fill_uncertain
from copper_sieve.core.operations.reflectance.roughness_finish import (
    ROUGHNESS_FINISH,
    finish_roughness,
    move_median,
)

MEASURED = "measured"  # the name of their input
_NORMAL, _COLOR, _ROUGH, _UNCERTAINTY, _CONFIDENCE, _F0 = slice(0, 3), slice(3, 6), 6, 7, 8, 9


def joined(surface: Measured) -> Float:
    """Return all measured fields as (H, W, 10) float32, the input of these operations."""
    f0 = np.full_like(surface.confidence, surface.f0)
    each = (
        surface.normal,
        surface.color,
        surface.roughness,
        surface.uncertainty,
        surface.confidence,
        f0,
    )
    return np.concatenate(each, axis=2, dtype=np.float32)


@operation(
    "normal_from_captures",
    version=1,
    title="Measured from light captures",
    output=MapKind.NORMAL,
    inputs=(),
    takes_from="captures",
    parameters=(
        Parameter("strength", "Intensity", 1.0, "factor on the slopes; 1 is as measured", high=4.0),
        Parameter(
            "fill_uncertain", "Estimated where uncertain", 0.0,
            "weight of slopes estimated from the color where the lights contradict each "
                "other", group="Uncertainty",
        ),
    ),
)  # fmt: skip
def normal_from_captures(
    inputs: Inputs, parameters: Mapping[str, Any], surface: SurfaceContext
) -> Float:
    """Return the measured normals, (H, W, 3) float32, unit vectors, Y up."""
    measured = inputs[MEASURED]
    normal = measured[:, :, _NORMAL]
    if parameters["fill_uncertain"]:
        weight = measured[:, :, _UNCERTAINTY] * np.float32(parameters["fill_uncertain"])
        normal = fill_uncertain(normal, measured[:, :, _COLOR], weight, surface)
    if parameters["strength"] == 1:
        return np.ascontiguousarray(normal)
    steeper = normal * np.array([parameters["strength"]] * 2 + [1], np.float32)
    return normalize(steeper)


@operation(
    "base_color_from_captures",
    version=1,
    title="Measured from light captures",
    output=MapKind.BASE_COLOR,
    inputs=(),
    takes_from="captures",
    parameters=(
        Parameter("exposure", "Exposure", 0.0, "in stops; the overall brightness is only as "
                                               "accurate as the known strength of the light",
                  low=-6.0, high=6.0, unit="stops"),
    ),
)  # fmt: skip
def base_color_from_captures(
    inputs: Inputs, parameters: Mapping[str, Any], surface: SurfaceContext
) -> Float:
    """Return the measured diffuse reflectance, (H, W, 3) float32, linear light, [0, 1]."""
    color = inputs[MEASURED][:, :, _COLOR]
    return np.asarray(np.clip(color * np.float32(2 ** parameters["exposure"]), 0, 1), np.float32)


@operation(
    "roughness_from_captures",
    version=1,
    title="Measured from highlights",
    output=MapKind.ROUGHNESS,
    inputs=(),
    takes_from="captures",
    parameters=(
        Parameter("offset", "Offset", 0.0, "added to the roughness everywhere", low=-1.0),
        Parameter("contrast", "Contrast", 1.0, "factor on differences from the median", high=4.0),
        *ROUGHNESS_FINISH,
    ),
)
def roughness_from_captures(
    inputs: Inputs, parameters: Mapping[str, Any], surface: SurfaceContext
) -> Float:
    """Return perceptual roughness measured from highlights, (H, W, 1) float32, [0, 1].

    Without a highlight, it is estimated from the neighborhood.
    """
    rough = np.ascontiguousarray(inputs[MEASURED][:, :, _ROUGH])
    rough = move_median(rough, None, parameters["contrast"]) + np.float32(parameters["offset"])
    return finish_roughness(rough, parameters, surface)


@operation(
    "uncertainty_from_captures",
    version=1,
    title="Uncertainty of the measurement",
    output=MapKind.UNCERTAINTY,
    inputs=(),
    takes_from="captures",
    parameters=(
        Parameter(
            "adjustment", "Adjustment", "normals",
            "normals are uncertain where "
            "lights contradict each other or "
            "don't reach, roughness where no "
            "highlight was visible", choices=("normals", "roughness"), form="choice",
        ),
    ),
)  # fmt: skip
def uncertainty_from_captures(
    inputs: Inputs, parameters: Mapping[str, Any], surface: SurfaceContext
) -> Float:
    """Return the uncertainty of the measurement, (H, W, 1) float32: 0 is certain, 1 is unknown."""
    measured = inputs[MEASURED]
    if parameters["adjustment"] == "roughness":
        return 1 - measured[:, :, _CONFIDENCE, None]
    return np.ascontiguousarray(measured[:, :, _UNCERTAINTY, None])


@operation(
    "f0_from_captures",
    version=1,
    title="Measured from highlights",
    output=MapKind.F0,
    inputs=(),
    takes_from="captures",
)
def f0_from_captures(
    inputs: Inputs, parameters: Mapping[str, Any], surface: SurfaceContext
) -> Float:
    """Return F0, (H, W, 1) float32, constant: estimated from highlights, or 0.04."""
    return np.ascontiguousarray(inputs[MEASURED][:, :, _F0, None])
