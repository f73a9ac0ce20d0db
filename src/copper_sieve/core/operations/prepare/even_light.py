"""Take the large-scale light out of a photo: a bright corner, a soft shadow."""

from __future__ import annotations

import numpy as np

from copper_sieve.core.image.encoding import luminance
from copper_sieve.core.image.raster import Float
from copper_sieve.core.image.wrap import Wrap
from copper_sieve.core.operations.spectrum import blur

_DARK = np.float32(0.002)  # light below which darkness says nothing


def even_light(photo: Float, *, strength: float, scale: float, wrap: Wrap | bool) -> Float:
    """Divide a photo by its light, as far as it varies over long stretches.

    In log luminance: the part larger than `scale` is reduced by `strength` about its mean, so the
    picture keeps its lightness and every texel its color.

    photo : (H, W, 3) float32, linear light
    strength : share of the large-scale light taken out, 0 to 1
    scale : standard deviation of what counts as large, a fraction of the picture's width, > 0
    wrap : which borders meet
    Returns (H, W, 3) float32, linear light.

    Reference: homomorphic filtering; A. Oppenheim, R. Schafer, T. Stockham, "Nonlinear filtering of
    multiplied and convolved signals", 1968.
    """
    light = luminance(photo)
    light += _DARK
    large = blur(np.log(light, out=light), scale, wrap=wrap)
    gain = np.exp(np.float32(-strength) * (large - large.mean(dtype=np.float64)))
    return np.asarray(photo * gain[:, :, None], dtype=np.float32)
