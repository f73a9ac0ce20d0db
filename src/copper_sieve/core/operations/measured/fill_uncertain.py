"""Slopes estimated from the color where the measurement is uncertain."""

from __future__ import annotations

import numpy as np

from copper_sieve.core.image.map_kind import MapKind
from copper_sieve.core.image.normals import normalize
from copper_sieve.core.image.raster import Float
from copper_sieve.core.image.wrap import Wrap
from copper_sieve.core.operations.declaration import SurfaceContext, get_operation

_STEEPEST = 0.1  # least z of a normal whose slope is taken
_SURE = 0.05  # least share of sure texels by which a guess can be judged


def fill_uncertain(normal: Float, color: Float, weight: Float, surface: SurfaceContext) -> Float:
    """Replace uncertain normals with an estimate from the color.

    The estimate is a height derived from the color, whose amplitude fits the certain normals best
    (least squares, either sign); it is flat where color and relief are unrelated.

    Parameters
    ----------
    normal : (H, W, 3) float32, unit vectors, Y up
    color : (H, W, 3) float32, linear light
    weight : (H, W) float32, [0, 1], weight of the estimate
    surface : size and tiling

    Returns
    -------
    (H, W, 3) float32, unit vectors, Y up
    """
    guess = get_operation("height_from_color")
    height = guess.compute({MapKind.BASE_COLOR: color}, guess.resolve({}), surface)[:, :, 0]
    across, down = _slopes(height, surface.wrap)
    z = np.maximum(normal[:, :, 2], np.float32(_STEEPEST))
    along, up = normal[:, :, 0] / z, normal[:, :, 1] / z
    sure = 1 - weight
    if sure.mean() < _SURE:
        scale = np.float32(0)
    else:
        own = float((sure * (across * across + down * down)).sum())
        with_it = float((sure * (down * up - across * along)).sum())
        scale = np.float32(with_it / own if own > 0 else 0)
    x = along * sure - across * scale * weight
    y = up * sure + down * scale * weight
    return normalize(np.stack([x, y, np.ones_like(x)], axis=2).astype(np.float32))


def _slopes(height: Float, wrap: Wrap) -> tuple[Float, Float]:
    """Return differences of a height to the right and downward, wrapped at tileable borders."""
    across, down = np.gradient(height, axis=1), np.gradient(height, axis=0)
    if wrap.across:
        across[:, 0] = (height[:, 1] - height[:, -1]) / 2
        across[:, -1] = (height[:, 0] - height[:, -2]) / 2
    if wrap.down:
        down[0] = (height[1] - height[-1]) / 2
        down[-1] = (height[0] - height[-2]) / 2
    return np.asarray(across, np.float32), np.asarray(down, np.float32)
