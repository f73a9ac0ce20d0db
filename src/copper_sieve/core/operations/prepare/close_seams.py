"""Close the seams of a picture so that it tiles; all maps of a set the same way.

A plan is made once, from the picture that shows most (the color), and applied to every map of the
set. Three ways, since no single one suits all:

gradient : the slow difference between opposite borders is spread over the picture (periodic plus
    smooth decomposition); the size stays
blend : opposite borders overlap and pass into each other, fine detail with its variance kept; for
    random surfaces
cut : opposite borders overlap and meet along the path of least difference; for structured ones

References: L. Moisan, "Periodic plus smooth image decomposition", 2011. E. Heitz and F. Neyret,
"High-performance by-example noise using a histogram-preserving blending operator", 2018, eq. 2.
A. Efros and W. Freeman, "Image quilting for texture synthesis and transfer", 2001.
"""

from __future__ import annotations

from dataclasses import dataclass
from typing import Literal

import cv2
import numpy as np
from scipy import fft
from scipy.ndimage import gaussian_filter1d

from copper_sieve.core.errors import ParameterError, ShapeError
from copper_sieve.core.image.encoding import linear_to_srgb, srgb_to_linear
from copper_sieve.core.image.map_kind import Meaning
from copper_sieve.core.image.normals import normalize
from copper_sieve.core.image.raster import Float
from copper_sieve.core.operations.prepare.measure_seams import (
    SeamVisibility,
    fine_contrast,
    seam_visibility,
)
from copper_sieve.core.operations.prepare.seam_cut import Path, cheapest_closed_path

Method = Literal["gradient", "blend", "cut"]
METHODS: tuple[Method, ...] = ("gradient", "blend", "cut")

_LEAST_Z = np.float32(0.05)
_USUAL_OVERLAP = 0.2  # of the side
_OVERLAPS = (0.08, 0.4)
_PLANNED_SIDE = 512  # texels at which the overlap is looked for
_NEARBY = 256
_CLEAR_PERIOD = 0.25  # correlation from which the structure's own period decides
_FEATHER = 8.0  # texels on either side of a cut
# Of the overlap: what is larger passes slowly. More where a cut keeps what is smaller as it is.
_SLOW = {"blend": 0.25, "cut": 0.6}
_BORDER = 1 / 24  # of a side: what differs over longer stretches is slow
_INVISIBLE = 1.1
_GAUSSIAN = 1.0  # excess kurtosis up to which detail counts as random


@dataclass(frozen=True, slots=True)
class TilePlan:
    """How a picture of `size` (width, height) becomes a tile.

    overlap : texels in which the left and right, and the top and bottom borders overlap; 0 for
        "gradient"
    cuts : for "cut" the columns (rows) of the paths through the overlaps, one a row (column)
    """

    method: Method
    size: tuple[int, int]
    overlap: tuple[int, int] = (0, 0)
    cuts: tuple[Path, Path] | None = None

    @property
    def tile(self) -> tuple[int, int]:
        """Width and height of the tile."""
        return self.size[0] - self.overlap[0], self.size[1] - self.overlap[1]


@dataclass(frozen=True, slots=True)
class TileReport:
    """What closing the seams did.

    contrast_loss : share of the fine contrast that the overlapped bands lost against the borders
        that they are made of, the worse axis, 0 to 1
    """

    before: SeamVisibility
    after: SeamVisibility
    contrast_loss: float


def plan_tile(guide: Float, method: Method | None = None) -> TilePlan:
    """Plan a tile by the picture that shows most.

    guide : (H, W, 3) float32 linear light, or (H, W, 1) data
    method : default: by measure
    Raises ShapeError for pictures under 16 texels a side, ParameterError for an unknown method.
    """
    if min(guide.shape[:2]) < 16:
        raise ShapeError("a picture under 16 texels a side is too small to close its seams")
    if method is not None and method not in METHODS:
        raise ParameterError(f"there is no way {method!r} to close seams: {', '.join(METHODS)}")
    meaning = Meaning.COLOR if guide.shape[2] == 3 else Meaning.DATA
    seen = _workable(guide, meaning)
    size = (guide.shape[1], guide.shape[0])
    if method is None:
        method = _by_measure(seen)
    if method == "gradient":
        return TilePlan(method, size)
    seen = _periodic(seen.mean(axis=2, keepdims=True), slow=True)
    overlap = _overlaps(seen)
    if method == "blend":
        return TilePlan(method, size, overlap)
    first, across = _overlapped(seen, overlap[0], None, "cut")
    _, down = _overlapped(np.ascontiguousarray(np.swapaxes(first, 0, 1)), overlap[1], None, "cut")
    assert across is not None
    assert down is not None
    return TilePlan(method, size, overlap, (across, down))


