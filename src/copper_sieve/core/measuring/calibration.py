"""Calibration: the placement and the light of each picture of a surface."""

from __future__ import annotations

from collections.abc import Sequence
from dataclasses import dataclass, replace

import numpy as np

from copper_sieve.core.measuring.ball import Ball
from copper_sieve.core.measuring.light_directions import FEWEST, Lamp, check_lamps
from copper_sieve.core.measuring.light_priors import LightPriors
from copper_sieve.core.measuring.lights_from_ball import lights_by_ball
from copper_sieve.core.measuring.near_light import (
    FitOptions,
    fit_from_start,
    fit_lights,
    refine_from_priors,
    refine_with_ball,
    sample_light,
    with_estimated_f0,
)
from copper_sieve.core.measuring.registration import Between, register
from copper_sieve.core.measuring.simd_batch import F0
from copper_sieve.core.measuring.stack import NOISE, Capture, Placement
from copper_sieve.core.measuring.uncalibrated_start import UncalibratedStart

_WITH_BALL = 2  # times that pictures are lined up and a ball is looked at
_AS_SAID = 0.3  # degrees, tolerance of a stated light direction
_METAL = (
    "the surface is metallic: almost only reflections are visible, which don't allow "
    "measuring normals or colors. Dull the surface with scanning spray and take the "
    "pictures again"
)
_MOVED = 0.2  # texels; below this count at a corner, no confidence is reported


@dataclass(frozen=True, slots=True)
class Calibration:
    """Result of the analysis of pictures.

    captures : all pictures with placement and light
    left_out : indices from 0 of excluded pictures
    remarks, of_light : messages about the pictures and their lights, one sentence each
    f0 : see `FitOptions`
    """

    captures: tuple[Capture, ...]
    left_out: tuple[int, ...] = ()
    remarks: tuple[str, ...] = ()
    of_light: tuple[str, ...] = ()
    f0: float | None = None

    @property
    def used(self) -> list[Capture]:
        """Those that are measured from."""
        return [capture for n, capture in enumerate(self.captures) if n not in self.left_out]


@dataclass(frozen=True, slots=True)
class CalibrationOptions:
    """How the lights are determined.

    ball : visible in all pictures; determines the lights, overriding stated ones
    uncalibrated : estimate the lights from the pictures alone
    elevation : common elevation of unknown lights in degrees
    hint : approximate lights relative to each other
    distant : lights without a distance are infinitely far; otherwise their distance is estimated
    """

    ball: Ball | None = None
    uncalibrated: bool = False
    elevation: float | None = None
    hint: Sequence[Lamp] = ()
    distant: bool = False


def calibrate(
    captures: Sequence[Capture],
    options: CalibrationOptions,
    *,
    white: float = 1.0,
    noise: float = NOISE,
    static_camera: bool = False,
    between: Between | None = None,
) -> Calibration:
    """Determine the placement and the light of each picture; see `measure`.

    Parameters
    ----------
    captures : pictures with stated or unknown lights
    options : what to determine
    white : linear value of a white surface directly below a light of intensity 1
    noise : standard deviation in linear light
    static_camera : skip the registration
    between : called repeatedly, so that other threads can run; may raise

    Raises
    ------
    MeasureError : with a remedy
    """
    light, stated = FitOptions(white, noise, between), [capture.lamp for capture in captures]
    guesses: list[UncalibratedStart] = []
    lit = _lit(captures, stated, options, light, guesses, static_camera)
    check_lamps([capture.lamp for capture in lit])
    light = with_estimated_f0(lit, light, options.ball)
    if light.f0 not in (None, F0):  # highlights from which other light directions result
        lit = (
            fit_lights(lit, light)
            if options.uncalibrated
            else _lit(captures, stated, options, light, guesses, static_camera)
        )
    left_out: tuple[int, ...] = ()
    every = list(lit)
    if not static_camera and len(captures) > FEWEST:
        lined, left_out = _lined_up(lit, options.ball, light)
        every = list(lined)
    moved = not all(capture.placement.is_still for capture in every)
    if left_out or moved or (options.ball and not static_camera):
        # What the pictures tell of the light, they tell better where they lie.
        kept = [n for n in range(len(every)) if n not in left_out]
        hint = [options.hint[n] for n in kept] if options.hint else ()
        some, lamps = [every[n] for n in kept], [stated[n] for n in kept]
        lit = _lit(some, lamps, replace(options, hint=hint), light, guesses, True)
        for n, capture in zip(kept, lit, strict=True):
            every[n] = capture
    used = [capture for n, capture in enumerate(every) if n not in left_out]
    check_lamps([capture.lamp for capture in used])
    height, width = every[0].codes.shape[:2]
    placements = tuple(capture.placement for capture in every)
    remarks = _of_placements(placements, left_out, (width, height))
    if light.is_metal:
        remarks += (_METAL,)
    found = [] if any(lamp.distance for lamp in stated) else [capture.lamp for capture in used]
    of_light = light_remarks_of(found, guesses[-1] if guesses else None)
    of_light += f0_remarks(light.f0)
    return Calibration(tuple(every), left_out, remarks, of_light, light.f0)


