"""Overlap of the borders of a tile, aligned with regular structures."""

from __future__ import annotations

import cv2
import numpy as np

from copper_sieve.core.image.raster import Float

_USUAL_OVERLAP = 0.2
_OVERLAPS = (0.08, 0.4)
_PLANNED_SIDE = 512  # texels at which the overlap is looked for
_NEARBY = (256, 64)  # parts of a side around it: with a clear period, and without
_OFF_STEP = 80  # share of the side: uncertainty of a period found on a reduced copy
_AS_GOOD = 0.9  # of the best correlation: periods that fit as well
CLEAR_PERIOD = 0.25  # correlation from which the structure's own period decides


def best_overlaps(seen: Float) -> tuple[int, int]:
    """Return the best overlap in texels of the left and right, and of the top and bottom borders.

    Parameters
    ----------
    seen : (H, W, C) float32, in a perceptually uniform encoding, periodic
    """
    grey = seen.mean(axis=2)
    return _overlap_of(grey), _overlap_of(np.ascontiguousarray(grey.T))


def _overlap_of(grey: Float) -> int:
    """Return the overlap in texels that aligns a regular structure, or else the default share."""
    share, clear = best_shift(grey)
    width = grey.shape[1]
    if clear < CLEAR_PERIOD:
        share, reach = 1 - _USUAL_OVERLAP, width // _NEARBY[1]
    else:
        share, reach = _in_step(grey, share), width // _NEARBY[0]
    usual = max(4, width - round(share * width))
    # Where the tile will end neighboring columns are as alike as there are any nearby; of three, so
    # that it holds for pictures of another size.
    near = np.arange(max(4, usual - reach), min(width // 2, usual + reach) + 1)
    steps = np.abs(np.diff(grey[:, width - near[-1] - 2 : width - near[0] + 2], axis=1))
    unlike = np.convolve(steps.mean(axis=0), np.ones(3), "valid")[::-1]
    return int(near[np.argmin(unlike)])


def _in_step(grey: Float, share: float) -> float:
    """Return the shift near `share` of the width with the most similar borders, exact to the texel.

    A reduced picture only determines a period approximately.
    """
    width = grey.shape[1]
    usual = width - round(share * width)
    reach = max(2, width // _OFF_STEP)
    even = grey - grey.mean()
    overlaps = range(max(8, usual - reach), min(width // 2, usual + reach) + 1)
    best = max(overlaps, key=lambda overlap: _alike(even, overlap))
    return float((width - best) / width)


def _alike(fine: Float, overlap: int) -> float:
    """Return the similarity of the left and the right border; 1 if they are equal."""
    a, b = fine[:, :overlap], fine[:, -overlap:]
    power = float((a * a).sum() + (b * b).sum())
    return 2 * float((a * b).sum()) / max(power, 1e-9)


def best_shift(grey: Float) -> tuple[float, float]:
    """Return the shift with the most similar borders, in widths, and the similarity.

    Parameters
    ----------
    grey : (H, W) float32
    """
    scale = min(1.0, _PLANNED_SIDE / max(grey.shape))
    size = (max(16, round(grey.shape[1] * scale)), max(16, round(grey.shape[0] * scale)))
    small = cv2.resize(np.ascontiguousarray(grey), size, interpolation=cv2.INTER_AREA)
    fine = small - cv2.GaussianBlur(small, (0, 0), max(2.0, size[0] / 24))
    width = size[0]
    overlaps = np.arange(max(8, round(_OVERLAPS[0] * width)), round(_OVERLAPS[1] * width) + 1)
    alike = np.array([_alike(fine, int(one)) for one in overlaps])
    best = int(alike.argmax())
    if alike[best] > CLEAR_PERIOD:
        # Of several periods that fit the one whose overlap is nearest to the usual.
        padded = np.pad(alike, 1, constant_values=-1)
        peak = (alike >= padded[:-2]) & (alike >= padded[2:]) & (alike >= _AS_GOOD * alike[best])
        usual = np.abs(overlaps - _USUAL_OVERLAP * width) + 1e9 * ~peak
        best = int(usual.argmin())
    return float((width - overlaps[best]) / width), float(alike[best])
