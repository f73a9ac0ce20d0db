"""Pure functions that compute maps, each declared once with its inputs and parameters.

Importing this package registers every operation; adding one is adding a module here.
"""

from copper_sieve.core.operations import (
    ambient_occlusion_from_height,
    base_color_from_photo,
    bent_normal_from_height,
    curvature,
    emissive_from_color,
    height_from_color,
    height_from_normal,
    height_from_picture,
    metallic_from_color,
    normal_from_color,
    normal_from_height,
    normal_from_picture,
    opacity,
    ranges,
    reflectance,
    roughness_from_color,
    roughness_from_glossiness,
    roughness_from_picture,
    spec_gloss,
    specular_color_from_color,
)
from copper_sieve.core.operations.blend_normals import blend_normals
from copper_sieve.core.operations.declaration import (
    OPERATIONS,
    Operation,
    Parameter,
    Slot,
    Surface,
    default_operation,
    get_operation,
)

__all__ = [
    "OPERATIONS",
    "Operation",
    "Parameter",
    "Slot",
    "Surface",
    "ambient_occlusion_from_height",
    "base_color_from_photo",
    "bent_normal_from_height",
    "blend_normals",
    "curvature",
    "default_operation",
    "emissive_from_color",
    "get_operation",
    "height_from_color",
    "height_from_normal",
    "height_from_picture",
    "metallic_from_color",
    "normal_from_color",
    "normal_from_height",
    "normal_from_picture",
    "opacity",
    "ranges",
    "reflectance",
    "roughness_from_color",
    "roughness_from_glossiness",
    "roughness_from_picture",
    "spec_gloss",
    "specular_color_from_color",
]
