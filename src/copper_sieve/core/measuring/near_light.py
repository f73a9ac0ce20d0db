"""Lights estimated from the pictures: their distance, or all of it."""

from __future__ import annotations

from collections.abc import Sequence
from dataclasses import dataclass, replace

from copper_sieve.core.image.raster import Float
from copper_sieve.core.measuring.ball import Ball
from copper_sieve.core.measuring.f0_estimation import estimate_f0
from copper_sieve.core.measuring.light_directions import Lamp
from copper_sieve.core.measuring.light_priors import LightPriors
from copper_sieve.core.measuring.light_refinement import RefinedLights, refine_lights
from copper_sieve.core.measuring.registration import Between, register_coarsely
from copper_sieve.core.measuring.simd_batch import F0
from copper_sieve.core.measuring.stack import ABOVE, NOISE, Capture, CaptureStack, White
from copper_sieve.core.measuring.uncalibrated_start import UncalibratedStart, estimate_start

_SIDE = 80  # texels of the longer side: lamps are few
_BY_BALL = {"white": 2.5, "shiny": 1.0}  # degrees by which a ball may be off
_WHITE = 0.05  # standard deviation of the log strength measured with a white ball
_ABOUT = 5.0  # degrees by which lamps may be off that are to be fitted


@dataclass(frozen=True, slots=True)
class FitOptions:
    """Radiometric model of the pictures.

    white : linear value of a white surface straight below a light of strength 1; noise : one sigma
    f0 : reflectance at normal incidence; None: unknown
    is_metal : metallic surface
    between : called repeatedly during the analysis, to allow other threads to compute
    """

    white: White = 1.0
    noise: float = NOISE
    between: Between | None = None
    f0: float | None = None
    is_metal: bool = False

    def stack(self, captures: Sequence[Capture]) -> CaptureStack:
        """Return the stack of some captures."""
        return CaptureStack(captures, self.white, self.noise, self.f0 or F0)


@dataclass(frozen=True, slots=True)
class LightSamples:
    """Aligned samples of the pictures, independent of their lights; see `refine_lights`."""

    light: Float
    places: Float
    noise: float


def sample_light(
    captures: Sequence[Capture], light: FitOptions, ball: Ball | None = None
) -> LightSamples:
    """Return samples of the aligned pictures, excluding a ball."""
    stack = _plain(captures, light)
    rows, columns = _some(stack)
    return LightSamples(_beside(stack, ball), stack.places(rows, columns), stack.noise)


def with_estimated_f0(
    captures: Sequence[Capture], light: FitOptions, ball: Ball | None = None
) -> FitOptions:
    """Estimate the reflectance from highlights, for known lights."""
    stack = replace(light, f0=None).stack(captures)
    f0 = estimate_f0(_beside(stack, ball), stack.towards(*_some(stack)), stack.noise)
    return replace(light, f0=None if f0 == 1 else f0, is_metal=f0 == 1)


def _some(stack: CaptureStack) -> tuple[range, range]:
    width, height = stack.size
    step = max(1, round(max(stack.size) / _SIDE))
    return range(0, height, step), range(0, width, step)


def _beside(stack: CaptureStack, ball: Ball | None) -> Float:
    rows, columns = _some(stack)
    found = stack.light(rows, columns)
    if ball is not None:
        found[:, ball.mask(stack.size)[:: rows.step, :: columns.step]] = -1
    return found


def refine_from_priors(seen: LightSamples, light: FitOptions, priors: LightPriors) -> RefinedLights:
    """Refine the lights; see `refine_lights`."""
    return refine_lights(seen.light, seen.places, seen.noise, priors, light.between)


def refine_with_ball(
    captures: Sequence[Capture], ball: Ball, light: FitOptions
) -> Sequence[Capture]:
    """Refine lights detected from a ball, which is not at the center of the picture."""
    height, width = captures[0].codes.shape[:2]
    place = (ball.x / width - 0.5, (height / 2 - ball.y) / width, ball.radius / width)
    off = _BY_BALL[ball.kind]
    intensity = _WHITE if ball.kind == "white" else None
    priors = LightPriors([capture.lamp for capture in captures], off, off, intensity, place)
    found = refine_from_priors(sample_light(captures, light, ball), light, priors)
    return _under(captures, found.lamps) if found.is_better else captures


def fit_lights(captures: Sequence[Capture], light: FitOptions) -> list[Capture]:
    """Refine the lights of captures, starting at their approximate directions."""
    lamps = [replace(capture.lamp, distance=None) for capture in captures]
    found = refine_from_priors(
        sample_light(captures, light), light, LightPriors(lamps, _ABOUT, _ABOUT)
    )
    return _under(captures, found.lamps)


def fit_from_start(  # noqa: PLR0917
    captures: Sequence[Capture],
    light: FitOptions,
    as_placed: bool,
    guesses: list[UncalibratedStart],
    hint: Sequence[Lamp] = (),
    elevation: float | None = None,
) -> list[Capture]:
    """Estimate the lights from the pictures; see `estimate_start`.

    Parameters
    ----------
    captures : pictures
    light : options
    as_placed : keep the placements; otherwise align the pictures with each other
    guesses : receives the estimate
    hint : approximate lights relative to each other
    elevation : common elevation in degrees, if known

    Returns
    -------
    captures with lights
    """
    if as_placed:
        seen = sample_light(captures, light)
    else:
        stack = _plain(captures, light)
        lined, places = register_coarsely(stack, light.between)
        step = max(1, round(max(lined.shape[1:3]) / _SIDE))
        seen = LightSamples(lined[:, ::step, ::step], places[::step, ::step], stack.noise)
    guesses.append(
        estimate_start(seen.light, seen.places, seen.noise, hint, elevation, light.between)
    )
    return _under(captures, guesses[-1].lamps)


def _plain(captures: Sequence[Capture], light: FitOptions) -> CaptureStack:
    return light.stack([replace(capture, lamp=ABOVE) for capture in captures])


def _under(captures: Sequence[Capture], lamps: Sequence[Lamp]) -> list[Capture]:
    return [replace(capture, lamp=lamp) for capture, lamp in zip(captures, lamps, strict=True)]