def apply_tile(pixels: Float, plan: TilePlan, meaning: Meaning) -> Float:
    """A map of the set as a tile, by the plan of the set.

    pixels : (H, W, C) float32 of the plan's size, values as `meaning` has them
    Returns (H, W, C) float32 of the plan's tile size. Raises ShapeError.
    """
    if (pixels.shape[1], pixels.shape[0]) != plan.size:
        raise ShapeError(
            f"a map of {pixels.shape[1]} x {pixels.shape[0]} cannot be tiled by a plan for "
            f"{plan.size[0]} x {plan.size[1]}: resize it first"
        )
    values = _workable(pixels, meaning)
    if plan.method != "gradient":
        values = _periodic(values, slow=True)  # the light is evened out over the whole picture
        cuts = plan.cuts or (None, None)
        values, _ = _overlapped(values, plan.overlap[0], cuts[0], plan.method)
        turned = np.ascontiguousarray(np.swapaxes(values, 0, 1))
        turned, _ = _overlapped(turned, plan.overlap[1], cuts[1], plan.method)
        values = np.ascontiguousarray(np.swapaxes(turned, 0, 1))
    # Overlapped borders fit already in what is fine.
    return _back(_periodic(values, slow=plan.method != "gradient"), pixels, meaning)


def report_tile(guide: Float, plan: TilePlan) -> TileReport:
    """Measure what a plan does to its guide; (H, W, C) float32."""
    meaning = Meaning.COLOR if guide.shape[2] == 3 else Meaning.DATA
    seen = _workable(guide, meaning)
    loss, now = 0.0, seen if plan.method == "gradient" else _periodic(seen, slow=True)
    for axis, overlap in enumerate(plan.overlap):
        if overlap:
            cut = plan.cuts[axis] if plan.cuts else None
            joined, _ = _overlapped(now, overlap, cut, plan.method)
            had = (fine_contrast(now[:, :overlap]) + fine_contrast(now[:, -overlap:])) / 2
            loss = max(loss, 1 - fine_contrast(joined[:, :overlap]) / max(had, 1e-9))
            now = np.ascontiguousarray(np.swapaxes(joined, 0, 1))
    after = _workable(apply_tile(guide, plan, meaning), meaning)
    return TileReport(seam_visibility(seen), seam_visibility(after), loss)


def _workable(pixels: Float, meaning: Meaning) -> Float:
    """Values whose differences look alike: sRGB-encoded light, slopes of normals, data as it is."""
    if meaning is Meaning.COLOR:
        return linear_to_srgb(np.clip(pixels, 0, None))
    if meaning is Meaning.NORMAL:
        return np.ascontiguousarray(pixels[:, :, :2] / np.maximum(pixels[:, :, 2:], _LEAST_Z))
    return np.ascontiguousarray(pixels, dtype=np.float32)


def _back(values: Float, source: Float, meaning: Meaning) -> Float:
    if meaning is Meaning.COLOR:
        return srgb_to_linear(np.clip(values, 0, max(1.0, float(values.max()))))
    if meaning is Meaning.NORMAL:
        return normalize(np.dstack([values, np.ones(values.shape[:2], np.float32)]))
    return np.clip(values, source.min(), source.max())


def _by_measure(seen: Float) -> Method:
    """Gradient where it is enough; else blend for random detail, cut for structure."""
    if seam_visibility(_periodic(seen, slow=True)).visibility <= _INVISIBLE:
        return "gradient"
    grey = seen.mean(axis=2)
    fine = grey - cv2.GaussianBlur(grey, (0, 0), max(2.0, grey.shape[1] / 64))
    spread = max(float(fine.std()), 1e-9)
    kurtosis = float(np.mean((fine / spread) ** 4)) - 3
    regular = max(_best_shift(grey)[1], _best_shift(grey.T)[1]) > _CLEAR_PERIOD
    return "blend" if kurtosis < _GAUSSIAN and not regular else "cut"


def _overlaps(seen: Float) -> tuple[int, int]:
    grey = seen.mean(axis=2)
    return _overlap_of(grey), _overlap_of(np.ascontiguousarray(grey.T))


