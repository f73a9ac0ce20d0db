"""Pictures of one surface in linear light, read on demand at their placements."""

from __future__ import annotations

from collections.abc import Sequence
from dataclasses import dataclass

import cv2
import numpy as np
from numpy.typing import NDArray

from copper_sieve.core.errors import MeasureError
from copper_sieve.core.image.encoding import srgb_to_linear
from copper_sieve.core.image.raster import Codes, Encoding, Float, Picture
from copper_sieve.core.measuring.light_directions import Lamp
from copper_sieve.core.measuring.simd_batch import F0

NOISE = 0.01  # of full scale in linear light: a phone by lamp light, at its base sensitivity
_CLIPPED = 0.98  # of the codes' range
_BESIDE = 3  # texels that a cubic looks at beyond its place
_ENOUGH = 4  # rows whose mean stands for all of a texel
_LOST = 0.25  # maximum of any contributing texel: clipped samples are invalid
_COLORS = ("R", "G", "B")
_ROWS = 256  # of a picture in linear light at a time


@dataclass(frozen=True, slots=True)
class Placement:
    """Placement of a picture relative to the surface.

    right, down : texels from the center of the surface to where the picture shows it
    rotation : degrees clockwise around the center
    """

    right: float = 0.0
    down: float = 0.0
    rotation: float = 0.0

    @property
    def is_still(self) -> bool:
        """Whether the picture has no displacement."""
        return self == _STILL

    def places(self, x: Float, y: Float) -> tuple[Float, Float]:
        """Convert texels to positions in the picture, both from the center, x right and y down."""
        c, s = np.cos(np.radians(self.rotation)), np.sin(np.radians(self.rotation))
        return c * x - s * y + self.right, s * x + c * y + self.down


White = float | tuple[float, float, float]  # of all colors, or of red, green and blue

_STILL = Placement()
ABOVE = Lamp((0.0, 0.0, 1.0))


@dataclass(frozen=True, slots=True)
class Capture:
    """One picture of the surface.

    codes : (H, W, 3), uint8 or uint16 in sRGB, or float32 in linear light
    lamp : its light; directly above if unknown
    exposure : in stops relative to the others
    placement : of the picture, if the camera moved; see `registration`
    even : (h, w) float32 of any size, brightness of a uniform surface over the picture; None:
        constant; see `flat_field`
    """

    codes: Codes | Float
    lamp: Lamp = ABOVE
    exposure: float = 0.0
    placement: Placement = _STILL
    even: Float | None = None


def codes_of(picture: Picture, encoding: Encoding | None = None) -> Codes | Float:
    """Return the codes of a picture for a capture: (H, W, 3), sRGB, or float32 in linear light.

    Parameters
    ----------
    picture : codes
    encoding : of the codes; None: that of the picture
    """
    codes = picture.codes
    if codes.shape[2] < len(_COLORS):
        codes = np.repeat(codes[:, :, :1], len(_COLORS), axis=2)
    elif picture.channels != _COLORS:
        codes = codes[:, :, [picture.channels.index(one) for one in _COLORS]]
    if codes.dtype.kind == "u" and (encoding or picture.encoding) is Encoding.LINEAR:
        return codes.astype(np.float32) / np.float32(np.iinfo(codes.dtype).max)
    return np.ascontiguousarray(codes)


def reduce_light(codes: Codes | Float, width: int, height: int) -> Float:
    """Return the linear light of a reduced picture.

    Parameters
    ----------
    codes : (H, W, 3)
    width, height : texels of the result

    Returns
    -------
    (height, width, 3) float32; NaN where at least a quarter of the texels were clipped
    """
    table = _table(codes)
    if table is None:
        light = np.nan_to_num(codes.astype(np.float32), nan=0, posinf=0, neginf=0)
        clipped = np.any(~np.isfinite(codes), axis=-1)
    else:
        light = table[codes].astype(np.float32)
        clipped = np.any(codes >= int(_CLIPPED * (len(table) - 1)), axis=-1)
    found = cv2.resize(light, (width, height), interpolation=cv2.INTER_AREA)
    lost = cv2.resize(clipped.astype(np.float32), (width, height), interpolation=cv2.INTER_AREA)
    found[lost >= _LOST] = np.nan
    return np.asarray(found, np.float32)


