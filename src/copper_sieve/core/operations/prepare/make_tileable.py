"""Make a picture tileable; all maps of a set in the same way.

A plan is made once from the reference map and applied to every map of the set. There are three
methods, because none suits all pictures:

gradient : the slow difference between opposite borders is distributed over the picture (periodic
    plus smooth decomposition); the size is unchanged
blend : opposite borders overlap and are blended, with the variance of fine detail preserved; for
    random surfaces
cut : opposite borders overlap and are joined along the path of least difference; for structured
    surfaces

References: L. Moisan, "Periodic plus smooth image decomposition", 2011. E. Heitz and F. Neyret,
"High-performance by-example noise using a histogram-preserving blending operator", 2018, eq. 2.
A. Efros and W. Freeman, "Image quilting for texture synthesis and transfer", 2001.
"""

from __future__ import annotations

from contextlib import AbstractContextManager, nullcontext
from dataclasses import dataclass
from typing import Any, Literal

import cv2
import numpy as np
import scipy  # its parts are loaded when they are used
from numpy.typing import NDArray

from copper_sieve.core.errors import ParameterError, ShapeError
from copper_sieve.core.image.map_kind import Meaning
from copper_sieve.core.image.raster import Float
from copper_sieve.core.operations.prepare.low_frequencies import low_frequencies
from copper_sieve.core.operations.prepare.measure_seams import (
    SeamVisibility,
    fine_contrast,
    seam_visibility,
)
from copper_sieve.core.operations.prepare.overlaps import CLEAR_PERIOD, best_overlaps, best_shift
from copper_sieve.core.operations.prepare.perceptual import from_perceptual, to_perceptual
from copper_sieve.core.operations.prepare.seam_cut import cheapest_closed_path
from copper_sieve.core.operations.prepare.structure import PictureStructure, Structure

Method = Literal["gradient", "blend", "cut"]
METHODS: tuple[Method, ...] = ("gradient", "blend", "cut")
MOST_OVERLAP = 0.45  # of the side
_FEATHER = 8.0  # texels on either side of a cut
_CUT_PLACES = 2048  # along a side, at which a cut's place is kept
# Of the overlap: what is larger passes slowly. More where a cut keeps what is smaller as it is.
_SLOW = {"blend": 0.25, "cut": 0.6}
_BORDER = 1 / 24  # of a side: what differs over longer stretches is slow
_INVISIBLE = 1.1
_GAUSSIAN = 1.0  # excess kurtosis up to which detail counts as random


@dataclass(frozen=True, slots=True)
class TilePlan:
    """How a picture is made tileable, independent of its size.

    overlap : shares of the width and height in which the left and right, and the top and bottom
    borders overlap; 0 for "gradient"
    cuts : for "cut", (2, N, 1) float32: positions of the paths in the two overlaps, as shares, at N
    equally spaced points
    """

    method: Method
    overlap: tuple[float, float] = (0.0, 0.0)
    cuts: Float | None = None

    def tile(self, size: tuple[int, int]) -> tuple[int, int]:
        """Return the tile's width and height for a picture size, in texels."""
        return (
            size[0] - round(size[0] * self.overlap[0]),
            size[1] - round(size[1] * self.overlap[1]),
        )

    def before(self, tile: tuple[int, int]) -> tuple[int, int]:
        """Return the picture's width and height for a tile size, in texels."""
        return (
            tile[0] + round(tile[0] * self.overlap[0] / (1 - self.overlap[0])),
            tile[1] + round(tile[1] * self.overlap[1] / (1 - self.overlap[1])),
        )


@dataclass(frozen=True, slots=True)
class TileReport:
    """Effect of making a picture tileable.

    contrast_loss : share of fine contrast that the overlaps lost; without overlaps, share of the
        detail near the borders that is smeared; the worse axis, 0 to 1
    structure : damage at the joints
    """

    before: SeamVisibility
    after: SeamVisibility
    contrast_loss: float
    structure: Structure


