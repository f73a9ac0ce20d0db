"""Roughness of a surface from the highlights in its pictures.

A texel is lit by few lights, so the roughness that explains its pictures best is determined
together with its neighborhood: a cost per candidate, summed over a window, and its minimum.
"""

from __future__ import annotations

from dataclasses import dataclass
from typing import Any

import cv2
import numpy as np
from numba import njit

from copper_sieve.core.image.raster import Float
from copper_sieve.core.measuring.gauss_newton import refine_texels, store_state
from copper_sieve.core.measuring.simd_batch import (
    ALPHA,
    COST,
    KEPT,
    LANES,
    NX,
    ROOM,
    at,
    fit_matte,
    load,
    separate_lobes,
    set_directions,
)
from copper_sieve.core.measuring.solving import by_rows, solve_distant_and_near, triples_of

CANDIDATES = np.array(
    [0.06, 0.1, 0.14, 0.18, 0.22, 0.26, 0.31, 0.36, 0.42, 0.48, 0.55, 0.63, 0.72, 0.82, 0.92],
    dtype=np.float32,
)  # fmt: skip
_MATTE = 0.92
_TURNS = 4
_MUCH = 0.25  # of all lights
_WINDOWS = (3, 9, 21)  # texels of the thinned picture
_TOLD_BY = 0.06  # by so much of a light's share the best candidate beats a matte surface


@dataclass(frozen=True, slots=True)
class Roughness:
    """Roughness from highlights.

    value : (H, W) float32, perceptual roughness
    confidence : (H, W) float32, [0, 1], confidence; 0 where interpolated from the neighborhood
    """

    value: Float
    confidence: Float


def measure_roughness(light: Float, towards: Float, noise: float) -> Roughness:
    """Measure the roughness from the highlights of a subsampled stack.

    Parameters
    ----------
    light : (L, H, W, 3) float32, as in `solve`
    towards : (L, 3) or (L, H, W, 3) unit vectors
    noise : standard deviation in linear light

    Returns
    -------
    Roughness
    """
    count, height, width = light.shape[:3]
    far, near = solve_distant_and_near(towards)
    triples, inverse = triples_of(far.astype(np.float64))
    cost = np.empty((len(CANDIDATES), height, width), dtype=np.float32)
    sigma = np.float32(noise)
    by_rows(height, lambda first, last: _costs(
        light, far, near, triples, inverse, CANDIDATES, sigma, cost, first, last
    ))  # fmt: skip
    value: Float = np.zeros((height, width), np.float32)
    confidence = value
    for window in _WINDOWS:  # smallest usable window: surfaces vary
        box = (window, window)
        each = [cv2.blur(one, box, borderType=cv2.BORDER_REFLECT) for one in cost]
        summed = np.asarray(each, np.float32)
        least = summed.min(0)
        # Only highlights distinguish smooth from smoother surfaces.
        says = np.minimum(summed[-1] - least, summed[0] - least) / count / _TOLD_BY
        says = np.clip(says * min(1.0, window / 5), 0, 1).astype(np.float32)
        more = np.asarray(np.clip(says * (1 - confidence), 0, 1), np.float32)
        value = value + more * _between(summed, summed.argmin(0))
        confidence = confidence + more
    mean = np.asarray(value / np.maximum(confidence, 1e-6), np.float32)
    return Roughness(*_filled(mean, confidence))


def _between(cost: Float, best: np.ndarray) -> Float:
    """Return the minimum of a parabola through the best candidate and its neighbors."""
    inner = np.clip(best, 1, len(CANDIDATES) - 2)
    rows = np.indices(best.shape)
    low, mid, high = (cost[(inner + step, *rows)] for step in (-1, 0, 1))
    bend = low - 2 * mid + high
    shift = np.where(bend > 1e-6, 0.5 * (low - high) / np.maximum(bend, 1e-6), 0)
    place = inner + np.clip(shift, -1, 1)
    return np.asarray(np.interp(place, np.arange(len(CANDIDATES)), CANDIDATES), np.float32)


def _filled(value: Float, confidence: Float) -> tuple[Float, Float]:
    """Fill values without a highlight from the nearest ones, from fine to coarse."""
    weight, total = confidence.astype(np.float32), (confidence * value).astype(np.float32)
    near_weight, near_total = weight, total
    for reach in (2.0, 6.0, 18.0, 54.0):
        near_weight = near_weight + 1e-2 * cv2.GaussianBlur(weight, (0, 0), reach)
        near_total = near_total + 1e-2 * cv2.GaussianBlur(total, (0, 0), reach)
    floor = np.float32(2e-3)  # so much a guess counts
    found = (near_total + floor * _MATTE) / (near_weight + floor)
    return found.astype(np.float32), confidence.astype(np.float32)


@njit(cache=True, nogil=True, fastmath=True, error_model="numpy")
def _costs(  # noqa: PLR0917
    light: Any, far: Any, near: Any, triples: Any, inverse: Any, candidates: Any, noise: Any,
    cost: Any, first: int, last: int,
) -> None:  # fmt: skip
    count, width = light.shape[0], light.shape[2]
    rows, columns = np.zeros(ROOM, np.float32), np.empty(LANES, np.int64)
    start = np.empty((4, LANES), np.float32)
    set_directions(rows, far)
    for row in range(first, last):
        for begin in range(0, width, LANES):
            here = min(LANES, width - begin)
            for lane in range(LANES):
                columns[lane] = begin + min(lane, here - 1)
            load(rows, light, near, row, columns, count, noise)
            fit_matte(rows, count, triples, inverse)
            separate_lobes(rows)
            for n in range(4):
                for lane in range(LANES):
                    start[n, lane] = rows[at(NX + n * LANES + lane)]
            # From matte to glossy, each beginning where the one before ended, or at the matte fit.
            for k in range(candidates.shape[0]):
                n = candidates.shape[0] - 1 - k
                for lane in range(LANES):
                    rows[at(ALPHA + lane)] = candidates[n] * candidates[n]
                refine_texels(rows, count, _TURNS)
                _from_the_start(rows, count, start)
                for lane in range(here):
                    cost[n, row, begin + lane] = rows[at(COST + lane)]


@njit(cache=True, nogil=True, fastmath=True, error_model="numpy")
def _from_the_start(rows: Any, count: Any, start: Any) -> None:
    """Repeat from the matte fit where the residual stayed large; keep the better result."""
    store_state(rows, False)
    worst = np.float32(0)
    for lane in range(LANES):
        worst = max(worst, rows[at(COST + lane)])
    if worst <= np.float32(_MUCH) * count:
        return
    for lane in range(LANES):
        for n in range(4):
            rows[at(NX + n * LANES + lane)] = start[n, lane]
    refine_texels(rows, count, _TURNS)
    store_state(rows, True)
    for lane in range(LANES):
        for n in range(4):
            rows[at(NX + n * LANES + lane)] = rows[at(KEPT + n * LANES + lane)]
        rows[at(COST + lane)] = rows[at(KEPT + 5 * LANES + lane)]
