"""Calibrate pictures of one surface on import: placements and light directions."""

from __future__ import annotations

from collections.abc import Mapping, Sequence
from dataclasses import dataclass, replace
from typing import Literal

import numpy as np

from copper_sieve.core.detection.one_surface import is_one_surface
from copper_sieve.core.errors import MeasureError
from copper_sieve.core.image.encoding import linear_to_srgb, quantize
from copper_sieve.core.image.raster import Codes, Encoding, Float, Picture
from copper_sieve.core.measuring.ball import Ball
from copper_sieve.core.measuring.calibration import (
    Calibration,
    CalibrationOptions,
    calibrate,
    f0_remarks,
    light_remarks_of,
)
from copper_sieve.core.measuring.flat_field import flat_field_of
from copper_sieve.core.measuring.light_directions import Lamp
from copper_sieve.core.measuring.lights_from_ball import find_ball_in_captures, lights_by_ball
from copper_sieve.core.measuring.near_light import (
    FitOptions,
    fit_from_start,
    fit_lights,
    refine_with_ball,
)
from copper_sieve.core.measuring.registration import Between
from copper_sieve.core.measuring.rotation_registration import joined, rectify_rotations
from copper_sieve.core.measuring.stack import Capture, Placement, codes_of, reduce_light
from copper_sieve.core.measuring.uncalibrated_start import UncalibratedStart
from copper_sieve.core.models.light_captures import (
    BallSpec,
    CaptureSpec,
    CapturesSpec,
    LampSpec,
    LightOrigin,
    PlacementSpec,
)

_SIDE = 256  # texels of the longer side at which it is seen whether the sample was turned
_LAMP_UP = 45.0  # degrees, of a lamp that nobody knows


@dataclass(frozen=True, slots=True)
class ReadCapture:
    """A picture that was read.

    exposure : in stops relative to the others; name : file name for messages
    """

    sha256: str
    picture: Picture
    exposure: float = 0.0
    name: str = "the flat-field picture"


def calibrated_captures(
    pictures: Sequence[ReadCapture],
    *,
    lamps: Sequence[Lamp] = (),
    ball: Ball | Literal["find"] | None = None,
    uncalibrated: bool = False,
    elevation: float | None = None,
    distant: bool = False,
    static_camera: bool = False,
    white: float = 1.0,
    flat_field: ReadCapture | None = None,
    between: Between | None = None,
) -> CapturesSpec:
    """Calibrate captures of one surface; return the result as a set stores it.

    Parameters
    ----------
    pictures : captures
    lamps : stated light of each capture; default: from a ball, or else estimated
    ball : position in texels; "find": must be detected; None: detected if there is one
    uncalibrated : don't search for a ball
    elevation : common elevation of all lights in degrees; no ball is needed then
    distant : treat lights without a distance as distant; otherwise estimate the distance
    static_camera : skip the alignment
    white, flat_field : see `library.measuring.measure`
    between : called repeatedly, so that other threads can run; may raise

    Raises
    ------
    MeasureError : with a remedy
    """
    codes = [codes_of(one.picture) for one in pictures]
    turns = None if static_camera else _turns_of(codes)
    # With rotations, light and placement are relative to the sample in the first picture.
    if turns:
        lamps = [lamp.turned(one.rotation) for lamp, one in zip(lamps, turns, strict=False)]
    captures = _captures_of(pictures, codes, turns, flat_field)
    found, where = None, None

    def calibrated(options: CalibrationOptions) -> Calibration:
        return calibrate(
            captures, options, white=white, static_camera=static_camera, between=between
        )

    if lamps:
        captures = [replace(one, lamp=lamp) for one, lamp in zip(captures, lamps, strict=True)]
    elif not uncalibrated and elevation is None:
        try:
            where = ball if isinstance(ball, Ball) else find_ball_in_captures(captures)
            found = calibrated(CalibrationOptions(ball=where, distant=distant))
        except MeasureError:
            if ball is not None:  # the user stated that there is one
                raise
            where = None
    if found is None:
        hint = [Lamp.at(one.rotation, _LAMP_UP) for one in turns or ()]
        found = calibrated(CalibrationOptions(None, not lamps, elevation, hint, distant))
    found = _as_turned(found, turns) if turns else found
    origin: LightOrigin = "manual" if lamps else "ball" if where else "estimated"
    return _kept(pictures, found, origin, where, white, flat_field)


