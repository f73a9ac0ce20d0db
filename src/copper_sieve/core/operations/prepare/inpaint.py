"""Removal of blemishes: a marked area is filled from another part of the picture, in all maps.

The source is determined once from the reference map: the area whose neighborhood is most similar
to that of the mark, so that structures continue. Texels are copied; only slow differences, such as
lighting, are adapted at the border.
"""

from __future__ import annotations

from collections.abc import Sequence
from typing import Any

import cv2
import numpy as np
from numpy.typing import NDArray

from copper_sieve.core.errors import ShapeError
from copper_sieve.core.image.map_kind import Meaning
from copper_sieve.core.image.raster import Float
from copper_sieve.core.operations.prepare.low_frequencies import low_frequencies
from copper_sieve.core.operations.prepare.perceptual import from_perceptual, to_perceptual

Outline = NDArray[np.float64]  # (N, 2) corners of a closed outline, fractions of width and height
Mask = NDArray[np.bool_]

_RING = 0.5  # size of the compared neighborhood relative to the mark
_RING_TEXELS = (6, 48)
_LIGHT = 1 / 12  # of the picture: larger differences are light, and count less in the comparison
_LIGHT_COUNTS = 0.3
_FEATHER = 0.04  # of the mark's size
_SLOW_SIDE = 48  # texels at which the light's difference is worked out


def plan_inpaint(guide: Float, outlines: Sequence[Outline]) -> Float:
    """Find the area that each mark is filled from.

    Parameters
    ----------
    guide : (H, W, 3) float32, linear light, or (H, W, 1) data
    outlines : marks, in fractions of width and height

    Returns
    -------
    (N, 2, 1) float32, offsets from the marks to their sources, fractions of width and height; 0 for
        marks outside the picture

    Raises
    ------
    ShapeError : if there is no source for a mark
    """
    meaning = Meaning.COLOR if guide.shape[2] == 3 else Meaning.DATA
    seen = to_perceptual(guide, meaning)
    rows, columns = seen.shape[:2]
    slow = low_frequencies(seen, max(rows, columns) * _LIGHT)
    seen = np.ascontiguousarray(seen - np.float32(1 - _LIGHT_COUNTS) * slow)
    masks = [_mask(outline, columns, rows) for outline in outlines]
    marked = np.any(masks, axis=0) if masks else np.zeros((rows, columns), bool)
    offsets = np.zeros((len(masks), 2, 1), dtype=np.float32)
    for n, mask in enumerate(masks):
        if mask.any():
            dx, dy = _best_place(seen, mask, marked, n + 1)
            offsets[n, :, 0] = dx / columns, dy / rows
    return offsets


def apply_inpaint(
    pixels: Float, outlines: Sequence[Outline], offsets: Float, meaning: Meaning
) -> Float:
    """Fill the marks of a map.

    Parameters
    ----------
    pixels : (H, W, C) float32
    outlines : marks, in fractions of width and height
    offsets : from `plan_inpaint`
    meaning : of the values

    Returns
    -------
    (H, W, C) float32; texels away from the marks are exactly unchanged
    """
    rows, columns = pixels.shape[:2]
    values = to_perceptual(pixels, meaning)
    filled = values.copy()
    for outline, offset in zip(outlines, offsets[:, :, 0], strict=True):
        mask = _mask(outline, columns, rows)
        dx, dy = round(float(offset[0]) * columns), round(float(offset[1]) * rows)
        if mask.any() and (dx or dy):
            _fill(values, filled, mask, dx, dy)
    changed = (filled != values).any(axis=2, keepdims=True)
    return np.where(changed, from_perceptual(filled, pixels, meaning), pixels)


def _mask(outline: Outline, columns: int, rows: int) -> Mask:
    canvas = np.zeros((rows, columns), dtype=np.uint8)
    corners = np.round(np.asarray(outline) * (columns, rows) * 16 - 8).astype(np.int32)
    cv2.fillPoly(canvas, [corners], 1, shift=4)
    return canvas > 0


def _box(mask: Mask, margin: int) -> tuple[slice, slice]:
    """Return the mask's bounding box with a margin, clipped to the picture."""
    rows, columns = np.flatnonzero(mask.any(axis=1)), np.flatnonzero(mask.any(axis=0))
    return (
        slice(max(0, rows[0] - margin), min(mask.shape[0], rows[-1] + 1 + margin)),
        slice(max(0, columns[0] - margin), min(mask.shape[1], columns[-1] + 1 + margin)),
    )


def _extent(mask: Mask) -> int:
    box = _box(mask, 0)
    return int(max(box[0].stop - box[0].start, box[1].stop - box[1].start))


