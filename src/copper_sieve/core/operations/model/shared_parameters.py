"""Parameters that several operations on models share."""

from __future__ import annotations

from collections.abc import Mapping
from typing import Any

from copper_sieve.core.image.raster import Float
from copper_sieve.core.operations.declaration import Parameter, SurfaceContext

RAYS = Parameter(
    "rays", "Rays", "64", "rays per sample; more rays give less noise",
    choices=("16", "32", "64", "128", "256", "512"), group="Quality", form="choice",
)  # fmt: skip
SAMPLES = Parameter(
    "samples", "Samples", "1", "sample points per texel; the preview uses one",
    choices=("1", "4", "9", "16"), group="Quality", form="choice",
)  # fmt: skip
DETAILED = Parameter(
    "high_poly", "High-poly", True, "bakes from the high-poly model if the set has one",
    group="Model", form="switch",
)  # fmt: skip
REACH = Parameter(
    "max_distance", "Max. distance", 0.0, "larger distances don't occlude, in "
                                   "meters; 0: no limit", high=100.0, unit="m",
    group="Shade",
)  # fmt: skip
GROUND = Parameter(
    "ground_plane", "Ground plane", False, "a plane below the model occludes it", group="Shade",
    form="switch",
)  # fmt: skip
ALONE = Parameter(
    "isolate_parts", "Isolate parts", False, "parts don't occlude each other", group="Shade",
    form="switch",
)  # fmt: skip


def sampled_from_model(
    surface: SurfaceContext, wanted: str, parameters: Mapping[str, Any], **lengths: float | None
) -> Float:
    """Bake a map of the set's model with the shared parameters above.

    Parameters
    ----------
    surface : with the model
    wanted : name of the map; see `BAKED_MAPS`
    parameters : of the operation
    lengths : fields of `BakeOptions` in meters; 0: from the size of the model

    Returns
    -------
    (H, W, C) float32

    Raises
    ------
    MeshError : if the set has no model
    CancelledError
    """
    model = surface.on_model
    more: dict[str, Any] = {name: length or None for name, length in lengths.items()}
    for name in ("ground_plane", "isolate_parts"):
        if name in parameters:
            more[name] = parameters[name]
    if "rays" in parameters:
        more["rays"] = int(parameters["rays"])
    detail = bool(parameters.get("high_poly", True)) and model.high_poly is not None
    samples = int(parameters.get("samples", 1))
    return model.take(wanted, samples=samples, detail=detail, **more)
