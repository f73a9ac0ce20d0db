"""Pure functions that compute maps, each declared once with its inputs and parameters.

Importing this package registers every operation; adding one is adding a module here.
"""

from copper_sieve.core.operations import (
    ambient_occlusion_from_height,
    height_from_color,
    height_from_normal,
    normal_from_height,
    roughness_from_color,
    roughness_from_glossiness,
)
from copper_sieve.core.operations.declaration import (
    OPERATIONS,
    Operation,
    Parameter,
    Surface,
    default_operation,
    get_operation,
)

__all__ = [
    "OPERATIONS",
    "Operation",
    "Parameter",
    "Surface",
    "ambient_occlusion_from_height",
    "default_operation",
    "get_operation",
    "height_from_color",
    "height_from_normal",
    "normal_from_height",
    "roughness_from_color",
    "roughness_from_glossiness",
]
