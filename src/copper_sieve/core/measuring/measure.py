"""A surface measured from pictures under known lights: normals, colors, roughness, and how sure."""

from __future__ import annotations

from collections.abc import Sequence
from dataclasses import dataclass

import cv2
import numpy as np

from copper_sieve.core.errors import MeasureError
from copper_sieve.core.image.encoding import srgb_to_linear
from copper_sieve.core.image.raster import Codes, Float
from copper_sieve.core.measuring.lamps import Lamp, check_lamps, one_sided
from copper_sieve.core.measuring.roughness import Roughness, measure_roughness
from copper_sieve.core.measuring.solving import Solved, solve

NOISE = 0.01  # of full scale in linear light: a phone by lamp light, at its base sensitivity
_CLIPPED = 0.98  # of the codes' range
_BAND = 256  # rows at a time
_BESIDE = 8  # rows that a band knows of its neighbours
_THIN_SIDE = 256  # roughness is told at about this size
_SURE, _UNSURE = 2.0, 15.0  # degrees that a normal may be off: no doubt, and all of it
_FEWEST_AGREE = 3.0


@dataclass(frozen=True, slots=True)
class Shot:
    """One picture of the surface.

    codes : (H, W, 3), uint8 or uint16 in sRGB, or float32 in linear light
    lamp : where its light came from, and how strong it was
    exposure : in stops against the others
    """

    codes: Codes | Float
    lamp: Lamp
    exposure: float = 0.0


@dataclass(frozen=True, slots=True)
class Surface:
    """What was measured, (H, W, C) float32.

    normal : unit vectors, Y up; color : base color in linear light; roughness : perceptual
    doubt : [0, 1], 0 where lights agree, 1 where nothing is known; told : how much glints had to
        say of the roughness, 0 is a guess from around
    remarks : what is to be known of it, a sentence each
    """

    normal: Float
    color: Float
    roughness: Float
    doubt: Float
    told: Float
    remarks: tuple[str, ...] = ()


def measure(
    shots: Sequence[Shot],
    *,
    white: float = 1.0,
    noise: float = NOISE,
) -> Surface:
    """Measure a surface.

    white : what a white surface straight below a lamp of strength 1 shows, in linear light
    Raises MeasureError with what to do.
    """
    check_lamps([shot.lamp for shot in shots])
    height, width = shots[0].codes.shape[:2]
    for n, shot in enumerate(shots):
        if shot.codes.shape[:2] != (height, width):
            h, w = shot.codes.shape[:2]
            raise MeasureError(
                f"picture {n + 1} is {w} x {h}, the first {width} x {height}: pictures of one "
                "surface come from one camera that stands still"
            )
    stack = _Stack(shots, white, noise)
    rough = _roughness(stack)
    parts = [
        stack.solved(top, min(height, top + _BAND), rough.value) for top in range(0, height, _BAND)
    ]
    found = [np.concatenate(each) for each in zip(*parts, strict=True)]
    normal, color, error, lights = found
    doubt = np.clip((error - _SURE) / (_UNSURE - _SURE), 0, 1)
    doubt[lights < _FEWEST_AGREE] = 1
    size = (width, height)
    told = cv2.resize(rough.told, size, interpolation=cv2.INTER_LINEAR)[..., None]
    value = cv2.resize(rough.value, size, interpolation=cv2.INTER_LINEAR)[..., None]
    unsure, heard = np.asarray(doubt, np.float32), np.asarray(told, np.float32)
    rough_map = np.asarray(value, np.float32)
    remarks = _remarks(shots, unsure, heard)
    return Surface(normal, color, rough_map, unsure, heard, remarks)


def _remarks(shots: Sequence[Shot], doubt: Float, told: Float) -> tuple[str, ...]:
    said = []
    if one_sided([shot.lamp for shot in shots]):
        said.append("no light came from one side: slopes that face it are measured less surely")
    unsure = float((doubt > 0.5).mean())
    if unsure > 0.02:
        said.append(
            f"{unsure:.0%} of the surface is unsure: lights disagree there, or do not reach"
        )
    if float((told > 0.5).mean()) < 0.1:
        said.append("hardly a glint was seen: the roughness is a guess")
    return tuple(said)


def _roughness(stack: _Stack) -> Roughness:
    step = max(1, round(max(stack.size) / _THIN_SIDE), 2 if max(stack.size) > 200 else 1)
    light, towards = stack.thinned(step)
    found = measure_roughness(light, towards, stack.noise)
    # Told only where a glint was indeed seen nearby.
    seen = solve(light, towards, found.value, stack.noise).glint[..., 0]
    near = cv2.blur(cv2.dilate(np.clip(seen / 0.3, 0, 1), np.ones((5, 5))), (5, 5))
    return Roughness(found.value, found.told * near)


