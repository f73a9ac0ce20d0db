"""Image pyramid of selected parts, for fast registration."""

from __future__ import annotations

from collections.abc import Iterator, Sequence
from dataclasses import dataclass

import cv2
import numpy as np

from copper_sieve.core.image.raster import Float
from copper_sieve.core.measuring.stack import CaptureStack, Placement, sample_bilinear

_COARSE = 160  # texels of the longer side at which all of the picture is looked at
_SIDE = 96  # texels of a part
_ACROSS, _DOWN = 3, 2  # fields of the picture, of which each gives its busiest part
_STEP = 4  # from one size to the next
_NEARLY = 1.7  # a size as near as that to the whole picture's is left out
_MARGIN = 12  # texels of margin around a part


@dataclass(frozen=True, slots=True)
class Level:
    """Parts of all pictures at one size; all parts are equally large.

    raw : (P, L, h + 2m, w + 2m, 3) float32, unaligned light, negative where invalid
    x, y : (P, h, w) float32, texels of this size from the center, right and down
    margin : m
    scale : texels of the full picture per texel
    """

    raw: Float
    x: Float
    y: Float
    margin: int
    scale: float

    @property
    def half(self) -> float:
        """Half diagonal in texels, the lever arm of rotations."""
        return float(max(np.abs(self.x).max(), np.abs(self.y).max(), 1))

    def at(self, placements: Sequence[Placement]) -> Float:
        """Return the pictures at these placements, (L, P * h, w, 3), in texels of this level."""
        parts, count = self.raw.shape[:2]
        found = np.empty((count, *self.x.shape, 3), np.float32)
        for p in range(parts):
            left, top = self.x[p, 0, 0] - self.margin, self.y[p, 0, 0] - self.margin
            for n in range(count):
                right, down = placements[n].places(self.x[p], self.y[p])
                found[n, p] = _sampled(self.raw[p, n], right - left, down - top)
        return found.reshape(count, -1, *found.shape[3:])


def _sampled(raw: Float, x: Float, y: Float) -> Float:
    """Sample like `sample_bilinear`; values beyond the borders of a part are invalid."""
    found = sample_bilinear(raw, x, y)
    height, width = raw.shape[:2]
    found[(x < 0) | (x > width - 1) | (y < 0) | (y > height - 1)] = -1
    return found


def build_levels(stack: CaptureStack) -> Iterator[Level]:
    """Yield the pyramid from coarse to fine; the last level has the size of the pictures."""
    width, height = stack.size
    coarse, scale = _coarse(stack)
    yield _whole(coarse, scale)
    busy, at = coarse, scale
    while scale > 1:
        scale = scale / _STEP if scale / _STEP >= _NEARLY else 1.0
        corners = _busiest(busy, at, scale, stack.size)
        if scale > 1:
            busy, at = stack.reduced(round(width / scale), round(height / scale)), scale
            yield _cut(busy, corners, scale)
        else:
            yield _read(stack, corners)


def finest_level(stack: CaptureStack) -> Level:
    """Return the finest level alone, with parts selected on a coarse picture."""
    coarse, scale = _coarse(stack)
    if scale == 1:
        return _whole(coarse, scale)
    return _read(stack, _busiest(coarse, scale, 1.0, stack.size))


def _coarse(stack: CaptureStack) -> tuple[Float, float]:
    """Return all pictures reduced, and the number of full texels per texel."""
    width, height = stack.size
    scale = max(1.0, max(width, height) / _COARSE)
    scale = scale if scale >= _NEARLY else 1.0
    return stack.reduced(round(width / scale), round(height / scale)), scale


def _whole(light: Float, scale: float) -> Level:
    """Return the full picture as one part, without data beyond its borders."""
    height, width = light.shape[1:3]
    x, y = np.meshgrid(np.arange(width) - (width - 1) / 2, np.arange(height) - (height - 1) / 2)
    return Level(light[None], x[None].astype(np.float32), y[None].astype(np.float32), 0, scale)


def _busiest(light: Float, at: float, scale: float, size: tuple[int, int]) -> list[tuple[int, int]]:
    """Return the upper left texel, at size `scale`, of the part with the most detail in each field.

    light : (L, h, w, 3) of the full picture at size `at`
    """
    grey = light.mean((0, 3))
    fine = np.abs(grey - cv2.GaussianBlur(grey, (0, 0), 2))
    side = max(1, round(_SIDE * scale / at))  # of a part, in these texels
    energy = cv2.boxFilter(fine, -1, (side, side), borderType=cv2.BORDER_CONSTANT)
    height, width = grey.shape
    most = [max(0, round(one / scale) - _SIDE) for one in size]
    corners = []
    for row in range(_DOWN):
        for column in range(_ACROSS):
            top, left = row * height // _DOWN, column * width // _ACROSS
            field = energy[
                top : (row + 1) * height // _DOWN, left : (column + 1) * width // _ACROSS
            ]
            y, x = np.unravel_index(int(field.argmax()), field.shape)
            place = [(one + 0.5) * at / scale - _SIDE / 2 for one in (left + x, top + y)]
            corners.append((
                int(np.clip(place[0], 0, most[0])), int(np.clip(place[1], 0, most[1]))
            ))  # fmt: skip
    return sorted(set(corners))


def _grids(
    corners: list[tuple[int, int]], side: tuple[int, int], width: int, height: int
) -> tuple[Float, Float]:
    """Return the texels of all parts from the center of a picture of that size."""
    across, down = np.arange(side[0]) - (width - 1) / 2, np.arange(side[1]) - (height - 1) / 2
    each = [np.meshgrid(across + left, down + top) for left, top in corners]
    x, y = (np.stack(one).astype(np.float32) for one in zip(*each, strict=True))
    return x, y


def _cut(light: Float, corners: list[tuple[int, int]], scale: float) -> Level:
    """Return parts of pictures of that size, (L, h, w, 3)."""
    height, width = light.shape[1:3]
    side = min(_SIDE, width), min(_SIDE, height)
    edges = ((0, 0), (_MARGIN, _MARGIN), (_MARGIN, _MARGIN), (0, 0))
    wide = np.pad(light, edges, constant_values=-1)
    raw = [
        wide[:, top : top + side[1] + 2 * _MARGIN, left : left + side[0] + 2 * _MARGIN]
        for left, top in corners
    ]
    return Level(np.stack(raw), *_grids(corners, side, width, height), _MARGIN, scale)


def _read(stack: CaptureStack, corners: list[tuple[int, int]]) -> Level:
    """Return parts of the pictures at full size."""
    width, height = stack.size
    side = min(_SIDE, width), min(_SIDE, height)
    raw = [stack.raw(left - _MARGIN, top - _MARGIN, side[0] + 2 * _MARGIN, side[1] + 2 * _MARGIN)
           for left, top in corners]  # fmt: skip
    return Level(np.stack(raw), *_grids(corners, side, width, height), _MARGIN, 1.0)
