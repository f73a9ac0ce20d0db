"""A surface measured from pictures under known lights: normals, colors, roughness, and how sure."""

from __future__ import annotations

from collections.abc import Sequence
from dataclasses import dataclass, replace

import cv2
import numpy as np

from copper_sieve.core.image.raster import Float
from copper_sieve.core.measuring.ball import Ball
from copper_sieve.core.measuring.lamps import FEWEST, Lamp, check_lamps, one_sided
from copper_sieve.core.measuring.lamps_by_ball import lit_by_ball
from copper_sieve.core.measuring.lining_up import line_up, roughly_lined_up
from copper_sieve.core.measuring.roughness import Roughness, measure_roughness
from copper_sieve.core.measuring.solving import Solved, solve
from copper_sieve.core.measuring.stack import ABOVE, NOISE, Placement, Shot, Stack
from copper_sieve.core.measuring.unknown import Guessed, guess_lamps

_BAND = 256  # rows at a time
_BESIDE = 8  # rows that a band knows of its neighbours
_THIN_SIDE = 256  # roughness is told at about this size
_SURE, _UNSURE = 2.0, 15.0  # degrees that a normal may be off: no doubt, and all of it
_FEWEST_AGREE = 3.0
_GUESS_SIDE = 160  # texels of the longer side by which lamps are guessed
_WITH_BALL = 2  # times that pictures are lined up and a ball is looked at
_MOVED = 0.2  # texels at a corner: less is told to nobody


@dataclass(frozen=True, slots=True)
class Surface:
    """What was measured, (H, W, C) float32.

    normal : unit vectors, Y up; color : base color in linear light; roughness : perceptual
    doubt : [0, 1], 0 where lights agree, 1 where nothing is known; told : how much glints had to
        say of the roughness, 0 is a guess from around
    remarks : what is to be known of it, a sentence each
    placements : where each picture lay; lamps : of those that were used
    left_out : numbers from 0 of those that were not used
    """

    normal: Float
    color: Float
    roughness: Float
    doubt: Float
    told: Float
    remarks: tuple[str, ...] = ()
    placements: tuple[Placement, ...] = ()
    lamps: tuple[Lamp, ...] = ()
    left_out: tuple[int, ...] = ()


def measure(
    shots: Sequence[Shot],
    *,
    white: float = 1.0,
    noise: float = NOISE,
    still: bool = False,
    ball: Ball | None = None,
    unknown: bool = False,
) -> Surface:
    """Measure a surface.

    white : what a white surface straight below a lamp of strength 1 shows, in linear light
    still : the camera stood still, and pictures lie as they say; else they are lined up, and those
        that show another thing are left out
    ball : one that all pictures show: it tells their lamps, whatever they say themselves
    unknown : nobody knows the lamps: they are guessed from the pictures alone
    Raises MeasureError with what to do.
    """
    guesses: list[Guessed] = []
    if ball is not None:
        shots = lit_by_ball(shots, ball)
    elif unknown:
        shots = _lit_by_guess(shots, noise, still, guesses)
    check_lamps([shot.lamp for shot in shots])
    left_out: tuple[int, ...] = ()
    if not still and len(shots) > FEWEST:
        shots, left_out = _lined_up(shots, white, noise, ball)
    used = [shot for n, shot in enumerate(shots) if n not in left_out]
    if unknown and not still:
        used = _lit_by_guess(used, noise, True, guesses)
    check_lamps([shot.lamp for shot in used])
    stack = Stack(used, white, noise)
    surface = _measured(stack)
    if ball is not None:
        surface.doubt[ball.mask(stack.size)] = 1  # it is no part of the surface
    placements = tuple(shot.placement for shot in shots)
    said = _of_placements(placements, left_out, stack.size)
    said += _of_guess(guesses[-1]) if guesses else ()
    remarks = (*said, *_remarks(used, surface.doubt, surface.told))
    return replace(
        surface, remarks=remarks, placements=placements, lamps=tuple(one.lamp for one in used),
        left_out=left_out,
    )  # fmt: skip


