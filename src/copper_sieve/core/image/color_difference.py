"""Perceptual color difference: CIEDE2000 on CIE L*a*b* of Rec. 709 light, white D65.

Reference: G. Sharma, W. Wu, E. Dalal, "The CIEDE2000 color-difference formula: implementation
notes, supplementary test data, and mathematical observations", 2005.
"""

from __future__ import annotations

import numpy as np
from numpy.typing import NDArray

from copper_sieve.core.image.raster import Float

_TO_XYZ = np.array(
    [
        [0.4123908, 0.3575843, 0.1804808],
        [0.2126390, 0.7151687, 0.0721923],
        [0.0193308, 0.1191948, 0.9505322],
    ]
)
_WHITE = _TO_XYZ.sum(axis=1)
_EDGE = 6 / 29


def to_lab(light: Float) -> NDArray[np.float64]:
    """Convert linear light to CIE L*a*b* (D65).

    Parameters
    ----------
    light : (..., 3) float32, linear light, sRGB primaries; clipped to [0, 1]

    Returns
    -------
    (..., 3) float64: L* in [0, 100], a* and b*
    """
    xyz = np.clip(light, 0, 1).astype(np.float64) @ _TO_XYZ.T / _WHITE
    f = np.where(xyz > _EDGE**3, np.cbrt(xyz), xyz / (3 * _EDGE**2) + 4 / 29)
    return np.stack(
        [116 * f[..., 1] - 16, 500 * (f[..., 0] - f[..., 1]), 200 * (f[..., 1] - f[..., 2])],
        axis=-1,
    )


def delta_e_2000(one: NDArray[np.float64], other: NDArray[np.float64]) -> NDArray[np.float64]:
    """Return the CIEDE2000 color difference with all weights 1.

    Parameters
    ----------
    one, other : (..., 3) float64, CIE L*a*b*

    Returns
    -------
    (...) float64, >= 0
    """
    l1, a1, b1 = np.moveaxis(one, -1, 0)
    l2, a2, b2 = np.moveaxis(other, -1, 0)
    mean_c = (np.hypot(a1, b1) + np.hypot(a2, b2)) / 2
    g = 0.5 * (1 - np.sqrt(mean_c**7 / (mean_c**7 + 25.0**7)))
    c1, h1 = _chroma_and_hue(a1 * (1 + g), b1)
    c2, h2 = _chroma_and_hue(a2 * (1 + g), b2)
    grey = c1 * c2 == 0
    turn = h2 - h1
    turn = np.where(turn > 180, turn - 360, np.where(turn < -180, turn + 360, turn))
    turn = np.where(grey, 0, turn)
    dh = 2 * np.sqrt(c1 * c2) * np.sin(np.radians(turn) / 2)
    far = np.abs(h1 - h2) > 180
    total = h1 + h2
    hue = np.where(far, np.where(total < 360, total + 360, total - 360), total) / 2
    hue = np.where(grey, total, hue)
    light, chroma = (l1 + l2) / 2, (c1 + c2) / 2
    t = (
        1
        - 0.17 * np.cos(np.radians(hue - 30))
        + 0.24 * np.cos(np.radians(2 * hue))
        + 0.32 * np.cos(np.radians(3 * hue + 6))
        - 0.20 * np.cos(np.radians(4 * hue - 63))
    )
    away = (light - 50) ** 2
    sl = 1 + 0.015 * away / np.sqrt(20 + away)
    sc, sh = 1 + 0.045 * chroma, 1 + 0.015 * chroma * t
    rotated = 30 * np.exp(-(((hue - 275) / 25) ** 2))
    rc = 2 * np.sqrt(chroma**7 / (chroma**7 + 25.0**7))
    rt = -np.sin(np.radians(2 * rotated)) * rc
    dl, dc, dh = (l2 - l1) / sl, (c2 - c1) / sc, dh / sh
    return np.asarray(np.sqrt(np.maximum(dl**2 + dc**2 + dh**2 + rt * dc * dh, 0)))


def _chroma_and_hue(
    a: NDArray[np.float64], b: NDArray[np.float64]
) -> tuple[NDArray[np.float64], NDArray[np.float64]]:
    """Return chroma, and hue in degrees from 0 to 360."""
    return np.hypot(a, b), np.degrees(np.arctan2(b, a)) % 360