def _captures_of(
    pictures: Sequence[ReadCapture],
    codes: Sequence[Codes | Float],
    turns: Sequence[Placement] | None,
    flat_field: ReadCapture | None,
) -> list[Capture]:
    """Return the captures, rotated back. Raises MeasureError for duplicates."""
    if len({one.sha256 for one in pictures}) < len(pictures):
        raise MeasureError("the same picture was given twice. Remove one of them")
    even = flat_field_of(codes_of(flat_field.picture), flat_field.name) if flat_field else None
    if turns:
        pairs = zip(codes, turns, strict=True)
        codes = [rectify_rotations(one, rotation) for one, rotation in pairs]
        even = None  # it belongs to the lens, and is applied again in the measurement
    each = zip(codes, pictures, strict=True)
    return [Capture(one, exposure=taken.exposure, even=even) for one, taken in each]


def _turns_of(codes: Sequence[Codes | Float]) -> tuple[Placement, ...] | None:
    """Return the placements of pictures of a rotated sample in texels, or None."""
    height, width = codes[0].shape[:2]
    scale = max(1.0, max(height, width) / _SIDE)
    size = round(width / scale), round(height / scale)
    light = [np.nan_to_num(reduce_light(one, *size), nan=1) for one in codes]
    small = [quantize(linear_to_srgb(np.clip(one, 0, 1)), 8) for one in light]
    same = is_one_surface(small)
    if same is None or same.turns is None:
        return None
    return tuple(Placement(t.right * scale, t.down * scale, t.rotation) for t in same.turns)


def _as_turned(found: Calibration, turns: Sequence[Placement]) -> Calibration:
    """Return it relative to the pictures before rotation."""
    captures = tuple(
        replace(capture, placement=joined(rotation, capture.placement))
        for capture, rotation in zip(found.captures, turns, strict=True)
    )
    widest = max(abs(one.rotation) for one in turns)
    remark = (
        f"the sample was rotated by up to {widest:.0f}° between the pictures; they were aligned"
    )
    return replace(found, captures=captures, remarks=(remark, *found.remarks))


def _kept(  # noqa: PLR0917
    pictures: Sequence[ReadCapture], found: Calibration, origin: LightOrigin, ball: Ball | None,
    white: float,
    flat_field: ReadCapture | None,
) -> CapturesSpec:  # fmt: skip
    width = pictures[0].picture.size[0]
    captures = tuple(
        CaptureSpec(
            source=one.sha256,
            encoding=Encoding(one.picture.encoding),
            lamp=LampSpec.of(capture.lamp),
            light_origin=origin,
            placement=PlacementSpec.of(capture.placement, width),
            exposure=one.exposure,
            used=n not in found.left_out,
        )
        for n, (one, capture) in enumerate(zip(pictures, found.captures, strict=True))
    )
    return CapturesSpec(
        captures=captures, ball=BallSpec.of(ball, width) if ball else None, white=white,
        f0=found.f0, flat_field=flat_field.sha256 if flat_field else None, remarks=found.remarks,
        light_remarks=found.of_light,
    )  # fmt: skip


def with_refined_lights(
    kept: CapturesSpec, pictures: Mapping[str, Picture], how: LightOrigin,
    ball: BallSpec | None = None,
    elevation: float | None = None,
) -> CapturesSpec:  # fmt: skip
    """Return the captures with newly determined lights and the same placements.

    Parameters
    ----------
    kept : captures
    pictures : those that are used, by SHA-256
    how : from the ball, estimated from the pictures alone, or refined from the current lights
    ball : position, for lights from the ball
    elevation : common elevation of estimated lights in degrees

    Returns
    -------
    CapturesSpec

    Raises
    ------
    MeasureError : with the picture in which the ball can't be used
    """
    used, light = kept.used, FitOptions(kept.light, f0=kept.f0)
    width = pictures[used[0].source].size[0]
    captures = [
        Capture(codes_of(pictures[one.source], one.encoding), one.lamp.lamp(), one.exposure,
             one.placement.placement(width))
        for one in used
    ]  # fmt: skip
    lit: Sequence[Capture]
    guesses: list[UncalibratedStart] = []
    if how == "ball" and ball:
        placed = ball.ball(width)
        lit = refine_with_ball(lights_by_ball(captures, placed), placed, light)
    elif how == "refined":
        lit = fit_lights(captures, light)
    else:
        lit = fit_from_start(captures, light, as_placed=True, guesses=guesses, elevation=elevation)
    lamps = {one.source: LampSpec.of(capture.lamp) for one, capture in zip(used, lit, strict=True)}
    each = tuple(
        one.model_copy(update={"lamp": lamps[one.source], "light_origin": how})
        if one.source in lamps
        else one
        for one in kept.captures
    )
    remarks = light_remarks_of([capture.lamp for capture in lit], guesses[-1] if guesses else None)
    remarks += f0_remarks(kept.f0, kept.gray_card is not None)
    update = {"captures": each, "ball": ball or kept.ball, "light_remarks": remarks}
    return kept.model_copy(update=update)