def plan_tile(guide: Float, method: Method | None = None) -> TilePlan:
    """Plan a tile from the reference map of a set.

    Parameters
    ----------
    guide : (H, W, 3) float32, linear light, or (H, W, 1) data
    method : None: the most suitable one, by measurement

    Returns
    -------
    TilePlan

    Raises
    ------
    ShapeError : if a side has fewer than 16 texels
    ParameterError : if the method is unknown
    """
    if min(guide.shape[:2]) < 16:
        raise ShapeError(
            "the picture is too small to be made tileable. It needs at least 16 texels per side"
        )
    if method is not None and method not in METHODS:
        raise ParameterError(f"unknown method {method!r}. Use {', '.join(METHODS)}")
    seen = to_perceptual(guide, _meaning(guide))
    method = method or likely_method(guide)
    if method == "gradient":
        return TilePlan(method)
    overlap = best_overlaps(_periodic(seen.mean(axis=2, keepdims=True), slow=True))
    across, down = (o / side for o, side in zip(overlap, seen.shape[1::-1], strict=True))
    cuts = plan_cuts(guide, (across, down)) if method == "cut" else None
    return TilePlan(method, (across, down), cuts)


def plan_cuts(guide: Float, overlap: tuple[float, float]) -> Float:
    """Find the paths of least difference through both overlaps.

    Parameters
    ----------
    guide : (H, W, 3) float32, linear light, or (H, W, 1) data
    overlap : fractions of width and height

    Returns
    -------
    float32, as `TilePlan.cuts`
    """
    seen = to_perceptual(guide, _meaning(guide)).mean(axis=2, keepdims=True)
    seen = _periodic(seen, slow=True)
    cuts = np.full((2, _CUT_PLACES, 1), 0.5, dtype=np.float32)
    for axis, share in enumerate(overlap):
        if texels := round(share * seen.shape[1]):
            seen, path = _overlapped(seen, texels, None, "cut")
            assert path is not None
            cuts[axis, :, 0] = _resampled(path + 0.5, _CUT_PLACES) / texels
        seen = np.ascontiguousarray(np.swapaxes(seen, 0, 1))
    return cuts


def apply_tile(
    pixels: Float, plan: TilePlan, meaning: Meaning, tile: tuple[int, int] | None = None
) -> Float:
    """Make a map of the set tileable.

    Parameters
    ----------
    pixels : (H, W, C) float32
    plan : plan of the set
    meaning : of the values
    tile : width and height of the result in texels; None: as the plan states for this input size

    Returns
    -------
    (H, W, C) float32

    Raises
    ------
    ShapeError : if the tile doesn't fit the pixels
    """
    size = (pixels.shape[1], pixels.shape[0])
    tile = tile or plan.tile(size)
    overlap = size[0] - tile[0], size[1] - tile[1]
    if min(overlap) < 0 or overlap[0] > size[0] // 2 or overlap[1] > size[1] // 2:
        raise ShapeError(
            f"a map of {size[0]} x {size[1]} can't become a tile of {tile[0]} x {tile[1]}. "
            "Resize it first"
        )
    values = to_perceptual(pixels, meaning)
    if plan.method != "gradient":
        values = _periodic(values, slow=True)  # the light is evened out over the whole picture
        for axis, texels in enumerate(overlap):
            if texels:
                values, _ = _overlapped(values, texels, _path(plan, axis, values, texels),
                                        plan.method)  # fmt: skip
            values = np.ascontiguousarray(np.swapaxes(values, 0, 1))
    # Overlapped borders already match in fine detail.
    return from_perceptual(_periodic(values, slow=plan.method != "gradient"), pixels, meaning)


def structure_of(guide: Float) -> PictureStructure:
    """Return the structure of a reference map (H, W, C), in even light, to compare tiles with."""
    return PictureStructure(_periodic(to_perceptual(guide, _meaning(guide)), slow=True))


def report_tile(
    guide: Float,
    plan: TilePlan,
    pieces: PictureStructure | None = None,
    turn: AbstractContextManager[Any] | None = None,
) -> TileReport:
    """Measure the effect of a plan on its reference map.

    Parameters
    ----------
    guide : (H, W, C) float32
    plan : plan of the set
    pieces : `structure_of` the guide; None: computed
    turn : context manager entered for each part of the work, so that other threads can run

    Returns
    -------
    TileReport
    """
    turn = turn or nullcontext()
    with turn:
        seen = to_perceptual(guide, _meaning(guide))
        after, loss, overlaps = _joined(seen, plan)
        pieces = pieces or structure_of(guide)
    structure = pieces.measure(after, overlaps, turn)
    with turn:
        return TileReport(seam_visibility(seen), seam_visibility(after), loss, structure)


