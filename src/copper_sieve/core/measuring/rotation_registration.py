"""Approximate rotation of a sample that was turned under a fixed light.

The light comes from another side of the sample each time, so the compared quantities are the
local amount of detail (length of the gradient) and the color ratios, not brightness. Each picture
is rotated in steps of some degrees and correlated with others by Fourier transform; the most
certain pairs connect all of them.
"""

from __future__ import annotations

from collections.abc import Sequence
from dataclasses import dataclass

import cv2
import numpy as np
import scipy  # its parts are loaded when they are used
from numpy.typing import NDArray

from copper_sieve.core.image.raster import Codes, Float
from copper_sieve.core.measuring.stack import Placement

_SIDE = 128  # texels of a square around the middle
_STEP = 3.0  # degrees
_FINE = 0.5
_AROUND = 6.0  # texels: larger structures are lighting
_FARTHEST = 0.12  # of the side, by which a sample may have slid
_SEEN = 0.999  # share of a texel inside the picture
_COLORED = 0.02  # share of color contrast for a reliable match
_LEAST = 0.15  # correlation of a pair that shows the same


@dataclass(frozen=True, slots=True)
class _Pair:
    """Two pictures with the placement of the second relative to the first, in texels of the reduced
    square.
    """

    first: int
    second: int
    score: float
    place: Placement


def coarse_rotations(pictures: Sequence[Float]) -> list[Placement] | None:
    """Return the placement of each picture relative to the first one, if the sample was rotated.

    Parameters
    ----------
    pictures : (h, w, 3) each, of one size and any brightness; small copies are sufficient

    Returns
    -------
    placements in texels of these pictures; None if they have too little in common
    """
    height, width = pictures[0].shape[:2]
    side = min(height, width)
    squares = [_happening(one, side) for one in pictures]
    spectra = [_turned_spectra(one) for one in squares]
    pairs = [
        _best_pair(n, m, squares, spectra)
        for n, m in {*((0, m) for m in range(1, len(squares))),
                     *((m - 1, m) for m in range(1, len(squares)))}
    ]  # fmt: skip
    found = _chained(len(squares), [one for one in pairs if one.score >= _LEAST])
    if found is None:
        return None
    scale = side / _SIDE
    return [Placement(one.right * scale, one.down * scale, one.rotation) for one in found]


def rectify_rotations(codes: Codes | Float, place: Placement) -> Codes | Float:
    """Rectify a picture to the orientation of the surface; areas outside count as clipped."""
    height, width = codes.shape[:2]
    c, s = np.cos(np.radians(place.rotation)), np.sin(np.radians(place.rotation))
    x, y = (width - 1) / 2, (height - 1) / 2
    matrix = np.array(
        [[c, -s, x + place.right - c * x + s * y], [s, c, y + place.down - s * x - c * y]]
    )
    flags = cv2.INTER_CUBIC | cv2.WARP_INVERSE_MAP
    size = width, height
    found = cv2.warpAffine(codes, matrix, size, flags=flags, borderMode=cv2.BORDER_REPLICATE)
    nothing = np.nan if codes.dtype.kind == "f" else np.iinfo(codes.dtype).max
    there = np.ones((height, width), np.float32)
    flags = cv2.INTER_LINEAR | cv2.WARP_INVERSE_MAP
    seen = cv2.warpAffine(there, matrix, size, flags=flags, borderMode=cv2.BORDER_CONSTANT)
    found[seen < _SEEN] = nothing
    return np.asarray(found, codes.dtype)


def joined(rough: Placement, small: Placement) -> Placement:
    """Return the combination of two placements, the second relative to the first."""
    right, down = rough.places(*_at(small.right, small.down))
    return Placement(float(right), float(down), _around(rough.rotation + small.rotation))


def _at(x: float, y: float) -> tuple[Float, Float]:
    return np.asarray(x, np.float32), np.asarray(y, np.float32)


def _around(rotation: float) -> float:
    return (rotation + 180) % 360 - 180


