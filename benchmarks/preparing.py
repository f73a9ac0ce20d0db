"""Time the preparation steps at 2048², and measure visible seams on many kinds of surfaces.

Times are relative to a cubic warp of the same picture by a common library, in the same run.
"""

from __future__ import annotations

import time
from collections.abc import Callable

import cv2
import numpy as np
from tests.core.recognition.maps import FIELDS, relief

from copper_sieve.core.image.encoding import srgb_to_linear
from copper_sieve.core.image.map_kind import Meaning
from copper_sieve.core.operations.prepare.compare_ways import compare_ways
from copper_sieve.core.operations.prepare.delight import delight
from copper_sieve.core.operations.prepare.frame import Frame, apply_frame
from copper_sieve.core.operations.prepare.inpaint import apply_inpaint, plan_inpaint
from copper_sieve.core.operations.prepare.make_tileable import (
    METHODS,
    TilePlan,
    apply_tile,
    plan_tile,
)
from copper_sieve.core.operations.prepare.measure_seams import seam_visibility

QUICK = (256, 128, 3)
SIDE = 2048
PLANNED = 1024
REPEATS = 3


def photo(kind: str, side: int) -> np.ndarray:
    """A piece of a larger surface under a bright corner, so that nothing meets at its borders."""
    piece = relief(kind, 1, 2 * side)[side // 3 :][:side, side // 5 :][:, :side]
    y, x = np.mgrid[0:side, 0:side] / side
    light = 0.7 + 0.5 * np.exp(-((x - 0.2) ** 2 + (y - 0.3) ** 2) * 2)
    grain = 1 + 0.03 * np.random.default_rng(2).normal(size=(side, side, 1))
    color = np.array([0.6, 0.5, 0.4]) * (0.4 + 0.6 * piece[..., None]) * light[..., None] * grain
    return srgb_to_linear(np.clip(color, 0, 1).astype(np.float32))


def least(run: Callable[[], object]) -> float:
    """Seconds of the quickest of some runs, after one to warm up."""
    run()
    times = []
    for _ in range(REPEATS):
        start = time.perf_counter()
        run()
        times.append(time.perf_counter() - start)
    return min(times)


def steps(side: int, planned: int) -> None:
    """Seconds of every step on color of that size."""
    picture = photo("pebbles", side)
    matrix = np.array([[0.95, 0.02, 30], [-0.02, 0.96, 40], [0, 0, 1]])
    plain = least(lambda: cv2.warpPerspective(picture, matrix, (side, side), flags=cv2.INTER_CUBIC))
    print(f"a cubic warp by a common library: {plain:.2f} s")
    a = np.linspace(0, 2 * np.pi, 24, endpoint=False)
    marks = [np.stack([0.5 + 0.03 * np.cos(a), 0.5 + 0.03 * np.sin(a)], axis=1)]
    small = cv2.resize(picture, (planned, planned), interpolation=cv2.INTER_AREA)
    places = plan_inpaint(small, marks)
    frame = Frame(corners=((0.03, 0.02), (0.96, 0.04), (0.98, 0.97), (0.01, 0.99)), angle=2)
    size = frame.size(side, side)
    rows: dict[str, Callable[[], object]] = {
        "frame": lambda: apply_frame(picture, frame, Meaning.COLOR, size),
        "places of a mark, 1024": lambda: plan_inpaint(small, marks),
        "mark filled": lambda: apply_inpaint(picture, marks, places, Meaning.COLOR),
        "even light": lambda: delight(picture, strength=0.9, scale=0.125, wrap=False),
        "three ways measured, 1024": lambda: compare_ways(small),
    }
    for method in METHODS:
        rows[f"{method}, planned and done"] = lambda method=method: apply_tile(
            picture, plan_tile(picture, method), Meaning.COLOR
        )
        plan = plan_tile(small, method)
        rows[f"{method}, done"] = lambda plan=plan: apply_tile(picture, plan, Meaning.COLOR)
    for name, run in rows.items():
        seconds = least(run)
        print(f"{name:28} {seconds:5.2f} s, {seconds / plain:5.1f} x the warp")


def seams(planned: int, kinds: int) -> None:
    """What is seen of the seams, the way chosen by measure: where planned, and at half the size."""
    for kind in list(FIELDS)[:kinds]:
        picture = photo(kind, planned)
        small = cv2.resize(picture, None, fx=0.5, fy=0.5, interpolation=cv2.INTER_AREA)
        found = compare_ways(picture)
        if found.chosen is None:
            print(f"{kind:12} {found.refused or 'tiles already'}")
            continue
        way = found.ways[found.chosen]
        tile = apply_tile(small, TilePlan(found.chosen, way.plan.overlap, way.plan.cuts),
                          Meaning.COLOR)  # fmt: skip
        seen = seam_visibility(np.clip(tile, 0, None) ** np.float32(1 / 2.2)).visibility
        print(
            f"{kind:12} {found.chosen:9} before {way.report.before.visibility:5.2f}, on the guide "
            f"{way.report.after.visibility:.2f}, at half {seen:.2f}, "
            f"contrast lost {max(0.0, way.report.contrast_loss):.1%}"
        )


def main(side: int = SIDE, planned: int = PLANNED, kinds: int = len(FIELDS)) -> None:
    """Print the times of the steps, then the visible seams of the first kinds of surface."""
    steps(side, planned)
    seams(planned, kinds)
