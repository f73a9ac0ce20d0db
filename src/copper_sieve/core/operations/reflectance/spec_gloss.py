"""Diffuse, specular color and glossiness from a metallic material, and back; see `workflow`."""

from __future__ import annotations

from collections.abc import Mapping
from typing import Any

import numpy as np

from copper_sieve.core.image.map_kind import MapKind
from copper_sieve.core.image.raster import Float
from copper_sieve.core.operations.declaration import Inputs, Parameter, SurfaceContext, operation
from copper_sieve.core.operations.reflectance.workflow import READINGS, diffuse_of, metal_rough_of

_F0 = Parameter(
    "f0", "Reflectance", 0.04, "reflectance of dielectrics at normal incidence (F0)", high=0.16,
    group="Non-metals",
)  # fmt: skip


def _reading(choices: tuple[str, ...], meaning: str) -> Parameter:
    return Parameter(
        "conversion",
        "Conversion",
        "simple",
        meaning,
        choices=choices,
        group="Conversion",
        form="choice",
    )


_BACK = (
    _F0,
    _reading(READINGS, "how the diffuse color was computed; simple and energy are inverted "
                       "exactly, perceived is a common approximation"),
)  # fmt: skip
_SPEC_GLOSS = (MapKind.DIFFUSE, MapKind.SPECULAR_COLOR)


@operation(
    "diffuse_from_metal_rough",
    version=1,
    title="Base color of dielectric areas",
    output=MapKind.DIFFUSE,
    inputs=(MapKind.BASE_COLOR, MapKind.METALLIC),
    parameters=(
        _F0,
        _reading(READINGS[:2], "simple: base color × (1 − metallic); energy: for renderers "
                               "that reduce diffuse by the specular reflection"),
    ), default=True,
)  # fmt: skip
def diffuse_from_metal_rough(
    inputs: Inputs, parameters: Mapping[str, Any], surface: SurfaceContext
) -> Float:
    """Convert to diffuse color, (H, W, 3) float32, linear light; see `workflow.diffuse_of`."""
    base, metallic = inputs[MapKind.BASE_COLOR], inputs[MapKind.METALLIC]
    return diffuse_of(base, metallic, parameters["f0"], energy=parameters["conversion"] == "energy")


@operation(
    "glossiness_from_roughness",
    version=1,
    title="Inverted roughness",
    output=MapKind.GLOSSINESS,
    inputs=(MapKind.ROUGHNESS,),
    default=True,
)
def glossiness_from_roughness(
    inputs: Inputs, parameters: Mapping[str, Any], surface: SurfaceContext
) -> Float:
    """Convert perceptual roughness to glossiness, 1 - roughness: (H, W, 1) float32, [0, 1]."""
    return np.float32(1) - inputs[MapKind.ROUGHNESS]


@operation(
    "base_color_from_spec_gloss",
    version=1,
    title="Diffuse, and specular color on metallic areas",
    output=MapKind.BASE_COLOR,
    inputs=_SPEC_GLOSS,
    parameters=_BACK,
    default=True,
)
def base_color_from_spec_gloss(
    inputs: Inputs, parameters: Mapping[str, Any], surface: SurfaceContext
) -> Float:
    """Convert to base color, (H, W, 3) float32, linear light; see `workflow.metal_rough_of`."""
    diffuse, specular = (inputs[kind] for kind in _SPEC_GLOSS)
    return metal_rough_of(diffuse, specular, parameters["f0"], parameters["conversion"])[0]


@operation(
    "metallic_from_spec_gloss",
    version=1,
    title="Metallic from specular color",
    output=MapKind.METALLIC,
    inputs=_SPEC_GLOSS,
    parameters=_BACK,
    default=True,
)
def metallic_from_spec_gloss(
    inputs: Inputs, parameters: Mapping[str, Any], surface: SurfaceContext
) -> Float:
    """Convert to metallic, (H, W, 1) float32, [0, 1]; see `workflow.metal_rough_of`."""
    diffuse, specular = (inputs[kind] for kind in _SPEC_GLOSS)
    return metal_rough_of(diffuse, specular, parameters["f0"], parameters["conversion"])[1]