def _happening(picture: Float, side: int) -> Float:
    """Return quantities that the light hardly changes, in a disc around the center.

    (3, _SIDE, _SIDE): amount of detail, and the ratios of red and green; each with mean 0.
    """
    height, width = picture.shape[:2]
    top, left = (height - side) // 2, (width - side) // 2
    whole = np.asarray(picture[top : top + side, left : left + side], np.float32)
    small = cv2.resize(np.nan_to_num(whole), (_SIDE, _SIDE), interpolation=cv2.INTER_AREA)
    grey = small.mean(axis=2)
    least = 1e-3 + grey.mean() / 50
    down, across = np.gradient(grey / np.maximum(cv2.GaussianBlur(grey, (0, 0), _AROUND), least))
    strength = np.sqrt(np.hypot(across, down))  # a few strong edges are not all of it
    shares = small[..., :2] / np.maximum(small.sum(axis=2, keepdims=True), 3 * least)
    window, found = _window(), []
    for field in (strength, shares[..., 0], shares[..., 1]):
        soft = cv2.GaussianBlur(field.astype(np.float32), (0, 0), 1.0)
        found.append((soft - (soft * window).sum() / window.sum()) * window)
    own = float(np.linalg.norm(found[0]))
    # Colors count as much as what happens where they differ by so much.
    found[0] = found[0] * (_COLORED * float(np.linalg.norm(window)) / max(own, 1e-9))
    return np.asarray(found, np.float32)


def _window() -> Float:
    y, x = (np.mgrid[:_SIDE, :_SIDE] + 0.5) / _SIDE * 2 - 1
    away = np.clip((0.98 - np.hypot(x, y)) / 0.15, 0, 1)
    return np.asarray(away * away * (3 - 2 * away), np.float32)


def _rotated(square: Float, rotation: float) -> Float:
    """Return the squares rotated back by clockwise degrees."""
    whole = np.ascontiguousarray(np.moveaxis(square, 0, -1))
    back = np.nan_to_num(rectify_rotations(whole, Placement(rotation=rotation)))
    return np.asarray(np.moveaxis(back, -1, 0), np.float32)


def _turned_spectra(square: Float) -> list[tuple[float, NDArray[np.complex64]]]:
    """Return the spectra of the square at steps of some degrees."""
    found = []
    for rotation in np.arange(0, 360, _STEP):
        found.append(
            (float(rotation), scipy.fft.rfft2(_rotated(square, float(rotation)), workers=1))
        )
    return found


def _best_pair(
    n: int, m: int, squares: Sequence[Float],
    spectra: Sequence[list[tuple[float, NDArray[np.complex64]]]],
) -> _Pair:  # fmt: skip
    own = np.conj(spectra[n][0][1])
    scale = float(np.linalg.norm(squares[n]) * np.linalg.norm(squares[m])) or 1.0
    best = max(
        ((*_peak(own * spectrum), rotation) for rotation, spectrum in spectra[m]),
        key=lambda one: one[0],
    )
    around = best[3] + np.arange(-_STEP + _FINE, _STEP, _FINE)
    for rotation in around:
        back = scipy.fft.rfft2(_rotated(squares[m], float(rotation)), workers=1)
        best = max(best, (*_peak(own * back), float(rotation)), key=lambda one: one[0])
    score, right, down, rotation = best
    # It slid in the frame of the first; a placement says where the second one shows its middle.
    disk_state = Placement(rotation=rotation)
    x, y = disk_state.places(*_at(right, down))
    return _Pair(n, m, score / scale, Placement(float(x), float(y), _around(rotation)))


def _peak(product: NDArray[np.complex64]) -> tuple[float, float, float]:
    """Return the maximum correlation and its shift in texels to the right and down."""
    plane = scipy.fft.irfft2(product.sum(axis=0), s=(_SIDE, _SIDE), workers=1)
    reach = int(_FARTHEST * _SIDE)
    near = np.roll(plane, (reach, reach), (0, 1))[: 2 * reach + 1, : 2 * reach + 1]
    row, column = np.unravel_index(int(np.argmax(near)), near.shape)
    return float(near[row, column]), float(column - reach), float(row - reach)


def _chained(count: int, pairs: Sequence[_Pair]) -> list[Placement] | None:
    """Return placements relative to the first by the most certain pairs, or None."""
    found = {0: Placement()}
    left = sorted(pairs, key=lambda one: -one.score)
    while len(found) < count:
        pair = next((one for one in left if (one.first in found) != (one.second in found)), None)
        if pair is None:
            return None
        if pair.first in found:
            # The picture's place is where the other one's shows what that shows of the surface.
            found[pair.second] = joined(pair.place, found[pair.first])
        else:
            found[pair.first] = joined(_turned_about(pair.place), found[pair.second])
    return [found[n] for n in range(count)]


def _turned_about(place: Placement) -> Placement:
    """Return the placement of the first relative to the second."""
    back = Placement(rotation=-place.rotation)
    x, y = back.places(*_at(-place.right, -place.down))
    return Placement(float(x), float(y), -place.rotation)
