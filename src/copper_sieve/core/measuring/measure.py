"""A surface measured from pictures under known lights: normals, colors, roughness, and how sure."""

from __future__ import annotations

from collections.abc import Callable, Sequence
from dataclasses import dataclass, replace

import cv2
import numpy as np

from copper_sieve.core.image.raster import Float
from copper_sieve.core.measuring.ball import Ball
from copper_sieve.core.measuring.calibration import CalibrationOptions, calibrate
from copper_sieve.core.measuring.light_directions import Lamp, check_lamps, one_sided_slopes
from copper_sieve.core.measuring.roughness import Roughness, measure_roughness
from copper_sieve.core.measuring.simd_batch import F0
from copper_sieve.core.measuring.solving import Solved, solve
from copper_sieve.core.measuring.stack import NOISE, Capture, CaptureStack, Placement

_BAND = 256  # rows at a time
_BESIDE = 8  # rows that a band knows of its neighbours
_THIN_SIDE = 256  # texels of the size at which roughness is measured
_SURE, _UNSURE = 2.0, 15.0  # normal errors in degrees for uncertainty 0 and 1
_FEWEST_AGREE = 3.0


@dataclass(frozen=True, slots=True)
class MeasuredSurface:
    """What was measured, (H, W, C) float32.

    normal : unit vectors, Y up; color : base color in linear light; roughness : perceptual
    uncertainty : [0, 1], 0 where lights agree, 1 where nothing is known; told : how much glints had
    to
        say of the roughness, 0 is a guess from around
    remarks : what is to be known of it, a sentence each
    f0 : share of the light that is mirrored head on, as it was taken
    placements : where each picture lay; lamps : of those that were used
    left_out : numbers from 0 of those that were not used
    """

    normal: Float
    color: Float
    roughness: Float
    uncertainty: Float
    confidence: Float
    remarks: tuple[str, ...] = ()
    f0: float = F0
    placements: tuple[Placement, ...] = ()
    lamps: tuple[Lamp, ...] = ()
    left_out: tuple[int, ...] = ()


def measure(
    captures: Sequence[Capture],
    *,
    white: float = 1.0,
    noise: float = NOISE,
    static_camera: bool = False,
    ball: Ball | None = None,
    uncalibrated: bool = False,
    distant: bool = False,
) -> MeasuredSurface:
    """Measure a surface from pictures under different lights (photometric stereo).

    Parameters
    ----------
    captures : pictures with lights
    white : linear value of a white surface directly below a light of intensity 1
    noise : standard deviation in linear light
    static_camera : keep the placements; otherwise pictures are aligned, and those of other subjects
        excluded
    ball : visible in all pictures; determines the lights, overriding stated ones
    uncalibrated : estimate the lights from the pictures alone
    distant : lights without a distance are infinitely far; otherwise their distance is estimated

    Returns
    -------
    MeasuredSurface

    Raises
    ------
    MeasureError : with a remedy
    """
    options = CalibrationOptions(ball=ball, uncalibrated=uncalibrated, distant=distant)
    found = calibrate(captures, options, white=white, noise=noise, static_camera=static_camera)
    surface = measure_stack(CaptureStack(found.used, white, noise, found.f0 or F0), ball)
    return replace(
        surface, remarks=(*found.remarks, *found.of_light, *surface.remarks),
        placements=tuple(capture.placement for capture in found.captures),
        lamps=tuple(one.lamp for one in found.used), left_out=found.left_out,
    )  # fmt: skip


