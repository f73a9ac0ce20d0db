"""Detects whether pictures show one surface with different lights, from reduced copies."""

from __future__ import annotations

import re
from collections import defaultdict
from collections.abc import Callable, Iterable, Sequence
from dataclasses import dataclass, replace
from typing import TypeVar

import cv2
import numpy as np
import scipy  # its parts are loaded when they are used
from numpy.typing import NDArray

from copper_sieve.core.image.encoding import srgb_to_linear
from copper_sieve.core.image.raster import Codes, Float
from copper_sieve.core.measuring.light_directions import MOST
from copper_sieve.core.measuring.rotation_registration import coarse_rotations, rectify_rotations
from copper_sieve.core.measuring.stack import Placement

_T = TypeVar("_T")

FEWEST = 4  # number of pictures: three have too little in common
_SIDE = 96  # texels of the longer side at which they are compared
_AROUND = 8.0  # texels: larger structures are lighting
_EDGE = 4  # texels at the border that are not looked at
_SHARED = 0.35  # share of a picture's contrast explained by the others; less means another surface
_SHARED_TURNED = 0.2  # of pictures that are only coarsely aligned
_APART = 8.0  # degrees by which a sample was turned from picture to picture, at least
_INSIDE = 0.68  # of the shorter side: a square that is seen however it is turned
_MOSTLY = 0.7  # share of pictures that must be explained by the others
_LINKED = 0.15  # correlation of pictures under lights that are not quite across from each other
_SAME_LIGHT = 0.85  # correlation of any two: the light, or only a color, was hardly changed


@dataclass(frozen=True, slots=True)
class OneSurface:
    """Relation between pictures of one surface.

    shared : for each, the share of its contrast that the others predict, [0, 1]
    strangers : indices of pictures with another subject
    turns : placement relative to the first in texels, if the sample was rotated
    """

    shared: tuple[float, ...]
    strangers: tuple[int, ...]
    turns: tuple[Placement, ...] | None = None


def names_differ_by_number(
    items: Iterable[_T], key_of: Callable[[_T], tuple[object, str]]
) -> list[list[_T]]:
    """Group pictures whose names differ only in a number, in the order of the numbers.

    Parameters
    ----------
    items : pictures
    key_of : returns a key that must be equal in a group, such as the folder, and the name without
        extension

    Returns
    -------
    groups with as many pictures as can be measured together
    """
    groups: dict[object, list[tuple[list[int], _T]]] = defaultdict(list)
    for one in items:
        place, stem = key_of(one)
        numbers = [int(number) for number in re.findall(r"\d+", stem)]
        groups[place, re.sub(r"\d+", "#", stem.lower())].append((numbers, one))
    return [
        [one for _, one in sorted(some, key=lambda each: each[0])]
        for some in groups.values()
        if FEWEST <= len(some) <= MOST
    ]


def is_one_surface(pictures: Sequence[Codes], vectors: int = 0) -> OneSurface | None:
    """Return how pictures of one surface are related; None for several surfaces or one light.

    A picture of a matte surface is a linear combination of three others (A. Shashua, 1992). Each is
    fitted by the others on half of its texels, in a checkerboard pattern, and compared on the other
    half. Different surfaces don't match there.

    Parameters
    ----------
    pictures : (h, w, 3) uint8, sRGB, small copies of one size
    vectors : number of pictures that look like normals; if most do, they are maps

    Returns
    -------
    OneSurface or None
    """
    if len(pictures) < FEWEST or 2 * vectors > len(pictures):
        return None
    return _as_they_lie(pictures) or _turned(pictures)


def _turned(pictures: Sequence[Codes]) -> OneSurface | None:
    """Compare the pictures of a sample that was rotated under its light."""
    turns = coarse_rotations([one.astype(np.float32) for one in pictures])
    if turns is None or not _each_turned(turns):
        return None
    height, width = pictures[0].shape[:2]
    side = int(min(height, width) * _INSIDE)
    top, left = (height - side) // 2, (width - side) // 2
    laid = [
        np.asarray(rectify_rotations(one, turn)[top : top + side, left : left + side], np.uint8)
        for one, turn in zip(pictures, turns, strict=True)
    ]
    found = _as_they_lie(laid, _SHARED_TURNED)
    return found and replace(found, turns=tuple(turns))


def _each_turned(turns: Sequence[Placement]) -> bool:
    """Return whether no two rotations are equal.

    Pieces of a pattern can also be aligned by rotations that preserve the pattern.
    """
    around = np.sort([one.rotation % 360 for one in turns])
    return bool(np.diff(around, append=around[0] + 360).min() >= _APART)


def _as_they_lie(pictures: Sequence[Codes], least: float = _SHARED) -> OneSurface | None:
    contrasts = [_contrast(one) for one in pictures]
    alike = np.abs(np.corrcoef(np.stack([one.ravel() for one in contrasts])))
    kept = _linked(alike > _LINKED)
    if len(kept) < FEWEST:
        return None
    shared = _shared([contrasts[n] for n in kept])
    while len(kept) > FEWEST and min(shared) < least:
        kept.pop(int(np.argmin(shared)))
        shared = _shared([contrasts[n] for n in kept])
    if min(shared) < least or len(kept) < max(FEWEST, _MOSTLY * len(pictures)):
        return None
    if alike[np.ix_(kept, kept)].min() > _SAME_LIGHT:
        return None
    every = np.zeros(len(pictures))
    every[kept] = shared
    strangers = tuple(n for n in range(len(pictures)) if n not in kept)
    return OneSurface(tuple(float(one) for one in every), strangers)


def _linked(alike: NDArray[np.bool_]) -> list[int]:
    """Return the largest chain of related pictures."""
    groups = scipy.sparse.csgraph.connected_components(alike, directed=False)[1]
    return [int(n) for n in np.flatnonzero(groups == np.bincount(groups).argmax())]


def _contrast(picture: Codes) -> Float:
    """Return the brightness relative to the neighborhood, at a common small size, (h, w)."""
    height, width = picture.shape[:2]
    scale = _SIDE / max(height, width)
    size = max(16, round(width * scale)), max(16, round(height * scale))
    light = srgb_to_linear(picture.astype(np.float32) / np.float32(255)).mean(axis=2)
    small = cv2.resize(np.asarray(light, np.float32), size, interpolation=cv2.INTER_AREA)
    around = cv2.GaussianBlur(small, (0, 0), _AROUND)
    found = small / np.maximum(around, 1e-3) - 1
    return np.asarray(found[_EDGE:-_EDGE, _EDGE:-_EDGE], np.float32)


def _shared(contrasts: Sequence[Float]) -> list[float]:
    """Return the share of each picture's contrast that the others predict on the tested half."""
    rows, columns = np.indices(contrasts[0].shape) // 4
    half = ((rows + columns) % 2 == 0).ravel()
    flat = np.stack([np.clip(one, -1, 1).ravel() for one in contrasts])
    found = []
    for n in range(len(flat)):
        others = np.delete(flat, n, axis=0)
        weights = np.linalg.lstsq(others[:, half].T, flat[n, half], rcond=1e-3)[0]
        rest = flat[n, ~half]
        left = rest - weights @ others[:, ~half]
        found.append(1 - float((left * left).sum() / max((rest * rest).sum(), 1e-9)))
    return found
