"""Removal of large-scale lighting from a photo, such as a bright corner or a soft shadow."""

from __future__ import annotations

from dataclasses import dataclass

import numpy as np

from copper_sieve.core.image.encoding import luminance
from copper_sieve.core.image.raster import Float
from copper_sieve.core.image.wrap import Wrap
from copper_sieve.core.operations.numerics.spectrum import blur

_DARK = np.float32(0.002)  # linear value below which darkness isn't reliable
_BLOTCH = 0.06  # sigma of the size of a blotch, as a share of the width
_LEAST_STOPS, _LEAST_SHARE, _MOST_SHARE = 0.3, 0.01, 0.35
_SHOWN_STOPS = 2.0  # stops that are displayed as white and black


def delight(photo: Float, *, strength: float, scale: float, wrap: Wrap | bool) -> Float:
    """Remove large-scale lighting from a photo (homomorphic filter).

    In log luminance, low frequencies above `scale` are reduced by `strength` toward their mean; the
    mean brightness and the hues are preserved.

    Parameters
    ----------
    photo : (H, W, 3) float32, linear light
    strength : share of the uneven lighting to remove, 0 to 1
    scale : standard deviation of the Gaussian as a fraction of the picture's width, > 0
    wrap : tiling directions

    Returns
    -------
    (H, W, 3) float32, linear light

    References
    ----------
    A. Oppenheim, R. Schafer and T. Stockham, Nonlinear filtering of multiplied and convolved
    signals, 1968.
    """
    light = luminance(photo)
    light += _DARK
    large = blur(np.log(light, out=light), scale, wrap=wrap)
    gain = np.exp(np.float32(-strength) * (large - large.mean(dtype=np.float64)))
    return np.asarray(photo * gain[:, :, None], dtype=np.float32)


@dataclass(frozen=True, slots=True)
class Blotches:
    """Dark blotches of a color map that would show as repetition.

    stops : darker than the rest, > 0
    share : of the picture, 0 to 1
    scale : `even_light` scale that removes them
    """

    stops: float
    share: float
    scale: float = _BLOTCH


def blotches_of(color: Float, *, wrap: Wrap | bool) -> Blotches | None:
    """Find dark blotches of uneven lighting.

    A blotch is larger than an eighth of the width, at least a third of a stop darker than the
    median, and covers between a hundredth and a third of the picture: anything smaller is an
    object, anything larger is the surface itself.

    Parameters
    ----------
    color : (H, W, 3) float32, linear light; a small picture is sufficient
    wrap : tiling directions

    Returns
    -------
    Blotches, or None if the lighting is even
    """
    large = blur(np.log2(luminance(color) + _DARK), _BLOTCH, wrap=wrap)
    below = float(np.median(large)) - large
    dark = below > _LEAST_STOPS
    share = float(dark.mean())
    if not _LEAST_SHARE <= share <= _MOST_SHARE:
        return None
    return Blotches(float(np.median(below[dark])), share)


def removed_lighting(before: Float, after: Float) -> tuple[Float, float]:
    """Return the lighting that was removed between two pictures.

    Parameters
    ----------
    before, after : (H, W, 3) float32, linear light

    Returns
    -------
    (H, W, 1) float32, [0, 1]: 0.5 is unchanged, above is removed light, below is removed shadow;
        0 and 1 are two stops
    float, range of the removed lighting in stops, from the 5th to the 95th percentile
    """
    stops = np.log2((luminance(before) + _DARK) / (luminance(after) + _DARK))
    low, high = np.percentile(stops, [5, 95])
    shown = np.clip(0.5 + stops / (2 * _SHOWN_STOPS), 0, 1)
    return np.asarray(shown[:, :, None], np.float32), float(high - low)