def _lit_by_guess(
    shots: Sequence[Shot], noise: float, as_placed: bool, guesses: list[Guessed]
) -> list[Shot]:
    """The same pictures under lamps that they tell themselves; see `unknown`.

    as_placed : they lie as their placements say, else they are lined up by each other
    """
    stack = Stack([replace(shot, lamp=ABOVE) for shot in shots], noise=noise)
    if as_placed:
        width, height = stack.size
        step = max(1, round(max(stack.size) / _GUESS_SIDE))
        light = stack.light(range(0, height, step), range(0, width, step))
    else:
        light = roughly_lined_up(stack)
    guesses.append(guess_lamps(light, stack.noise))
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
    shots: Sequence[Shot], white: float, noise: float, ball: Ball | None
) -> tuple[Sequence[Shot], tuple[int, ...]]:
    """The pictures where they lie, and those that show another thing.

    A ball tells other lamps where it is seen at its place, and those tell the places better.
    """
    for _ in range(1 if ball is None else _WITH_BALL):
        found = line_up(Stack(shots, white, noise))
        both = zip(shots, found.placements, strict=True)
        shots = [replace(shot, placement=place) for shot, place in both]
        if ball is not None:
            told = [n for n in range(len(shots)) if n not in found.strangers]
            lit = lit_by_ball([shots[n] for n in told], ball)
            for n, shot in zip(told, lit, strict=True):
                shots[n] = shot
    return shots, found.strangers


def _measured(stack: Stack) -> Surface:
    height = stack.size[1]
    rough = _roughness(stack)
    parts = [
        _solved(stack, top, min(height, top + _BAND), rough.value)
        for top in range(0, height, _BAND)
    ]
    normal, color, error, lights = (np.concatenate(each) for each in zip(*parts, strict=True))
    doubt = np.clip((error - _SURE) / (_UNSURE - _SURE), 0, 1)
    doubt[lights < _FEWEST_AGREE] = 1
    told = cv2.resize(rough.told, stack.size, interpolation=cv2.INTER_LINEAR)[..., None]
    value = cv2.resize(rough.value, stack.size, interpolation=cv2.INTER_LINEAR)[..., None]
    unsure, heard = np.asarray(doubt, np.float32), np.asarray(told, np.float32)
    return Surface(normal, color, np.asarray(value, np.float32), unsure, heard)


def _of_placements(
    placements: Sequence[Placement], left_out: Sequence[int], size: tuple[int, int]
) -> tuple[str, ...]:
    """What is told of pictures that moved, and of those that were not used."""
    said = [f"picture {n + 1} shows something else and was left out" for n in left_out]
    corner = np.array(size, np.float64) / 2
    moves = []
    for place in placements:
        x, y = place.places(*corner)
        moves.append(float(np.hypot(x - corner[0], y - corner[1])))
    if max(moves) > _MOVED:
        said.append(f"the camera moved by up to {max(moves):.1f} texels: pictures were lined up")
    return tuple(said)


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


def _roughness(stack: Stack) -> Roughness:
    width, height = stack.size
    step = max(1, round(max(stack.size) / _THIN_SIDE), 2 if max(stack.size) > 200 else 1)
    some = range(0, height, step), range(0, width, step)
    light, towards = stack.light(*some), stack.towards(*some)
    found = measure_roughness(light, towards, stack.noise)
    # Told only where a glint was indeed seen nearby.
    seen = solve(light, towards, found.value, stack.noise).glint[..., 0]
    near = cv2.blur(cv2.dilate(np.clip(seen / 0.3, 0, 1), np.ones((5, 5))), (5, 5))
    return Roughness(found.value, found.told * near)


def _solved(stack: Stack, top: int, end: int, rough: Float) -> tuple[Float, ...]:
    """Normal, color, error and lights of some rows, by roughness of any size."""
    width, height = stack.size
    above, below = max(0, top - _BESIDE), min(height, end + _BESIDE)
    some = range(above, below), range(width)
    rows = _of_rows(rough, stack.size, above, below)
    found: Solved = solve(stack.light(*some), stack.towards(*some), rows, stack.noise)
    kept = slice(top - above, end - above)
    return tuple(one[kept] for one in (found.normal, found.color, found.error, found.lights))


def _of_rows(rough: Float, size: tuple[int, int], above: int, below: int) -> Float:
    """Rows of the roughness, linear between its texels."""
    width, height = size
    rows = (np.arange(above, below) + 0.5) * rough.shape[0] / height - 0.5
    columns = (np.arange(width) + 0.5) * rough.shape[1] / width - 0.5
    x, y = np.meshgrid(columns.astype(np.float32), rows.astype(np.float32))
    return np.asarray(cv2.remap(rough, x, y, cv2.INTER_LINEAR, borderMode=cv2.BORDER_REPLICATE))
