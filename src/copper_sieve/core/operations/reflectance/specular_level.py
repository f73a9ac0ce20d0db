"""Reflectance of dielectrics at normal incidence: F0, specular level, index of refraction.

F0 = 0.08 x specular level; F0 = ((n - 1) / (n + 1))^2 of the index n (Fresnel, against air).
"""

from __future__ import annotations

import math
from collections.abc import Mapping
from typing import Any

import numpy as np

from copper_sieve.core.errors import RangeError
from copper_sieve.core.image.map_kind import MapKind
from copper_sieve.core.image.raster import Float
from copper_sieve.core.operations.declaration import Inputs, SurfaceContext, operation

_FULL_LEVEL = np.float32(0.08)


def f0_from_ior(index: float) -> float:
    """Return the reflectance at normal incidence of an index of refraction >= 1.

    Raises
    ------
    RangeError : if the index is below 1
    """
    if not (math.isfinite(index) and index >= 1):
        raise RangeError(f"the index of refraction must be 1 or more, not {index:g}")
    return ((index - 1) / (index + 1)) ** 2


def ior_from_f0(f0: float) -> float:
    """Return the index of refraction of a reflectance in [0, 1).

    Raises
    ------
    RangeError : if the reflectance is outside the range
    """
    if not 0 <= f0 < 1:
        raise RangeError(
            f"reflectance must be from 0 to 1 to have an index of refraction, not {f0:g}"
        )
    root = math.sqrt(f0)
    return (1 + root) / (1 - root)


@operation(
    "f0_from_specular_level",
    version=1,
    title="0.08 times the specular level",
    output=MapKind.F0,
    inputs=(MapKind.SPECULAR_LEVEL,),
    default=True,
)
def f0_from_specular_level(
    inputs: Inputs, parameters: Mapping[str, Any], surface: SurfaceContext
) -> Float:
    """Convert specular level to F0, 0.08 x level: (H, W, 1) float32, [0, 0.08]."""
    return np.asarray(inputs[MapKind.SPECULAR_LEVEL] * _FULL_LEVEL, dtype=np.float32)


@operation(
    "specular_level_from_f0",
    version=1,
    title="F0 over 0.08",
    output=MapKind.SPECULAR_LEVEL,
    inputs=(MapKind.F0,),
    default=True,
)
def specular_level_from_f0(
    inputs: Inputs, parameters: Mapping[str, Any], surface: SurfaceContext
) -> Float:
    """Convert F0 to specular level, F0 / 0.08, clamped: (H, W, 1) float32, [0, 1]."""
    level = np.asarray(inputs[MapKind.F0] * np.float32(1 / _FULL_LEVEL), dtype=np.float32)
    return np.clip(level, 0, 1, out=level)
