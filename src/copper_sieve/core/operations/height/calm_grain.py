"""Separates grain from relief: fine detail counts only where the next coarser band agrees.

The fine grain of a photo is often color. Shape (a joint, a crack, a fiber, the edge of a stone)
appears in the next coarser band at the same position; grain doesn't.
"""

from __future__ import annotations

import cv2
import numpy as np
from numba import njit, prange

from copper_sieve.core.image.raster import Float
from copper_sieve.core.image.resize import area_average
from copper_sieve.core.image.wrap import Wrap, pad

_FINE, _COARSE = 0.003, 0.012  # sigma, fractions of the tile: finer than that, and the band above
_MEASURED_SIDE = 512  # texels at which strengths are measured, the same for all sizes of a result
_EDGE = 4  # texels about a field that is enlarged
_SMALLEST = 1e-12


def calm_grain(relief: Float, calm: float, wrap: Wrap) -> None:
    """Reduce the grain of a relief in place.

    With E the local strength (root mean square, sigma 0.012 of the tile) of detail finer than sigma
    0.003 and C that of the band from there to 0.012, the fine band is multiplied by
    C (1 - calm) / (C (1 - calm) + E calm).

    Parameters
    ----------
    relief : (H, W) float32 around 0; modified
    calm : share of fine detail to remove, 0 to 1
    wrap : tiling directions
    """
    small = area_average(relief, _MEASURED_SIDE)
    smooth = _smooth(small, _FINE, wrap)
    above = smooth - _smooth(small, _COARSE, wrap)
    fine = small - smooth
    strong, grainy = _strength(above, wrap), _strength(fine, wrap)
    strong *= np.float32(1 - calm)
    beside = grainy * np.float32(calm) + np.float32(_SMALLEST)
    share = np.asarray(strong / (strong + beside), dtype=np.float32)
    rows, columns = relief.shape
    wide, wide_share = (_wider(pad(field, _EDGE, wrap), columns) for field in (smooth, share))
    lines, share_lines = _places(rows, smooth.shape[0]), _places(rows, share.shape[0])
    _mix(relief, wide, lines, wide_share, share_lines)


def _smooth(field: Float, sigma: float, wrap: Wrap) -> Float:
    """Blur a reduced field with a Gaussian of a fraction of the tile."""
    texels = max(sigma * field.shape[1], 0.3)
    edge = min(int(np.ceil(4 * texels)), *field.shape)
    wide = cv2.GaussianBlur(pad(field, edge, wrap), (0, 0), texels)
    return np.asarray(wide[edge:-edge, edge:-edge], np.float32)


def _strength(band: Float, wrap: Wrap) -> Float:
    """Return the local root mean square, at half the resolution."""
    rows, columns = band.shape
    power = cv2.resize(band * band, (-(-columns // 2), -(-rows // 2)), interpolation=cv2.INTER_AREA)
    power = _smooth(np.asarray(power, np.float32), _COARSE, wrap)
    return np.asarray(np.sqrt(np.maximum(power, _SMALLEST)), np.float32)


def _wider(padded: Float, columns: int) -> Float:
    """Enlarge the lines of a padded field to more columns, by linear interpolation."""
    out = np.empty((padded.shape[0], columns), dtype=np.float32)
    _widen(padded, _places(columns, padded.shape[1] - 2 * _EDGE), out)
    return out


@njit(parallel=True, cache=True, nogil=True, error_model="numpy")
def _widen(padded: Float, places: Float, out: Float) -> None:
    for r in prange(out.shape[0]):
        for c in range(out.shape[1]):
            x = int(places[c])
            here = padded[r, x]
            out[r, c] = here + (padded[r, x + 1] - here) * (places[c] - np.float32(x))


def _places(size: int, small: int) -> Float:
    """Return the positions of texel centers on a padded reduced line, (size,) float32."""
    at = (np.arange(size) + 0.5) * (small / size) - 0.5 + _EDGE
    return np.asarray(at, dtype=np.float32)


@njit(parallel=True, cache=True, nogil=True, error_model="numpy")
def _mix(relief: Float, smooth: Float, lines: Float, share: Float, share_lines: Float) -> None:
    """Apply a reduced field and share in place, interpolated linearly between lines."""
    for r in prange(relief.shape[0]):
        y, t = int(lines[r]), int(share_lines[r])
        fy, ft = lines[r] - np.float32(y), share_lines[r] - np.float32(t)
        for c in range(relief.shape[1]):
            base = smooth[y, c] + (smooth[y + 1, c] - smooth[y, c]) * fy
            keep = share[t, c] + (share[t + 1, c] - share[t, c]) * ft
            relief[r, c] = base + (relief[r, c] - base) * keep
