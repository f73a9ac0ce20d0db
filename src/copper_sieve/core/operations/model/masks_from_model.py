"""Masks from a model: direction of its surface, position, names."""

from __future__ import annotations

from collections.abc import Mapping
from typing import Any

import numpy as np

from copper_sieve.core.baking.on_model import NamedThings
from copper_sieve.core.image.map_kind import KindGroup
from copper_sieve.core.image.raster import Float
from copper_sieve.core.operations.color.ranges import soft_step
from copper_sieve.core.operations.declaration import Inputs, Parameter, SurfaceContext, operation
from copper_sieve.core.operations.model.shared_parameters import (
    DETAILED,
    SAMPLES,
    sampled_from_model,
)

_WAYS = {
    "up": (1, 1), "down": (1, -1), "right": (0, 1), "left": (0, -1), "front": (2, 1),
    "back": (2, -1),
}  # fmt: skip
_SOFTNESS = Parameter("softness", "Softness", 0.2, "width of the fade", group="Finish")
_INVERT = Parameter("invert", "Invert", False, "swaps white and black", group="Finish",
                    form="switch")  # fmt: skip
_FACING = (
    Parameter("direction", "Direction", "up", "direction that is compared with the surface; up is "
                                        "the model's Y axis",
              choices=tuple(_WAYS), group="Direction", form="choice"),
    Parameter("start", "Start", 0.5, "1 faces the direction, 0.5 is "
                                          "perpendicular, 0 faces away; "
                                          "larger values are white", group="Direction"),
    _SOFTNESS, _INVERT, DETAILED, SAMPLES,
)  # fmt: skip
_PLACE = (
    Parameter("direction", "Axis", "up", "axis along which the position is measured; up is the "
                                   "model's Y axis",
              choices=tuple(_WAYS), group="Position", form="choice"),
    Parameter("start", "Start", 0.5, "share of the model's longest "
                                          "side, 0.5 is the center; "
                                          "positions beyond are white", group="Position"),
    _SOFTNESS, _INVERT, DETAILED, SAMPLES,
)  # fmt: skip


_NAMES = (
    Parameter("select_by", "Select by", "parts",
        "selects by names of materials or parts", choices=("parts", "materials"),
              group="Names", form="choice"),
    Parameter("names", "Names", "*", "separated by commas; * matches anything",
              group="Names", form="names"),
    _INVERT, DETAILED,
)  # fmt: skip


def mask_by_name(inputs: Inputs, parameters: Mapping[str, Any], surface: SurfaceContext) -> Float:
    """Return a mask of the parts or materials with given names.

    Returns
    -------
    (H, W, 1) float32, 0 or 1

    Raises
    ------
    MeshError : if the set has no model, or no part or material has such a name
    CancelledError
    """
    names = [one.strip() for one in parameters["names"].split(",")]
    of: NamedThings = "part_id" if parameters["select_by"] == "parts" else "material_id"
    found = surface.on_model.where(of, names, detail=bool(parameters["high_poly"]))
    return np.float32(1) - found if parameters["invert"] else found


def mask_by_facing(inputs: Inputs, parameters: Mapping[str, Any], surface: SurfaceContext) -> Float:
    """Return a mask of surfaces that face a direction, such as dust on upward faces.

    Returns
    -------
    (H, W, 1) float32, [0, 1]

    Raises
    ------
    MeshError : if the set has no model
    CancelledError
    """
    return _along(sampled_from_model(surface, "world_normal", parameters), parameters)


def mask_by_place(inputs: Inputs, parameters: Mapping[str, Any], surface: SurfaceContext) -> Float:
    """Return a mask beyond a position along an axis, such as moisture rising from the ground.

    Returns
    -------
    (H, W, 1) float32, [0, 1]

    Raises
    ------
    MeshError : if the set has no model
    CancelledError
    """
    return _along(sampled_from_model(surface, "position", parameters), parameters)


def _along(values: Float, parameters: Mapping[str, Any]) -> Float:
    axis, sign = _WAYS[parameters["direction"]]
    one = np.ascontiguousarray(values[:, :, axis : axis + 1])
    share = one if sign > 0 else np.float32(1) - one
    found = soft_step(share, parameters["start"], parameters["softness"])
    return np.float32(1) - found if parameters["invert"] else found


for _name, _title, _parameters, _compute in (
    ("facing", "Surface direction on the model", _FACING, mask_by_facing),
    ("place", "Position on the model", _PLACE, mask_by_place),
    ("names", "Parts of the model by name", _NAMES, mask_by_name),
):
    operation(
        f"mask_from_model_{_name}", version=1, title=_title, output=KindGroup.MASKS, inputs=(),
        takes_from="model", parameters=_parameters,
    )(_compute)  # fmt: skip