def _overlap_of(grey: Float) -> int:
    """Texels of overlap: so that a regular structure meets itself, else the usual share."""
    share, clear = _best_shift(grey)
    if clear < _CLEAR_PERIOD:
        share = 1 - _USUAL_OVERLAP
    width = grey.shape[1]
    usual = max(4, width - round(share * width))
    # Where the tile will end two neighboring columns are as alike as there are any nearby.
    near = range(max(4, usual - width // _NEARBY), min(width // 2, usual + width // _NEARBY) + 1)
    return min(near, key=lambda one: float(np.abs(grey[:, -one] - grey[:, -one - 1]).mean()))


def _best_shift(grey: Float) -> tuple[float, float]:
    """The shift, as a share of the width, at which the borders look most alike, and how much."""
    scale = min(1.0, _PLANNED_SIDE / max(grey.shape))
    size = (max(16, round(grey.shape[1] * scale)), max(16, round(grey.shape[0] * scale)))
    small = cv2.resize(np.ascontiguousarray(grey), size, interpolation=cv2.INTER_AREA)
    fine = small - cv2.GaussianBlur(small, (0, 0), max(2.0, size[0] / 24))
    width = size[0]
    best = (1 - _USUAL_OVERLAP, -1.0)
    for overlap in range(max(8, round(_OVERLAPS[0] * width)), round(_OVERLAPS[1] * width) + 1):
        a, b = fine[:, :overlap], fine[:, width - overlap :]
        norm = float(np.sqrt((a * a).sum() * (b * b).sum()))
        alike = float((a * b).sum()) / max(norm, 1e-9)
        if alike > best[1]:
            best = ((width - overlap) / width, alike)
    return best


def _overlapped(
    values: Float, overlap: int, cut: Path | None, method: Method
) -> tuple[Float, Path | None]:
    """The left border laid over the right one; `cut` is made where it is needed and not given."""
    width = values.shape[1]
    left, right = values[:, :overlap], values[:, width - overlap :]
    # Over the overlap the right border passes into the left one.
    share = (np.arange(overlap, dtype=np.float32) + 0.5) / overlap
    share = (share * share * (3 - 2 * share))[None, :, None]
    sigma = max(1.0, overlap * _SLOW[method])
    slow_left, slow_right = _slow(left, sigma), _slow(right, sigma)
    fine_left, fine_right = left - slow_left, right - slow_right
    # Where the light was weaker the detail is, too: its strength passes slowly as well.
    strength_left, strength_right = (
        np.sqrt(_slow(one * one, sigma).mean(axis=2, keepdims=True)) + np.float32(1e-4)
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
            cut = cheapest_closed_path(np.ascontiguousarray(cost, dtype=np.float32))
        place = np.arange(overlap, dtype=np.float32)[None, :] - cut[:, None]
        side = np.clip(place / (2 * min(_FEATHER, overlap / 8)) + 0.5, 0, 1)[:, :, None]
        fine = side * fine_left + (1 - side) * fine_right
    band = share * slow_left + (1 - share) * slow_right + fine
    joined = np.concatenate([band, values[:, overlap : width - overlap]], axis=1)
    return np.ascontiguousarray(joined, dtype=np.float32), cut


def _slow(values: Float, sigma: float) -> Float:
    """What is larger than sigma texels, from a reduced copy: a large blur is slow otherwise."""
    height, width, channels = values.shape
    scale = max(1.0, sigma / 4)
    size = (max(2, round(width / scale)), max(2, round(height / scale)))
    small = cv2.resize(np.ascontiguousarray(values), size, interpolation=cv2.INTER_AREA)
    small = cv2.GaussianBlur(small, (0, 0), max(0.5, sigma / scale))
    back = cv2.resize(small, (width, height), interpolation=cv2.INTER_CUBIC)
    return np.asarray(back, dtype=np.float32).reshape(height, width, channels)


def _periodic(values: Float, *, slow: bool) -> Float:
    """The periodic component: what differs between opposite borders, spread out smoothly.

    slow : only what differs over long stretches of the borders
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
        spectrum = fft.rfft2(jump[:, :, n], workers=-1)
        spectrum /= bend
        spectrum[0, 0] = 0
        out[:, :, n] = values[:, :, n] - fft.irfft2(spectrum, s=(height, width), workers=-1)
    return out


def _smooth_line(values: Float) -> Float:
    """(N, C), smoothed around its end."""
    sigma = max(1.0, len(values) * _BORDER)
    return np.asarray(gaussian_filter1d(values, sigma, axis=0, mode="wrap"), dtype=np.float32)