def _joined(seen: Float, plan: TilePlan) -> tuple[Float, float, tuple[int, int]]:
    """Return the tile, the lost share of fine contrast, and the overlaps in texels."""
    loss, now = 0.0, seen if plan.method == "gradient" else _periodic(seen, slow=True)
    overlaps = [0, 0]
    for axis, share in enumerate(plan.overlap):
        overlap = overlaps[axis] = round(share * now.shape[1])
        if overlap:
            joined, _ = _overlapped(now, overlap, _path(plan, axis, now, overlap), plan.method)
            had = (fine_contrast(now[:, :overlap]) + fine_contrast(now[:, -overlap:])) / 2
            loss = max(loss, 1 - fine_contrast(joined[:, :overlap]) / max(had, 1e-9))
            now = joined
        now = np.ascontiguousarray(np.swapaxes(now, 0, 1))
    after = _periodic(now, slow=plan.method != "gradient")
    if plan.method == "gradient":
        loss = _smeared(_periodic(seen, slow=True), after)
    return after, loss, (overlaps[0], overlaps[1])


def _smeared(even: Float, after: Float) -> float:
    """Return the share of detail that was replaced near the borders, from 1/64 of the side inward.

    Differences over short distances are smeared no further than that.
    """
    worst = 0.0
    for axis in (0, 1):
        had, change = (np.swapaxes(one, 0, axis) for one in (even, after - even))
        near, far = (max(n, len(had) // part) for n, part in ((1, 64), (2, 32)))
        band = np.concatenate([change[near:far], change[-far:-near]])
        fine = had - low_frequencies(np.ascontiguousarray(had), len(had) / 24)
        worst = max(worst, float(np.sqrt((band**2).mean())) / max(float(fine.std()), 1e-9))
    return min(1.0, worst)


def _meaning(guide: Float) -> Meaning:
    return Meaning.COLOR if guide.shape[2] == 3 else Meaning.DATA


def _path(plan: TilePlan, axis: int, values: Float, overlap: int) -> Float | None:
    """Return the plan's cut in texels, one position per row."""
    if plan.cuts is None:
        return None
    return np.asarray(
        _resampled(plan.cuts[axis, :, 0], values.shape[0]) * overlap - 0.5, np.float32
    )


def _resampled(closed: NDArray[Any], places: int) -> Float:
    """Resample a closed line of equally spaced points."""
    at = (np.arange(places) + 0.5) / places
    given = (np.arange(len(closed)) + 0.5) / len(closed)
    return np.asarray(np.interp(at, given, closed, period=1.0), dtype=np.float32)


def likely_method(guide: Float, things: bool | None = None) -> Method:
    """Return the most suitable method before measuring.

    Gradient if it is sufficient; otherwise blend for random detail, cut for distinct objects.

    Parameters
    ----------
    guide : (H, W, 3) float32, linear light, or (H, W, 1) data
    things : result of `has_distinct_objects`; None: computed
    """
    seen = to_perceptual(guide, _meaning(guide))
    if seam_visibility(_periodic(seen, slow=True)).visibility <= _INVISIBLE:
        return "gradient"
    things = has_distinct_objects(guide) if things is None else things
    return "cut" if things else "blend"


def has_distinct_objects(guide: Float) -> bool:
    """Return True if a picture shows a regular structure or distinct objects, not random detail.

    If such content overlaps in a blend, both copies are visible.
    """
    grey = to_perceptual(guide, _meaning(guide)).mean(axis=2)
    fine = grey - cv2.GaussianBlur(grey, (0, 0), max(2.0, grey.shape[1] / 64))
    # Things have few, strong edges: the slopes of random detail are spread as noise is.
    soft = cv2.GaussianBlur(grey, (0, 0), max(1.0, grey.shape[1] / 400))
    slopes = cv2.Sobel(soft, cv2.CV_32F, 1, 0), cv2.Sobel(soft, cv2.CV_32F, 0, 1)
    if max(_kurtosis(one) for one in (fine, *slopes)) >= _GAUSSIAN:
        return True
    return max(best_shift(grey)[1], best_shift(grey.T)[1]) > CLEAR_PERIOD


def _kurtosis(values: Float) -> float:
    """Return the excess kurtosis."""
    squared = (values - values.mean()) ** 2
    spread = max(float(squared.mean()), 1e-18)
    squared *= squared
    return float(squared.mean(dtype=np.float64)) / spread**2 - 3


def _overlapped(
    values: Float, overlap: int, cut: Float | None, method: Method
) -> tuple[Float, Float | None]:
    """Overlap the left and the right border; a missing `cut` is computed if required."""
    width = values.shape[1]
    left, right = values[:, :overlap], values[:, width - overlap :]
    # Over the overlap the right border passes into the left one.
    share = (np.arange(overlap, dtype=np.float32) + 0.5) / overlap
    share = (share * share * (3 - 2 * share))[None, :, None]
    sigma = max(1.0, overlap * _SLOW[method])
    slow_left, slow_right = low_frequencies(left, sigma), low_frequencies(right, sigma)
    fine_left, fine_right = left - slow_left, right - slow_right
    # Where the light was weaker the detail is, too: its strength passes slowly as well.
    strength_left, strength_right = (
        np.sqrt(low_frequencies(one * one, sigma).mean(axis=2, keepdims=True)) + np.float32(1e-4)
        for one in (fine_left, fine_right)
    )
    strength = share * strength_left + (1 - share) * strength_right
    fine_left, fine_right = (
        fine_left * (strength / strength_left),
        fine_right * (strength / strength_right),
    )
    if method == "blend":
        fine = share * fine_left + (1 - share) * fine_right
        fine /= np.sqrt(share**2 + (1 - share) ** 2)
    else:
        if cut is None:
            difference = np.sqrt(((fine_left - fine_right) ** 2).sum(axis=2))
            # Not at the very rim, where there is no room to pass over.
            rim = min(overlap // 4, round(2 * _FEATHER))
            cost = difference + np.float32(1e-4)
            cost[:, :rim] += 10
            cost[:, overlap - rim :] += 10
            cut = cheapest_closed_path(np.ascontiguousarray(cost)).astype(np.float32)
        place = np.arange(overlap, dtype=np.float32)[None, :] - cut[:, None]
        side = np.clip(place / (2 * min(_FEATHER, overlap / 8)) + 0.5, 0, 1)[:, :, None]
        fine = side * fine_left + (1 - side) * fine_right
    band = share * slow_left + (1 - share) * slow_right + fine
    joined = np.concatenate([band, values[:, overlap : width - overlap]], axis=1)
    return np.ascontiguousarray(joined, dtype=np.float32), cut


def _periodic(values: Float, *, slow: bool) -> Float:
    """Return the periodic component: the difference of opposite borders is distributed smoothly.

    slow : only low frequencies of the difference
    """
    height, width = values.shape[:2]
    jump = np.zeros_like(values)
    across = values[:, -1] - values[:, 0]
    down = values[-1] - values[0]
    if slow:
        across, down = _smooth_line(across), _smooth_line(down)
    jump[:, 0] += across
    jump[:, -1] -= across
    jump[0] += down
    jump[-1] -= down
    fx = 2 * np.cos(2 * np.pi * np.arange(width // 2 + 1) / width)
    fy = 2 * np.cos(2 * np.pi * np.arange(height) / height)
    bend = (fx[None, :] + fy[:, None] - 4).astype(np.float32)
    bend[0, 0] = 1
    out = np.empty_like(values)
    for n in range(values.shape[2]):
        spectrum = scipy.fft.rfft2(jump[:, :, n], workers=-1)
        spectrum /= bend
        spectrum[0, 0] = 0
        out[:, :, n] = values[:, :, n] - scipy.fft.irfft2(spectrum, s=(height, width), workers=-1)
    return out


def _smooth_line(values: Float) -> Float:
    """Smooth a closed line (N, C)."""
    sigma = max(1.0, len(values) * _BORDER)
    return np.asarray(
        scipy.ndimage.gaussian_filter1d(values, sigma, axis=0, mode="wrap"), dtype=np.float32
    )
