"""Registers pictures of a moved camera despite different lights.

Each picture is compared with its prediction and moved by a Lucas–Kanade step (1981) with robust
weights against shadows and highlights (S. Geman and D. McClure, 1987). Predictions come from the
other pictures first, then from the surface. Steps use Anderson mixing (D. Anderson, 1965), because
each one changes the predictions.
"""

from __future__ import annotations

from collections.abc import Callable
from dataclasses import dataclass, replace
from itertools import pairwise

import numpy as np
from numpy.typing import NDArray

from copper_sieve.core.errors import MeasureError
from copper_sieve.core.image.raster import Float
from copper_sieve.core.measuring.light_directions import FEWEST
from copper_sieve.core.measuring.prediction import (
    predict_by_others,
    predict_by_surface,
    roughness_of,
)
from copper_sieve.core.measuring.pyramid import Level, build_levels, finest_level
from copper_sieve.core.measuring.stack import CaptureStack, Placement

_BY_OTHERS, _BY_SURFACE, _FROM_NOWHERE, _FINER = 10, 6, 12, 5  # turns
_FIRST_OFF, _LAST_OFF = 1.2, 0.1  # texels by which pictures may be off
_CLOSER = 0.75  # of that from turn to turn
_FARTHEST = 1.5  # texels of a step
_FASTER = 1.3
_MEMORY = 4
_DAMPING = 1e-2
_STRANGE, _STRANGER = 0.2, 3.0  # a picture's cost, and that over the median one's: beyond both it
# shows another thing
_NOTHING = 0.4  # a mean cost as of pictures that have nothing in common
_BETTER = 0.98  # of the cost, or pictures stay where they are
_LOOKS, _STILL = 3, 0.15  # turns after which pictures that stood still have moved by so little
_WELL = 0.7  # share of the initial cost below which no other method is tried

_LISTEN = 4  # turns from one look at the roughness to the next

State = NDArray[np.float64]
Predict = Callable[[Float], Float]
Between = Callable[[], None]


@dataclass(frozen=True, slots=True)
class Registration:
    """Result of the registration.

    placements : of each picture
    strangers : indices of pictures with another subject
    before, after : how badly the pictures fit their predictions, [0, 1]
    """

    placements: tuple[Placement, ...]
    strangers: tuple[int, ...]
    before: float
    after: float


def register(stack: CaptureStack, between: Between | None = None) -> Registration:
    """Align the pictures; the surface is at the mean of their placements.

    Parameters
    ----------
    stack : pictures
    between : called after each iteration, so that other threads can run; may raise

    Returns
    -------
    Registration

    Raises
    ------
    MeasureError : if too few pictures show the same surface
    """
    static_camera = np.zeros((len(stack.captures), 3))
    table = _Table(stack, finest_level(stack), between)
    costs = table.costs(static_camera)
    fits = costs.mean() <= _NOTHING and not _is_strange(costs)
    if (
        fits
        and table.farthest(table.moved(static_camera, table.predict_by_surface, _LOOKS)) < _STILL
    ):
        cost = float(costs.mean())
        return Registration((Placement(),) * len(stack.captures), (), cost, cost)
    levels = list(build_levels(stack))
    kept, state = _without_strangers(stack, levels[0], between)
    strangers = tuple(n for n in range(len(stack.captures)) if n not in kept)
    own = stack.without(strangers)
    table = _Table(own, replace(levels[0], raw=levels[0].raw[:, kept]), between)
    for coarse, level in pairwise(levels):
        state[:, :2] *= coarse.scale / level.scale
        table = _Table(own, replace(level, raw=level.raw[:, kept]), between)
        state = table.moved(state, table.predict_by_surface, _FINER)
        if table.costs(state).mean() > _WELL * table.costs(np.zeros_like(state)).mean():
            # Where small pictures showed nothing that tells it, these may.
            others = _best(table, len(kept))[0]
            state = min((state, others), key=lambda one: float(table.costs(one).mean()))
    before, after = (float(table.costs(one).mean()) for one in (np.zeros_like(state), state))
    found = [Placement()] * len(stack.captures)
    if after < _BETTER * before:
        for n, place in zip(kept, _placements(state), strict=True):
            found[n] = place
    return Registration(tuple(found), strangers, before, after)