def _best_place(seen: Float, mask: Mask, marked: Mask, number: int) -> tuple[float, float]:
    """Return the offset in texels from the mark to the area with the most similar neighborhood."""
    low, high = _RING_TEXELS
    ring = min(high, max(low, round(_extent(mask) * _RING)))
    box = _box(mask, ring)
    inside = mask[box]
    around = cv2.dilate(inside.astype(np.uint8), _disc(ring)) > 0
    compared = (around & ~marked[box]).astype(np.float32)
    template = np.ascontiguousarray(seen[box])
    if template.shape[0] >= seen.shape[0] or template.shape[1] >= seen.shape[1]:
        raise ShapeError(_no_place(number))
    weights = np.repeat(compared[:, :, None], seen.shape[2], axis=2)
    unlike = cv2.matchTemplate(seen, template, cv2.TM_SQDIFF, mask=weights)
    # Nothing is taken from a marked place.
    wanted = cv2.dilate(inside.astype(np.uint8), _disc(max(1, ring // 4))).astype(np.float32)
    taken = cv2.matchTemplate(marked.astype(np.float32), wanted, cv2.TM_CCORR)
    unlike = np.nan_to_num(np.asarray(unlike, np.float32), nan=np.inf, posinf=np.inf)
    unlike[taken > 0.5] = np.inf
    at = np.unravel_index(int(np.argmin(unlike)), unlike.shape)
    if not np.isfinite(unlike[at]):
        raise ShapeError(_no_place(number))
    y, x = int(at[0]), int(at[1])
    return (
        x - box[1].start + _between(unlike[y], x),
        y - box[0].start + _between(unlike[:, x], y),
    )


def _no_place(number: int) -> str:
    return (
        f"mark {number} is too large: the picture has no other area of its size to fill it "
        "from. Mark less, or crop it"
    )


def _between(unlike: NDArray[Any], at: int) -> float:
    """Return the minimum of a parabola through the lowest value and its neighbors, -0.5 to 0.5."""
    if not 0 < at < len(unlike) - 1:
        return 0.0
    before, here, after = (float(v) for v in unlike[at - 1 : at + 2])
    bend = before - 2 * here + after
    return 0.5 * (before - after) / bend if np.isfinite(bend) and bend > 1e-9 else 0.0


def _disc(radius: int) -> NDArray[np.uint8]:
    side = 2 * radius + 1
    return np.asarray(cv2.getStructuringElement(cv2.MORPH_ELLIPSE, (side, side)), dtype=np.uint8)


def _fill(values: Float, filled: Float, mask: Mask, dx: int, dy: int) -> None:
    """Copy the area at the offset to `filled`, with its brightness adapted at the mark's border."""
    feather = max(1.0, _extent(mask) * _FEATHER)
    margin = int(np.ceil(4 * feather)) + max(4, _extent(mask) // 4)
    box = _box(mask, margin)
    rows, columns = values.shape[:2]
    # Where the margin would be taken from outside, the nearest texels are.
    taken_rows = np.clip(np.arange(box[0].start, box[0].stop) + dy, 0, rows - 1)
    taken_columns = np.clip(np.arange(box[1].start, box[1].stop) + dx, 0, columns - 1)
    there = values[np.ix_(taken_rows, taken_columns)]
    here = values[box]
    inside = mask[box]
    there = there + _slow_difference(here - there, ~inside)
    wider = cv2.dilate(inside.astype(np.uint8), _disc(max(1, round(feather)))).astype(np.float32)
    soft = np.asarray(cv2.GaussianBlur(wider, (0, 0), feather / 2), dtype=np.float32)
    share = np.maximum(soft, inside.astype(np.float32))[:, :, None]
    now = filled[box]
    filled[box] = now + share * (there - now)


def _slow_difference(difference: Float, known: Mask) -> Float:
    """Return the low frequencies of a difference, extrapolated to unknown areas."""
    rows, columns, _ = difference.shape
    scale = min(1.0, _SLOW_SIDE / max(rows, columns))
    size = (max(2, round(columns * scale)), max(2, round(rows * scale)))
    weights = known.astype(np.float32)[:, :, None]
    smooth = _continued(
        _resized(difference * weights, size, cv2.INTER_AREA),
        _resized(weights, size, cv2.INTER_AREA),
    )
    smooth = np.asarray(cv2.GaussianBlur(smooth, (0, 0), 1.5), np.float32).reshape(smooth.shape)
    return _resized(smooth, (columns, rows), cv2.INTER_CUBIC)


def _continued(weighted: Float, weights: Float) -> Float:
    """Convert weighted values to values, with gaps filled from coarser copies (pull–push)."""
    rows, columns, _ = weighted.shape
    share = np.clip(weights, 0, 1)
    values = weighted / np.maximum(weights, np.float32(1e-6))
    if min(rows, columns) <= 1 or share.min() > 0.999:
        total = np.float32(max(float(weights.sum()), 1e-6))
        mean = weighted.sum(axis=(0, 1)) / total
        return np.asarray(share * values + (1 - share) * mean)
    half = ((columns + 1) // 2, (rows + 1) // 2)
    coarse = _continued(
        _resized(weighted, half, cv2.INTER_AREA), _resized(weights, half, cv2.INTER_AREA)
    )
    return share * values + (1 - share) * _resized(coarse, (columns, rows), cv2.INTER_LINEAR)


def _resized(values: Float, size: tuple[int, int], method: int) -> Float:
    resized = cv2.resize(np.ascontiguousarray(values), size, interpolation=method)
    return np.asarray(resized, dtype=np.float32).reshape(size[1], size[0], values.shape[2])