def measure_stack(
    stack: CaptureStack,
    ball: Ball | None = None,
    on_progress: Callable[[float], None] | None = None,
) -> MeasuredSurface:
    """Measure a surface from aligned pictures with known lights.

    Parameters
    ----------
    stack : pictures
    ball : visible in all pictures, excluded from the surface
    on_progress : called after each band of rows with the completed share, [0, 1]

    Returns
    -------
    MeasuredSurface

    Raises
    ------
    MeasureError : if there are too few lights, or lights from one side only
    """
    check_lamps([capture.lamp for capture in stack.captures])
    height = stack.size[1]
    rough = _roughness(stack)
    parts = []
    for top in range(0, height, _BAND):
        end = min(height, top + _BAND)
        parts.append(_solved(stack, top, end, rough.value))
        if on_progress:
            on_progress(end / height)
    normal, color, error, lights = (np.concatenate(each) for each in zip(*parts, strict=True))
    uncertainty = np.clip((error - _SURE) / (_UNSURE - _SURE), 0, 1)
    uncertainty[lights < _FEWEST_AGREE] = 1
    confidence = cv2.resize(rough.confidence, stack.size, interpolation=cv2.INTER_LINEAR)[..., None]
    value = cv2.resize(rough.value, stack.size, interpolation=cv2.INTER_LINEAR)[..., None]
    unsure, heard = np.asarray(uncertainty, np.float32), np.asarray(confidence, np.float32)
    if ball is not None:
        unsure[ball.mask(stack.size)] = 1
    remarks = _remarks([capture.lamp for capture in stack.captures], unsure, heard)
    color = color * np.float32(stack.darker)
    f0 = F0 * stack.darker
    return MeasuredSurface(normal, color, np.asarray(value, np.float32), unsure, heard, remarks, f0)


def _remarks(lamps: Sequence[Lamp], uncertainty: Float, confidence: Float) -> tuple[str, ...]:
    remarks = []
    if one_sided_slopes(lamps):
        remarks.append("no light came from one of the sides; slopes facing it are less accurate")
    unsure = float((uncertainty > 0.5).mean())
    if unsure > 0.02:
        remarks.append(
            f"{unsure:.0%} of the surface is uncertain, because the lights contradict each "
            "other or don't reach it"
        )
    if float((confidence > 0.5).mean()) < 0.1:
        remarks.append("almost no highlights were visible; the roughness is a guess")
    return tuple(remarks)


def _roughness(stack: CaptureStack) -> Roughness:
    width, height = stack.size
    step = max(1, round(max(stack.size) / _THIN_SIDE), 2 if max(stack.size) > 200 else 1)
    some = range(0, height, step), range(0, width, step)
    light, towards = stack.light(*some), stack.towards(*some)
    found = measure_roughness(light, towards, stack.noise)
    # Told only where a glint was indeed seen nearby.
    seen = solve(light, towards, found.value, stack.noise).glint[..., 0]
    near = cv2.blur(cv2.dilate(np.clip(seen / 0.3, 0, 1), np.ones((5, 5))), (5, 5))
    return Roughness(found.value, found.confidence * near)


def _solved(stack: CaptureStack, top: int, end: int, rough: Float) -> tuple[Float, ...]:
    """Return normal, color, error and lights of some rows, for a roughness of any size."""
    width, height = stack.size
    above, below = max(0, top - _BESIDE), min(height, end + _BESIDE)
    some = range(above, below), range(width)
    rows = _of_rows(rough, stack.size, above, below)
    found: Solved = solve(stack.light(*some), stack.towards(*some), rows, stack.noise)
    kept = slice(top - above, end - above)
    return tuple(one[kept] for one in (found.normal, found.color, found.error, found.lights))


def _of_rows(rough: Float, size: tuple[int, int], above: int, below: int) -> Float:
    """Return rows of the roughness, interpolated linearly."""
    width, height = size
    rows = (np.arange(above, below) + 0.5) * rough.shape[0] / height - 0.5
    columns = (np.arange(width) + 0.5) * rough.shape[1] / width - 0.5
    x, y = np.meshgrid(columns.astype(np.float32), rows.astype(np.float32))
    return np.asarray(cv2.remap(rough, x, y, cv2.INTER_LINEAR, borderMode=cv2.BORDER_REPLICATE))