class CaptureStack:
    """Pictures in linear light, divided by exposure and light intensity.

    white : value of a white surface directly below a light of intensity 1
    f0 : reflectance at normal incidence
    darker : factor by which the light is assumed darker, so that highlights are as strong as those
        of most surfaces; colors must be multiplied by it
    size : width and height
    noise : standard deviation of that light

    Raises MeasureError if the sizes differ.
    """

    def __init__(
        self, captures: Sequence[Capture], white: White = 1.0, noise: float = NOISE,
        f0: float = F0,
    ) -> None:  # fmt: skip
        height, width = captures[0].codes.shape[:2]
        for n, capture in enumerate(captures):
            if capture.codes.shape[:2] != (height, width):
                h, w = capture.codes.shape[:2]
                raise MeasureError(
                    f"picture {n + 1} has {w} x {h} px, the first has {width} x {height}. "
                    "All pictures must come from the same fixed camera"
                )
        self.captures, self.size = tuple(captures), (width, height)
        level = float(np.mean(white))
        # One number where it can be: a division by three for each texel takes three times as long.
        tinted = np.ptp(white) > 0
        self._tint = np.asarray(white, np.float32) / np.float32(level) if tinted else np.float32(1)
        # The solver assumes F0; other reflectances are handled by scaling the light.
        self.darker = f0 / F0
        level *= self.darker
        self._scales = [
            capture.lamp.intensity * level * 2**capture.exposure for capture in captures
        ]
        self.noise = noise / float(np.mean(self._scales))
        self._tables = [_table(capture.codes) for capture in captures]
        self._near = any(capture.lamp.distance is not None for capture in captures)
        self._far = np.stack([capture.lamp.unit for capture in captures]).astype(np.float32)

    def light(self, rows: range, columns: range) -> Float:
        """Return the light at texels of the surface for lights of intensity 1.

        Returns
        -------
        (L, h, w, 3) float32, linear; negative where a picture has no value or was clipped
        """
        each = np.empty((len(self.captures), len(rows), len(columns), 3), np.float32)
        step = max(1, _ROWS // rows.step)
        for n in range(len(self.captures)):
            for first in range(0, len(rows), step):
                some = rows[first : first + step]
                each[n, first : first + step] = self._lit(n, some, columns)
        return each

    def towards(self, rows: range, columns: range) -> Float:
        """Return light directions: (L, 3), or (L, h, w, 3) for near lights; unit vectors."""
        return self.towards_at(self.places(rows, columns) if self._near else None)

    def places(self, rows: range, columns: range) -> Float:
        """Return positions of texels in picture widths from the center: (h, w, 3), y up, z = 0."""
        width, height = self.size
        across, down = np.array(columns), np.array(rows)
        x, y = np.meshgrid((across + 0.5) / width - 0.5, (height / 2 - down - 0.5) / width)
        return np.stack([x, y, np.zeros_like(x)], axis=-1).astype(np.float32)

    def towards_at(self, places: Float | None) -> Float:
        """Return light directions at places (h, w, 3); see `towards`."""
        if not self._near or places is None:
            return self._far
        found = np.empty((len(self.captures), *places.shape), np.float32)
        for n, capture in enumerate(self.captures):
            if capture.lamp.distance is None:
                found[n] = self._far[n]
                continue
            found[n] = capture.lamp.ways(places)[0]
        return found

    def evened(self, light: Float, places: Float) -> Float:
        """Return light (L, h, w, 3) with light falloff removed, relative to the center."""
        for n, capture in enumerate(self.captures):
            if capture.lamp.distance is not None:
                light[n] = np.where(light[n] < 0, light[n], light[n] * capture.lamp.ways(places)[1])
        return light

    def raw(self, left: int, top: int, width: int, height: int, only: int | None = None) -> Float:
        """Return a part of all pictures, or of one, without alignment.

        Returns
        -------
        (L, height, width, 3) float32, linear; negative where clipped and beyond the borders
        """
        which = range(len(self.captures)) if only is None else [only]
        found = np.full((len(which), height, width, 3), -1, np.float32)
        right, below = min(left + width, self.size[0]), min(top + height, self.size[1])
        x, y = max(left, 0), max(top, 0)
        if right <= x or below <= y:
            return found
        for place, n in enumerate(which):
            light = self._linear(n, range(y, below), range(x, right))
            found[place, y - top : below - top, x - left : right - left] = light
        return found

    def reduced(self, width: int, height: int) -> Float:
        """Return all pictures without alignment, reduced by area average or by some rows of it.

        Returns
        -------
        (L, height, width, 3) float32, linear
        """
        found = np.empty((len(self.captures), height, width, 3), np.float32)
        for n in range(len(self.captures)):
            # processed in bands of rows, so that no complete picture is converted
            for row in range(height):
                top, end = (one * self.size[1] // height for one in (row, row + 1))
                some = range(top, max(end, top + 1), max(1, (end - top) // _ENOUGH))
                light = self._linear(n, some, range(self.size[0]))
                light[light < 0] = 1 / self._scales[n]  # maximum code
                across = cv2.resize(light, (width, len(some)), interpolation=cv2.INTER_AREA)
                found[n, row] = across.mean(0)
        return found

    def without(self, left_out: Sequence[int]) -> CaptureStack:
        """Return the stack without some pictures, by their indices."""
        kept = [n for n in range(len(self.captures)) if n not in left_out]
        other = CaptureStack([self.captures[n] for n in kept])
        other._scales, other.noise = [self._scales[n] for n in kept], self.noise
        other._tint, other.darker = self._tint, self.darker
        return other

    def _lit(self, n: int, rows: range, columns: range) -> Float:
        capture = self.captures[n]
        if capture.placement.is_still:
            light = self._linear(n, rows, columns)
        else:
            light = self._moved(n, rows, columns)
        if capture.lamp.distance is not None:
            _, weaker = capture.lamp.ways(self.places(rows, columns))
            light = np.where(light < 0, light, light * weaker)
        return light

    def _moved(self, n: int, rows: range, columns: range) -> Float:
        """Return the picture at its placement, interpolated."""
        width, height = self.size
        middle = (width - 1) / 2, (height - 1) / 2
        x, y = np.meshgrid(np.array(columns) - middle[0], np.array(rows) - middle[1])
        right, down = self.captures[n].placement.places(x, y)
        right, down = right + middle[0], down + middle[1]
        left, end = _window(right, width)
        top, below = _window(down, height)
        light = self._linear(n, range(top, below), range(left, end))
        found = sample_bilinear(light, right - left, down - top)
        away = (right < -0.5) | (right > width - 0.5) | (down < -0.5) | (down > height - 0.5)
        found[away] = -1
        return found

    def _linear(self, n: int, rows: range, columns: range) -> Float:
        """Return unaligned texels in linear light; negative where clipped."""
        ends = (slice(one.start, one.stop, one.step) for one in (rows, columns))
        codes, table = self.captures[n].codes[tuple(ends)], self._tables[n]
        if table is None:
            light = codes.astype(np.float32)
            clipped = ~np.isfinite(light).all(-1)
        else:
            light = table[codes]
            clipped = (codes >= int(_CLIPPED * (len(table) - 1))).any(-1)
        light = np.asarray(light / (np.float32(self._scales[n]) * self._tint), np.float32)
        even = self.captures[n].even
        if even is not None:
            light = light / self._even(even, rows, columns)[..., None]
        light[clipped] = -1
        return np.ascontiguousarray(light, np.float32)

    def _even(self, even: Float, rows: range, columns: range) -> Float:
        """Return the brightness of a uniform surface at its texels, (h, w)."""
        width, height = self.size
        x = (np.array(columns) + 0.5) * even.shape[1] / width - 0.5
        y = (np.array(rows) + 0.5) * even.shape[0] / height - 0.5
        gx, gy = np.meshgrid(x.astype(np.float32), y.astype(np.float32))
        found = cv2.remap(even, gx, gy, cv2.INTER_LINEAR, borderMode=cv2.BORDER_REPLICATE)
        return np.asarray(found, np.float32)


def sample_bilinear(light: Float, x: Float, y: Float) -> Float:
    """Sample light (h, w, 3) between texels, bilinear; invalid texels are negative."""
    at = np.asarray(x, np.float32), np.asarray(y, np.float32)
    there = np.asarray(np.maximum(light, 0), np.float32)
    between = cv2.remap(there, *at, cv2.INTER_CUBIC, borderMode=cv2.BORDER_REPLICATE)
    found = np.asarray(np.maximum(between, 0), np.float32)
    lost: NDArray[np.bool_] = np.any(light < 0, axis=-1)
    if lost.any():
        found[cv2.remap(lost.astype(np.float32), *at, cv2.INTER_LINEAR) > 0.05] = -1
    return found


def _window(places: NDArray[np.float64], length: int) -> tuple[int, int]:
    """Return the range of texels that an interpolation at these positions needs; at least one."""
    first = int(np.clip(np.floor(places.min()) - _BESIDE, 0, length - 1))
    return first, int(np.clip(np.ceil(places.max()) + _BESIDE + 1, first + 1, length))


def _table(codes: Codes | Float) -> Float | None:
    """Return the linear light of every code; None if the codes are linear already."""
    if codes.dtype.kind == "f":
        return None
    most = np.iinfo(codes.dtype).max
    return srgb_to_linear(np.arange(most + 1, dtype=np.float64) / most)
