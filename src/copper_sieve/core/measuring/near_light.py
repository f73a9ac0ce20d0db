"""Lights estimated from the pictures: their distance, or all of it."""

from __future__ import annotations

from collections.abc import Sequence
from dataclasses import dataclass, replace

from copper_sieve.core.image.raster import Float
from copper_sieve.core.measuring.ball import Ball
from copper_sieve.core.measuring.f0_estimation import told_by_glints
from copper_sieve.core.measuring.light_directions import Lamp
from copper_sieve.core.measuring.light_priors import Said
from copper_sieve.core.measuring.light_refinement import Adjusted, adjusted
from copper_sieve.core.measuring.registration import Between, roughly_lined_up
from copper_sieve.core.measuring.simd_batch import F0
from copper_sieve.core.measuring.stack import ABOVE, NOISE, Shot, Stack, White
from copper_sieve.core.measuring.uncalibrated_start import Guessed, guess_lamps

_SIDE = 80  # texels of the longer side: lamps are few
_BY_BALL = {"white": 2.5, "shiny": 1.0}  # degrees by which a ball may be off
_WHITE = 0.05  # standard deviation of the log strength measured with a white ball
_ABOUT = 5.0  # degrees by which lamps may be off that are to be fitted


@dataclass(frozen=True, slots=True)
class Light:
    """Radiometric model of the pictures.

    white : linear value of a white surface straight below a light of strength 1; noise : one sigma
    mirrors : reflectance at normal incidence; None: unknown
    is_metal : metallic surface
    between : called repeatedly during the analysis, to allow other threads to compute
    """

    white: White = 1.0
    noise: float = NOISE
    between: Between | None = None
    mirrors: float | None = None
    is_metal: bool = False

    def stack(self, shots: Sequence[Shot]) -> Stack:
        """Of these pictures."""
        return Stack(shots, self.white, self.noise, self.mirrors or F0)


@dataclass(frozen=True, slots=True)
class Seen:
    """Aligned samples of the pictures, independent of their lights; see `adjusted`."""

    light: Float
    places: Float
    noise: float


def light_of(shots: Sequence[Shot], light: Light, ball: Ball | None = None) -> Seen:
    """Return samples of the aligned pictures, excluding a ball."""
    stack = _plain(shots, light)
    rows, columns = _some(stack)
    return Seen(_beside(stack, ball), stack.places(rows, columns), stack.noise)


def mirrored_by(shots: Sequence[Shot], light: Light, ball: Ball | None = None) -> Light:
    """Estimate the reflectance from highlights, for known lights."""
    stack = replace(light, mirrors=None).stack(shots)
    told = told_by_glints(_beside(stack, ball), stack.towards(*_some(stack)), stack.noise)
    return replace(light, mirrors=None if told == 1 else told, is_metal=told == 1)


def _some(stack: Stack) -> tuple[range, range]:
    width, height = stack.size
    step = max(1, round(max(stack.size) / _SIDE))
    return range(0, height, step), range(0, width, step)


def _beside(stack: Stack, ball: Ball | None) -> Float:
    rows, columns = _some(stack)
    found = stack.light(rows, columns)
    if ball is not None:
        found[:, ball.mask(stack.size)[:: rows.step, :: columns.step]] = -1
    return found


def adjusted_to(seen: Seen, light: Light, said: Said) -> Adjusted:
    """See `adjusted`."""
    return adjusted(seen.light, seen.places, seen.noise, said, light.between)


def adjusted_by_ball(shots: Sequence[Shot], ball: Ball, light: Light) -> Sequence[Shot]:
    """Refine lights detected from a ball, which is not at the center of the picture."""
    height, width = shots[0].codes.shape[:2]
    place = (ball.x / width - 0.5, (height / 2 - ball.y) / width, ball.radius / width)
    off = _BY_BALL[ball.kind]
    strength = _WHITE if ball.kind == "white" else None
    said = Said([shot.lamp for shot in shots], off, off, strength, place)
    found = adjusted_to(light_of(shots, light, ball), light, said)
    return _under(shots, found.lamps) if found.is_better else shots


def fitted(shots: Sequence[Shot], light: Light) -> list[Shot]:
    """Pictures whose lamps stood about where they say, and are told better by the pictures."""
    lamps = [replace(shot.lamp, distance=None) for shot in shots]
    found = adjusted_to(light_of(shots, light), light, Said(lamps, _ABOUT, _ABOUT))
    return _under(shots, found.lamps)


def lit_by_guess(  # noqa: PLR0917
    shots: Sequence[Shot],
    light: Light,
    as_placed: bool,
    guesses: list[Guessed],
    hint: Sequence[Lamp] = (),
    up: float | None = None,
) -> list[Shot]:
    """Estimate the lights from the pictures; see `guess_lamps`.

    as_placed : keep placements, else align the pictures with each other
    guesses : the estimate is appended
    """
    if as_placed:
        seen = light_of(shots, light)
    else:
        stack = _plain(shots, light)
        lined, places = roughly_lined_up(stack, light.between)
        step = max(1, round(max(lined.shape[1:3]) / _SIDE))
        seen = Seen(lined[:, ::step, ::step], places[::step, ::step], stack.noise)
    guesses.append(guess_lamps(seen.light, seen.places, seen.noise, hint, up, light.between))
    return _under(shots, guesses[-1].lamps)


def _plain(shots: Sequence[Shot], light: Light) -> Stack:
    return light.stack([replace(shot, lamp=ABOVE) for shot in shots])


def _under(shots: Sequence[Shot], lamps: Sequence[Lamp]) -> list[Shot]:
    return [replace(shot, lamp=lamp) for shot, lamp in zip(shots, lamps, strict=True)]
