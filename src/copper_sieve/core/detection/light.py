"""Light direction in a photo, from the orientation of its shading, ambiguous by 180°.

Shading is the slope of the relief toward the light, so structures across the light are visible and
those along it aren't. A picture alone can't distinguish bumps lit from the right from dents lit
from the left: both interpretations are returned, and the user chooses.
"""

from __future__ import annotations

from dataclasses import dataclass

import numpy as np

from copper_sieve.core.image.encoding import decode_color, luminance
from copper_sieve.core.image.raster import Encoding, Float, Picture
from copper_sieve.core.image.resize import area_average

_SEEN_SIDE = 512  # texels of the longer side that are looked at
_BAND = (0.01, 0.12)  # cycles per texel: neither the unevenness of the light nor grain
_LIT = 0.22  # strength from which one side of everything is lit; even light stays below 0.15


@dataclass(frozen=True, slots=True)
class LightEstimate:
    """Direction of the light in a picture.

    azimuth : degrees, 0 to below 180; 0 is right (or left), 90 is top (or bottom)
    strength : 0 is even light, 1 is strongly directional
    """

    azimuth: float
    strength: float

    @property
    def lit(self) -> bool:
        """One side of everything is lit, or the surface itself runs one way."""
        return self.strength >= _LIT


def estimate_light(picture: Picture) -> LightEstimate:
    """Estimate the light direction in a picture from its colors, without alpha."""
    names: list[str] = [name for name in ("R", "G", "B") if name in picture.channels] or ["Y"]
    codes = [np.ascontiguousarray(picture.channel(name)) for name in names]
    stacked = np.stack(codes * (3 if len(codes) == 1 else 1), axis=2)
    small = area_average(stacked, _SEEN_SIDE)
    return estimate_light_of_color(decode_color(small, picture.encoding is Encoding.SRGB))


def estimate_light_of_color(color: Float) -> LightEstimate:
    """Estimate the light direction in a color map.

    The direction of the mean of exp(2i phi) over the luminance spectrum, where phi is the direction
    of each frequency, weighted by the power of its gradient.

    Parameters
    ----------
    color : (H, W, 3) float32, linear light

    Returns
    -------
    LightEstimate
    """
    light = luminance(color)
    rows, columns = light.shape
    if min(rows, columns) < 16:
        return LightEstimate(0.0, 0.0)
    window = np.hanning(rows)[:, None] * np.hanning(columns)[None]
    power = np.abs(np.fft.rfft2((light - light.mean()) * window)) ** 2
    fy, fx = np.fft.fftfreq(rows)[:, None], np.fft.rfftfreq(columns)[None]
    size = np.hypot(fx, fy)
    power *= size * size * ((size > _BAND[0]) & (size < _BAND[1]))
    power[:, 1:] *= 2  # the other half of the spectrum
    total = float(power.sum())
    if total <= 1e-9:
        return LightEstimate(0.0, 0.0)
    twice = 2 * np.arctan2(-fy, fx)  # rows run down
    run, rise = float((power * np.cos(twice)).sum()), float((power * np.sin(twice)).sum())
    return LightEstimate(
        float(np.degrees(np.arctan2(rise, run)) / 2 % 180), float(np.hypot(run, rise)) / total
    )
