"""Curvature and thickness of the linked model."""

from __future__ import annotations

from collections.abc import Mapping
from typing import Any

import numpy as np

from copper_sieve.core.image.map_kind import MapKind
from copper_sieve.core.image.raster import Float
from copper_sieve.core.operations.declaration import Inputs, Parameter, SurfaceContext, operation
from copper_sieve.core.operations.model.shared_parameters import (
    DETAILED,
    RAYS,
    SAMPLES,
    sampled_from_model,
)


@operation(
    "curvature_from_model",
    version=1,
    title="Baked from the model's edges",
    output=MapKind.CURVATURE,
    inputs=(),
    takes_from="model",
    parameters=(
        Parameter("edge_width", "Edge width", 0.0,
            "width to both sides of a hard edge that "
            "counts as curved; 0: 1/100 of the model", high=10.0, unit="m", group="Edges"),
        Parameter("edge_radius", "Edge radius", 0.0,
            "radius of an edge whose curvature is 1; 0: a "
            "90° edge has curvature 1", high=100.0, unit="m", group="Edges"),
        Parameter("show", "Show", "both", "both is centered on 0.5; convex or concave only "
                                          "starts at 0",
                  choices=("both", "convex", "concave"), group="Edges", form="choice"),
        DETAILED, SAMPLES,
    ),
)  # fmt: skip
def curvature_from_model(
    inputs: Inputs, parameters: Mapping[str, Any], surface: SurfaceContext
) -> Float:
    """Bake mean curvature.

    Returns
    -------
    (H, W, 1) float32, [0, 1]; flat is 0.5, or 0 if only one sign is shown

    Raises
    ------
    MeshError : if the set has no model
    CancelledError
    """
    both = sampled_from_model(
        surface, "curvature", parameters, edge_width=parameters["edge_width"],
        edge_radius=parameters["edge_radius"],
    )  # fmt: skip
    if parameters["show"] == "both":
        return both
    bent = both * np.float32(2) - np.float32(1)
    if parameters["show"] == "concave":
        np.negative(bent, out=bent)
    one_side: Float = np.maximum(bent, np.float32(0), out=bent)
    return one_side


@operation(
    "thickness_from_model",
    version=1,
    title="Thickness of the model",
    output=MapKind.THICKNESS,
    inputs=(),
    takes_from="model",
    parameters=(
        Parameter("white_at", "White at", 0.0, "thickness in meters that is white; 0: 1/10 of the "
                                            "model",
                  high=100.0, unit="m", group="Depth"),
        Parameter("invert", "Invert", False, "thin areas are white, for translucency",
                  group="Depth", form="switch"),
        DETAILED, RAYS, SAMPLES,
    ),
)  # fmt: skip
def thickness_from_model(
    inputs: Inputs, parameters: Mapping[str, Any], surface: SurfaceContext
) -> Float:
    """Bake the thickness of the model below each texel.

    Returns
    -------
    (H, W, 1) float32, [0, 1]

    Raises
    ------
    MeshError : if the set has no model
    CancelledError
    """
    found = sampled_from_model(
        surface, "thickness", parameters, max_thickness=parameters["white_at"]
    )
    return np.asarray(1 - found if parameters["invert"] else found, dtype=np.float32)
