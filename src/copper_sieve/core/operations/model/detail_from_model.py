"""Transfer height, normals and colors of a high-poly model to a set's low-poly model."""

from __future__ import annotations

from collections.abc import Mapping
from typing import Any

from copper_sieve.core.errors import MeshError
from copper_sieve.core.image.map_kind import MapKind
from copper_sieve.core.image.raster import Float
from copper_sieve.core.operations.declaration import Inputs, Parameter, SurfaceContext, operation
from copper_sieve.core.operations.model.shared_parameters import SAMPLES, sampled_from_model


@operation(
    "normal_from_high_poly",
    version=1,
    title="Baked from the high-poly model",
    output=MapKind.NORMAL,
    inputs=(),
    takes_from="high_poly",
    parameters=(SAMPLES,),
)
def normal_from_high_poly(
    inputs: Inputs, parameters: Mapping[str, Any], surface: SurfaceContext
) -> Float:
    """Transfer the high-poly normals to the low-poly model's tangent space (MikkTSpace).

    Returns
    -------
    (H, W, 3) float32, unit vectors, Y up

    Raises
    ------
    MeshError : without a high-poly model
    CancelledError
    """
    return _from_detail(surface, "normal", parameters)


@operation(
    "height_from_high_poly",
    version=1,
    title="Baked from the high-poly model",
    output=MapKind.HEIGHT,
    inputs=(),
    takes_from="high_poly",
    parameters=(
        Parameter("range_m", "From 0 to 1", 0.02,
            "meters of height between black "
            "and white; the low-poly surface "
            "is 0.5", low=1e-5, high=100.0, unit="m", group="Relief"),
        SAMPLES,
    ),
    states_depth="range_m",
)  # fmt: skip
def height_from_high_poly(
    inputs: Inputs, parameters: Mapping[str, Any], surface: SurfaceContext
) -> Float:
    """Return the height of the high-poly surface above the low-poly one.

    Returns
    -------
    (H, W, 1) float32, [0, 1], 0.5 = zero distance

    Raises
    ------
    MeshError : without a high-poly model
    CancelledError
    """
    return _from_detail(surface, "height", parameters, height_range=parameters["range_m"])


@operation(
    "base_color_from_high_poly",
    version=1,
    title="Vertex colors of the high-poly model",
    output=MapKind.BASE_COLOR,
    inputs=(),
    takes_from="high_poly",
    parameters=(SAMPLES,),
)
def base_color_from_high_poly(
    inputs: Inputs, parameters: Mapping[str, Any], surface: SurfaceContext
) -> Float:
    """Transfer the vertex colors of the high-poly model.

    Returns
    -------
    (H, W, 3) float32, linear light

    Raises
    ------
    MeshError : without a high-poly model
    ParameterError : if it has no vertex colors
    CancelledError
    """
    return _from_detail(surface, "base_color", parameters)


def _from_detail(
    surface: SurfaceContext, wanted: str, parameters: Mapping[str, Any], **lengths: float | None
) -> Float:
    if surface.on_model.high_poly is None:
        raise MeshError(
            "this requires a high-poly model, but the set has none. Choose one for the set"
        )
    return sampled_from_model(surface, wanted, parameters, **lengths)
