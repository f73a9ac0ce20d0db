"""Hammered copper: base color, glossiness and a Y-down normal map, as in a texture library."""

from __future__ import annotations

import numpy as np

from copper_sieve.core.image.map_kind import MapKind
from copper_sieve.core.image.normals import vectors_to_encoded
from copper_sieve.core.image.raster import Picture
from copper_sieve.core.operations import SurfaceContext, get_operation
from copper_sieve.demo.drawing import (
    cells,
    color_picture,
    data_picture,
    mix,
    rgb,
    tiling_noise,
)

SURFACE = SurfaceContext.of(tile_size=0.4, depth=0.008, wrap=True)


def draw_hammered_copper(size: int = 1024, seed: int = 11) -> dict[str, Picture]:
    """Draw the three pictures; the keys are the last words of their names."""
    rng = np.random.default_rng(seed)
    dents = cells(rng, size, 18 * 18)
    # Each blow leaves a shallow dish; where two meet there is a soft ridge.
    dish = (dents.first / 0.05) ** 2
    ridge = np.clip((dents.second - dents.first) / 0.012, 0, 1)
    strength = rng.uniform(0.6, 1.0, 18 * 18).astype(np.float32)[dents.nearest]
    height = 0.35 + 0.3 * strength * dish * (0.75 + 0.25 * ridge) - 0.05 * strength
    height += 0.05 * tiling_noise(rng, size, 3) + 0.004 * tiling_noise(rng, size, 90, 1.0)
    height = np.clip(height, 0, 1).astype(np.float32)
    scratches = np.maximum(tiling_noise(rng, size, 160, 0.7) - 0.55, 0)
    hollow = np.clip(0.5 - dish, 0, 1)
    grime = np.clip(tiling_noise(rng, size, 5) * 0.7 + hollow * 0.5 - 0.25, 0, 1)
    copper = mix(rgb(0.90, 0.50, 0.34), rgb(0.95, 0.60, 0.43), tiling_noise(rng, size, 8) * 0.5)
    color = mix(copper, rgb(0.45, 0.20, 0.12), 0.7 * grime)
    gloss = 0.76 - 0.2 * grime - 0.25 * scratches + 0.05 * tiling_noise(rng, size, 30)
    operation = get_operation("normal_from_height")
    normal = operation.compute({MapKind.HEIGHT: height[:, :, None]}, operation.resolve({}), SURFACE)
    red, green, blue = np.moveaxis(vectors_to_encoded(normal), 2, 0)
    return {
        "base_color": color_picture(color),
        "glossiness": data_picture(gloss),
        "normal_dx": data_picture(red, 1 - green, blue),
    }