def register_coarsely(stack: CaptureStack, between: Between | None = None) -> tuple[Float, Float]:
    """Align reduced pictures with each other, for unknown lights.

    Returns
    -------
    (L, h, w, 3) float32 pictures; (h, w, 3) places of their texels, see `CaptureStack.places`
    """
    level = next(build_levels(stack))
    table = _Table(stack, level, between)
    state = np.zeros((len(stack.captures), 3))
    return table.light(table.moved(state, table.predict_by_others, _BY_OTHERS)), table.places


def _without_strangers(
    stack: CaptureStack, level: Level, between: Between | None
) -> tuple[list[int], State]:
    """Return the pictures that show the same surface, with their mutual placements."""
    kept = list(range(len(stack.captures)))
    while True:
        if len(kept) < FEWEST + 1:
            raise MeasureError(
                "the pictures don't show the same surface, or overlap too little. Take them "
                "from one position, with the camera on a tripod"
            )
        gone = [n for n in range(len(stack.captures)) if n not in kept]
        table = _Table(stack.without(gone), replace(level, raw=level.raw[:, kept]), between)
        state, costs = _best(table, len(kept))
        if _is_strange(costs):
            kept.pop(int(np.argmax(costs)))
        elif costs.mean() > _NOTHING:
            kept.clear()
        else:
            return kept, state


def _is_strange(costs: State) -> bool:
    """Return whether the picture that fits worst shows another subject."""
    return bool(costs.max() > max(_STRANGE, _STRANGER * float(np.median(costs))))


def _best(table: _Table, count: int) -> tuple[State, State]:
    """Try several methods of registration until one succeeds; return the best state and its costs.

    Glossy surfaces aren't linear combinations of three pictures, some diffuse ones don't converge,
    and painted surfaces are registered best by color.
    """
    static_camera = np.zeros((count, 3))
    enough = _WELL * float(table.costs(static_camera).mean())
    best, least = static_camera, np.ones(count)
    for way in (table.predict_by_others, table.predict_by_surface, table.by_their_mean):
        state = static_camera
        if way == table.by_their_mean:
            state = table.moved(state, table.by_their_mean, _BY_OTHERS)
        if way != table.predict_by_surface:
            state = table.moved(state, table.predict_by_others, _BY_OTHERS)
        turns = _FROM_NOWHERE if way == table.predict_by_surface else _BY_SURFACE
        state = table.moved(state, table.predict_by_surface, turns)
        costs = table.costs(state)
        if costs.mean() < least.mean():
            best, least = state, costs
        if least.mean() < enough and not _is_strange(least):
            break
    return best, least


def _placements(state: State) -> list[Placement]:
    return [Placement(float(x), float(y), float(np.degrees(rotation))) for x, y, rotation in state]