class _Stack:
    """The pictures in linear light, a band of rows at a time."""

    def __init__(self, shots: Sequence[Shot], white: float, noise: float) -> None:
        self._shots = shots
        height, width = shots[0].codes.shape[:2]
        self.size = (width, height)
        self._scales = [shot.lamp.strength * white * 2**shot.exposure for shot in shots]
        self.noise = noise / float(np.mean(self._scales))
        self._tables = [_table(shot.codes) for shot in shots]
        self._near = any(shot.lamp.distance is not None for shot in shots)
        self._far = np.stack([shot.lamp.unit for shot in shots]).astype(np.float32)

    def solved(self, top: int, end: int, rough: Float) -> tuple[Float, ...]:
        """Normal, color, error and lights of some rows, by roughness of any size."""
        width, height = self.size
        above, below = max(0, top - _BESIDE), min(height, end + _BESIDE)
        light = np.stack([self._band(n, above, below) for n in range(len(self._shots))])
        towards = self._towards(np.arange(above, below), np.arange(width), light)
        rows = self._rough(rough, above, below)
        found: Solved = solve(light, towards, rows, self.noise)
        kept = slice(top - above, end - above)
        each = (found.normal, found.color, found.error, found.lights)
        return tuple(one[kept] for one in each)

    def _rough(self, rough: Float, above: int, below: int) -> Float:
        """Rows of the roughness, linear between its texels."""
        width, height = self.size
        rows = (np.arange(above, below) + 0.5) * rough.shape[0] / height - 0.5
        columns = (np.arange(width) + 0.5) * rough.shape[1] / width - 0.5
        x, y = np.meshgrid(columns.astype(np.float32), rows.astype(np.float32))
        return np.asarray(cv2.remap(rough, x, y, cv2.INTER_LINEAR, borderMode=cv2.BORDER_REPLICATE))

    def thinned(self, step: int) -> tuple[Float, Float]:
        """Every so many texels of all pictures, and where their light came from."""
        width, height = self.size
        light = np.stack([self._band(n, 0, height, step) for n in range(len(self._shots))])
        towards = self._towards(np.arange(0, height, step), np.arange(0, width, step), light)
        return light, towards

    def _band(self, n: int, above: int, below: int, step: int = 1) -> Float:
        """Rows of a picture as light on the surface, (h, w, 3); negative where it says nothing."""
        shot = self._shots[n]
        light = self._linear(n, shot.codes[above:below:step, ::step])
        if shot.lamp.distance is not None:
            light = light * self._falloff(shot.lamp, above, below, step)
        return np.ascontiguousarray(light, dtype=np.float32)

    def _linear(self, n: int, codes: Codes | Float) -> Float:
        table = self._tables[n]
        if table is None:
            light = codes.astype(np.float32)
            clipped = ~np.isfinite(light).all(-1)
        else:
            light = table[codes]
            clipped = (codes >= int(_CLIPPED * (len(table) - 1))).any(-1)
        light = light / np.float32(self._scales[n])
        light[clipped] = -1
        return np.asarray(light)

    def _places(self, rows: np.ndarray, columns: np.ndarray) -> Float:
        """Of texels in widths of the picture, x and y from its middle: (h, w, 3), z is 0."""
        width, height = self.size
        x, y = np.meshgrid((columns + 0.5) / width - 0.5, (height / 2 - rows - 0.5) / width)
        return np.stack([x, y, np.zeros_like(x)], axis=-1).astype(np.float32)

    def _falloff(self, lamp: Lamp, above: int, below: int, step: int) -> Float:
        """By how much more light a texel would have from the middle's distance."""
        rows, columns = np.arange(above, below, step), np.arange(0, self.size[0], step)
        assert lamp.distance is not None
        way = lamp.unit.astype(np.float32) * np.float32(lamp.distance) - self._places(rows, columns)
        square = (way * way).sum(-1, keepdims=True)
        return np.asarray(square / np.float32(lamp.distance) ** 2, np.float32)

    def _towards(self, rows: np.ndarray, columns: np.ndarray, light: Float) -> Float:
        if not self._near:
            return self._far
        places = self._places(rows, columns)
        found = np.empty((*light.shape[:3], 3), np.float32)
        for n, shot in enumerate(self._shots):
            if shot.lamp.distance is None:
                found[n] = self._far[n]
                continue
            way = self._far[n] * np.float32(shot.lamp.distance) - places
            found[n] = way / np.linalg.norm(way, axis=-1, keepdims=True)
        return found


def _table(codes: Codes | Float) -> Float | None:
    """Linear light of every code, or None where the numbers are light already."""
    if codes.dtype.kind == "f":
        return None
    most = np.iinfo(codes.dtype).max
    return srgb_to_linear(np.arange(most + 1, dtype=np.float64) / most)