def _lit(  # noqa: PLR0917
    captures: Sequence[Capture], stated: Sequence[Lamp], options: CalibrationOptions,
    light: FitOptions,
    guesses: list[UncalibratedStart], as_placed: bool,
) -> Sequence[Capture]:  # fmt: skip
    """Return the pictures with their lights: stated, detected from a ball, or estimated."""
    if options.ball is not None:
        known: Sequence[Capture] = lights_by_ball(captures, options.ball)
        return known if options.distant else refine_with_ball(known, options.ball, light)
    if options.uncalibrated:
        return fit_from_start(captures, light, as_placed, guesses, options.hint, options.elevation)
    known = [replace(capture, lamp=lamp) for capture, lamp in zip(captures, stated, strict=True)]
    if options.distant or any(one.distance for one in stated):
        return known
    check_lamps(stated)
    found = refine_from_priors(
        sample_light(known, light), light, LightPriors(stated, _AS_SAID, _AS_SAID)
    )
    if not found.is_better:
        return known
    # Their directions keep the stated values.
    both = zip(known, found.lamps, strict=True)
    return [
        replace(capture, lamp=replace(one, direction=capture.lamp.direction))
        for capture, one in both
    ]


def light_remarks_of(
    found: Sequence[Lamp], guess: UncalibratedStart | None = None
) -> tuple[str, ...]:
    """Return messages about the lights, one sentence each.

    Parameters
    ----------
    found : lights, with estimated distances
    guess : result of a full estimation
    """
    remarks = []
    if guess:
        remarks.append(
            "the light directions were estimated from the pictures alone; a ball in the pictures "
            "would make them more accurate"
        )
    if guess and not guess.sided:
        remarks.append(
            "nothing distinguishes bumps from dents; the first light is assumed to be on the right"
        )
    away = [one.distance for one in found if one.distance]
    if away:
        remarks.append(
            f"the light was about {np.median(away):.1f} picture widths away, as estimated "
            "from the pictures; its falloff and direction changes are corrected"
        )
    return tuple(remarks)


def f0_remarks(f0: float | None, white_is_told: bool = False) -> tuple[str, ...]:
    """Describe highlights that are stronger or weaker than those of most surfaces.

    Parameters
    ----------
    f0 : reflectance at normal incidence, estimated from highlights
    white_is_told : True if the light intensity is known from a gray card
    """
    if f0 is None or f0 == F0:
        return ()
    told = f"the highlights indicate a reflectance of {f0:.1%} at normal incidence"
    if white_is_told:
        return (f"{told}; most surfaces have 4 %",)
    way = "strong" if f0 > F0 else "weak"
    times = max(f0 / F0, F0 / f0)
    return (
        (
            f"{told}; most surfaces have 4 %. Alternatively, the light was {times:.1f} times as "
            f"{way} as assumed; a gray card would show which"
        ),
    )


def _lined_up(
    captures: Sequence[Capture], ball: Ball | None, light: FitOptions
) -> tuple[Sequence[Capture], tuple[int, ...]]:
    """Register the captures; return them with their placements, and those that don't match.

    With a ball, registration and light directions improve each other, so both are repeated.
    """
    for _ in range(1 if ball is None else _WITH_BALL):
        found = register(light.stack(captures), light.between)
        both = zip(captures, found.placements, strict=True)
        captures = [replace(capture, placement=place) for capture, place in both]
        if ball is not None:
            told = [n for n in range(len(captures)) if n not in found.strangers]
            lit = lights_by_ball([captures[n] for n in told], ball)
            for n, capture in zip(told, lit, strict=True):
                captures[n] = capture
    return captures, found.strangers


def _of_placements(
    placements: Sequence[Placement], left_out: Sequence[int], size: tuple[int, int]
) -> tuple[str, ...]:
    """Describe the captures that were registered, and the unused ones."""
    remarks = [
        (
            f"Picture {n + 1} was excluded: it doesn't match the others (large shadow or "
            "different subject)"
        )
        for n in left_out
    ]
    corner = np.array(size, np.float64) / 2
    moves = []
    for place in placements:
        x, y = place.places(*corner)
        moves.append(float(np.hypot(x - corner[0], y - corner[1])))
    if max(moves) > _MOVED:
        remarks.append(f"the camera moved by up to {max(moves):.1f} px; the pictures were aligned")
    return tuple(remarks)