class _Table:
    """Pictures of one size that are moved until they match their predictions.

    A state is (L, 3): texels to the right and down, and clockwise rotation in radians.
    """

    def __init__(self, stack: CaptureStack, level: Level, between: Between | None = None) -> None:
        self._between = between
        self._stack, self._level = stack, level
        width = stack.size[0] / level.scale
        parts, rows, columns = level.x.shape
        places = np.stack([level.x, -level.y, np.zeros_like(level.x)], -1) / np.float32(width)
        self.places: Float = places.reshape(parts * rows, columns, 3).astype(np.float32)
        self._towards = stack.towards_at(self.places)
        self._noise = np.float32(stack.noise / max(1.0, level.scale))
        self._rough: Float | None = None
        self._turn = 0

    def moved(self, state: State, predict: Predict, turns: int) -> State:
        """Return the state after a step."""
        mixing, off = _Mixing(), _FIRST_OFF
        for self._turn in range(turns):
            if self._between:
                self._between()
            light = self.light(state)
            step, _ = self._step(light, predict(light), off)
            state = mixing.next(state, step, self._level.half)
            state = state - state.mean(0)
            off = max(_LAST_OFF, off * _CLOSER)
        return state

    def farthest(self, state: State) -> float:
        """Return the largest displacement of a picture in texels, which is at a corner."""
        moves = np.hypot(state[:, 0], state[:, 1]) + np.abs(state[:, 2]) * self._level.half
        return float(moves.max())

    def costs(self, state: State) -> State:
        """Return how badly each picture matches the common surface, (L,), [0, 1]."""
        self._turn = 0
        light = self.light(state)
        return self._step(light, self.predict_by_surface(light), _LAST_OFF)[1]

    def predict_by_others(self, light: Float, rank: int = 3) -> Float:
        """Predict pictures from the others; see `prediction`."""
        grey, seen = light.mean(-1), (light >= 0).all((0, -1))
        predicted = predict_by_others(grey.reshape(len(grey), -1), seen.ravel(), rank)
        return predicted.reshape(grey.shape)

    def by_their_mean(self, light: Float) -> Float:
        """Return the mean of the others, which mainly contains their colors."""
        return self.predict_by_others(light, 1)

    def predict_by_surface(self, light: Float) -> Float:
        """Predict pictures from the surface; the roughness is updated only at intervals."""
        if self._rough is None or self._turn % _LISTEN == 0:
            self._rough = roughness_of(light, self._towards, float(self._noise))
        return predict_by_surface(light, self._towards, self._rough, float(self._noise))

    def light(self, state: State) -> Float:
        """Return the pictures at the placements of a state, (L, rows of all parts, columns, 3)."""
        return self._stack.evened(self._level.at(_placements(state)), self.places)

    def _step(self, light: Float, shown: Float, off: float) -> tuple[State, State]:
        """Return the step that moves each picture toward its prediction, (L, 3), and the costs,
        (L,).
        """
        parts, rows, columns = self._level.x.shape
        x, y = self._level.x.ravel(), self._level.y.ravel()
        grey, half = light.mean(-1), self._level.half
        steps, costs = np.zeros((len(grey), 3)), np.ones(len(grey))
        for n in range(len(grey)):
            due = shown[n].reshape(parts, rows, columns)
            down, right = (np.gradient(due, axis=axis).ravel() for axis in (1, 2))
            rotation = (x * down - y * right) / half
            flat = due.ravel()
            left = grey[n].ravel() - flat
            wide = (2 * self._noise + 0.05 * flat) ** 2 + off * off * (right**2 + down**2)
            square = left * left / wide
            weight = 1 / (1 + square) ** 2 / wide
            seen = (light[n] >= 0).all(-1).ravel()
            weight[~seen] = 0
            ways = np.stack([right, down, rotation, flat]).astype(np.float64)
            normal = (ways * weight) @ ways.T
            normal += (1e-6 * np.trace(normal) / 4 + 1e-9) * np.eye(4)
            steps[n] = -np.linalg.solve(normal, (ways * weight) @ left)[:3]
            if seen.any():
                costs[n] = (square / (1 + square))[seen].mean()
        steps[:, 2] /= half
        return steps, costs


class _Mixing:
    """D. Anderson, "Iterative procedures for nonlinear integral equations", 1965."""

    def __init__(self) -> None:
        self._states: list[State] = []
        self._steps: list[State] = []

    def next(self, state: State, step: State, half: float) -> State:
        """Return the next state from this and earlier steps; rotations are measured in texels."""
        scale = np.array([1, 1, half])
        self._states = [*self._states, (state * scale).ravel()][-_MEMORY - 1 :]
        self._steps = [*self._steps, (step * scale).ravel()][-_MEMORY - 1 :]
        move = _FASTER * self._steps[-1]
        if len(self._states) > 1:
            moves = np.diff(np.stack(self._states), axis=0).T
            changes = np.diff(np.stack(self._steps), axis=0).T
            square = changes.T @ changes
            square += (_DAMPING * np.trace(square) / len(square) + 1e-12) * np.eye(len(square))
            shares = np.linalg.solve(square, changes.T @ self._steps[-1])
            move = move - (moves + _FASTER * changes) @ shares
        move = move.reshape(state.shape)
        far = np.linalg.norm(move, axis=1, keepdims=True)
        move = move * np.minimum(1, _FARTHEST / np.maximum(far, 1e-12))
        return np.asarray(state + move / scale)
