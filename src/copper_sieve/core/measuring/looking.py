"""Looking at the pictures of a surface: where each lay, and where its light came from."""

from __future__ import annotations

from collections.abc import Sequence
from dataclasses import dataclass, replace

import numpy as np

from copper_sieve.core.measuring.ball import Ball
from copper_sieve.core.measuring.lamps import FEWEST, Lamp, check_lamps
from copper_sieve.core.measuring.lamps_by_ball import lit_by_ball
from copper_sieve.core.measuring.lining_up import Between, line_up, roughly_lined_up
from copper_sieve.core.measuring.stack import ABOVE, NOISE, Placement, Shot, Stack
from copper_sieve.core.measuring.unknown import Guessed, guess_lamps

_GUESS_SIDE = 160  # texels of the longer side by which lamps are guessed
_WITH_BALL = 2  # times that pictures are lined up and a ball is looked at
_MOVED = 0.2  # texels at a corner: less is told to nobody


@dataclass(frozen=True, slots=True)
class Looked:
    """What is known of pictures once they were looked at.

    shots : all of them, each at its place and under its lamp
    left_out : numbers from 0 of those that show something else
    remarks : what is to be known of it, a sentence each
    """

    shots: tuple[Shot, ...]
    left_out: tuple[int, ...] = ()
    remarks: tuple[str, ...] = ()

    @property
    def used(self) -> list[Shot]:
        """Those that are measured from."""
        return [shot for n, shot in enumerate(self.shots) if n not in self.left_out]


def look(
    shots: Sequence[Shot],
    *,
    white: float = 1.0,
    noise: float = NOISE,
    still: bool = False,
    ball: Ball | None = None,
    unknown: bool = False,
    hint: Sequence[Lamp] = (),
    between: Between | None = None,
) -> Looked:
    """Find out where pictures lie and where their light came from; see `measure`.

    hint : where unknown lamps were about, against each other
    between : called again and again meanwhile, so that others may compute; it may raise
    Raises MeasureError with what to do.
    """
    guesses: list[Guessed] = []
    if ball is not None:
        shots = lit_by_ball(shots, ball)
    elif unknown:
        shots = lit_by_guess(shots, noise, still, guesses, between, hint)
    check_lamps([shot.lamp for shot in shots])
    left_out: tuple[int, ...] = ()
    if not still and len(shots) > FEWEST:
        shots, left_out = _lined_up(shots, white, noise, ball, between)
    kept = [n for n in range(len(shots)) if n not in left_out]
    every = list(shots)
    if unknown and not still:
        told = [hint[n] for n in kept] if hint else ()
        lit = lit_by_guess([every[n] for n in kept], noise, True, guesses, between, told)
        for n, shot in zip(kept, lit, strict=True):
            every[n] = shot
    check_lamps([every[n].lamp for n in kept])
    height, width = every[0].codes.shape[:2]
    placements = tuple(shot.placement for shot in every)
    said = _of_placements(placements, left_out, (width, height))
    said += _of_guess(guesses[-1]) if guesses else ()
    return Looked(tuple(every), left_out, said)


def lit_by_guess(  # noqa: PLR0917
    shots: Sequence[Shot],
    noise: float,
    as_placed: bool,
    guesses: list[Guessed],
    between: Between | None = None,
    hint: Sequence[Lamp] = (),
) -> list[Shot]:
    """The same pictures under lamps that they tell themselves; see `unknown`.

    as_placed : they lie as their placements say, else they are lined up by each other
    guesses : what was guessed is added to them
    """
    stack = Stack([replace(shot, lamp=ABOVE) for shot in shots], noise=noise)
    if as_placed:
        width, height = stack.size
        step = max(1, round(max(stack.size) / _GUESS_SIDE))
        light = stack.light(range(0, height, step), range(0, width, step))
    else:
        light = roughly_lined_up(stack, between)
    if between:
        between()
    guesses.append(guess_lamps(light, stack.noise, hint))
    both = zip(shots, guesses[-1].lamps, strict=True)
    return [replace(shot, lamp=lamp) for shot, lamp in both]


def _of_guess(guess: Guessed) -> tuple[str, ...]:
    said = ["where the light was is guessed from the pictures alone: a ball would tell it better"]
    if not guess.sided:
        said.append(
            "nothing tells bumps from dents: the first lamp is taken to have stood on the right"
        )
    return tuple(said)


def _lined_up(
    shots: Sequence[Shot], white: float, noise: float, ball: Ball | None, between: Between | None
) -> tuple[Sequence[Shot], tuple[int, ...]]:
    """The pictures where they lie, and those that show another thing.

    A ball tells other lamps where it is seen at its place, and those tell the places better.
    """
    for _ in range(1 if ball is None else _WITH_BALL):
        found = line_up(Stack(shots, white, noise), between)
        both = zip(shots, found.placements, strict=True)
        shots = [replace(shot, placement=place) for shot, place in both]
        if ball is not None:
            told = [n for n in range(len(shots)) if n not in found.strangers]
            lit = lit_by_ball([shots[n] for n in told], ball)
            for n, shot in zip(told, lit, strict=True):
                shots[n] = shot
    return shots, found.strangers


def _of_placements(
    placements: Sequence[Placement], left_out: Sequence[int], size: tuple[int, int]
) -> tuple[str, ...]:
    """What is told of pictures that moved, and of those that were not used."""
    said = [
        f"picture {n + 1} does not fit the others and was left out: a large shadow lies on it, or "
        "it shows something else"
        for n in left_out
    ]
    corner = np.array(size, np.float64) / 2
    moves = []
    for place in placements:
        x, y = place.places(*corner)
        moves.append(float(np.hypot(x - corner[0], y - corner[1])))
    if max(moves) > _MOVED:
        said.append(f"the camera moved by up to {max(moves):.1f} texels: pictures were lined up")
    return tuple(said)
