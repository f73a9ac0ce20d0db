"""Detects whether a picture is tileable: whether its borders match like its inside.

Two neighboring lines inside a picture differ no more than the lines next to them. At matching
borders this holds across the border too, in every octave; at other borders the two lines are
unrelated.
"""

from __future__ import annotations

from dataclasses import dataclass

import cv2
import numpy as np

from copper_sieve.core.image.encoding import dequantize
from copper_sieve.core.image.raster import Float, Picture
from copper_sieve.core.image.wrap import Wrap

_LARGEST = 1024  # texels of the longer side that are looked at
_SMALLEST = 32  # texels per side; smaller pictures and octaves aren't reliable
_OCTAVES = 4
_ALONG = 256  # texels of a line
_INSIDE = 1.05  # how far beyond the inside's 99th percentile a border may go
_STRANGE = 0.5  # on the way from neighbouring lines (0) to lines far apart (1)


@dataclass(frozen=True, slots=True)
class Tiling:
    """Measurements at the borders of a picture.

    wrap : tileable directions
    across, down : mean difference across the border divided by the median inside, left to right and
        top to bottom; 1 is invisible
    jump_across, jump_down : the same divided by the 99th percentile inside, in the octave with the
        largest value: near 1 at tileable borders, even if an edge of the picture is located there
    """

    wrap: Wrap
    across: float
    down: float
    jump_across: float = 0.0
    jump_down: float = 0.0

    def text(self) -> str:
        """Describe the tiling, with the figure of the worse tileable border."""
        if self.wrap.across and self.wrap.down:
            return f"tileable (seam {max(self.across, self.down):.2f})"
        if self.wrap.across:
            return f"tileable horizontally (seam {self.across:.2f})"
        if self.wrap.down:
            return f"tileable vertically (seam {self.down:.2f})"
        return f"not tileable (seam {max(self.across, self.down):.2f})"


def measure_tiling(picture: Picture) -> Tiling:
    """Measure the tiling of a picture by its stored codes, without alpha."""
    names = [name for name in picture.channels if name != "A"] or list(picture.channels)
    channels = [_nearer(picture.channel(name)) for name in names]
    return measure_tiling_of_values(np.stack(channels, axis=2))


def measure_tiling_of_values(values: Float) -> Tiling:
    """Measure the tiling of values (H, W, C) float32, in a perceptually uniform encoding."""
    values = np.nan_to_num(values, nan=0.0, posinf=1e4, neginf=-1e4)
    octaves = [values]
    while len(octaves) < _OCTAVES and min(octaves[-1].shape[:2]) >= 2 * _SMALLEST:
        octaves.append(_halved(octaves[-1]))
    turned = [np.swapaxes(one, 0, 1) for one in octaves]
    across, visible_across = _meets(turned)
    down, visible_down = _meets(octaves)
    return Tiling(Wrap(across, down), visible_across, visible_down, _jump(turned), _jump(octaves))


def _nearer(codes: Float) -> Float:
    values = dequantize(codes)
    while max(values.shape) > _LARGEST and min(values.shape) >= 2 * _SMALLEST:
        values = _halved(values[:, :, None])[:, :, 0]
    return values


def _halved(values: Float) -> Float:
    """Reduce to half the size; both ends are kept, with wider boxes for odd sizes."""
    rows, columns = values.shape[:2]
    size = columns // 2, rows // 2
    small = cv2.resize(np.ascontiguousarray(values), size, interpolation=cv2.INTER_AREA)
    return np.asarray(small, np.float32).reshape(rows // 2, columns // 2, -1)


def _meets(octaves: list[Float]) -> tuple[bool, float]:
    """Return whether the first line continues the last one, and how visible the border is."""
    # A sufficient number of texels per line.
    octaves = [np.ascontiguousarray(one[:, :: -(-one.shape[1] // _ALONG)]) for one in octaves]
    finest = octaves[0]
    lines = len(finest)
    if min(finest.shape[:2]) < _SMALLEST // 2:
        return False, 1.0
    inside = np.abs(np.diff(finest, axis=0)).mean(axis=(1, 2))
    border = float(np.abs(finest[0] - finest[-1]).mean())
    usual = float(np.median(inside))
    visible = border / usual if usual > 1e-6 else (1.0 if border < 1e-6 else 99.0)
    far = float(np.median(np.abs(finest - np.roll(finest, lines // 3, axis=0)).mean(axis=(1, 2))))
    strange = border - usual > _STRANGE * (far - usual) and border > np.percentile(inside, 99)
    if strange and border > 1e-6:
        return False, visible
    return all(_beyond_inside(one) <= _INSIDE for one in octaves), visible


def _jump(octaves: list[Float]) -> float:
    """Return the largest difference across the border over the 99th percentile inside."""
    found = [0.0]
    for one in octaves:
        inside = np.abs(np.diff(one, axis=0)).mean(axis=(1, 2))
        most = float(np.percentile(inside, 99)) if len(inside) else 0.0
        if most > 1e-6:
            found.append(float(np.abs(one[0] - one[-1]).mean()) / most)
    return max(found)


def _beyond_inside(values: Float) -> float:
    """Return the step across the border over the 99th percentile inside.

    A step is the difference of two lines divided by the larger of the adjacent differences, so that
    a joint, a slope over several texels, isn't one.
    """
    around = np.concatenate([values[-3:], values[:3]])
    ours = _jumps(np.abs(np.diff(around, axis=0)).mean(axis=2))[0]
    inside = _jumps(np.abs(np.diff(values, axis=0)).mean(axis=2))
    most = float(np.percentile(inside, 99))
    if most < 1e-9:
        return 0.0 if ours < 1e-9 else 99.0
    return float(ours) / most


def _jumps(steps: Float) -> Float:
    """Return the steps of differences (N, M) of lines: N - 4 pairs with known neighbors."""
    beside = np.maximum(steps[1:-3], steps[3:-1]).sum(axis=1)
    return np.asarray(steps[2:-2].sum(axis=1) / np.maximum(beside, 1e-6), np.float32)
