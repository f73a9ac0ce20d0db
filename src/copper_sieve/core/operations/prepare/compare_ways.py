"""The three ways of closing seams beside each other, and which of them suits a picture."""

from __future__ import annotations

from contextlib import AbstractContextManager, nullcontext
from dataclasses import dataclass
from typing import Any

from copper_sieve.core.image.raster import Float
from copper_sieve.core.operations.prepare.close_seams import (
    METHODS,
    Method,
    TilePlan,
    TileReport,
    likely_method,
    plan_cuts,
    plan_tile,
    report_tile,
)

GOOD_VISIBILITY = 1.15
GOOD_LOSS = 0.10


@dataclass(frozen=True, slots=True)
class Way:
    """One way, planned for a picture, and what it does to it."""

    plan: TilePlan
    report: TileReport

    @property
    def is_good(self) -> bool:
        """Nobody sees the seam, and nobody misses the contrast."""
        good = self.report.after.visibility <= GOOD_VISIBILITY
        return good and self.report.contrast_loss <= GOOD_LOSS


@dataclass(frozen=True, slots=True)
class Ways:
    """All ways on one picture; `chosen` is the one by measure, None where it tiles already."""

    chosen: Method | None
    ways: dict[Method, Way]


def compare_ways(guide: Float, turn: AbstractContextManager[Any] | None = None) -> Ways:
    """Plan and measure every way of closing the seams.

    guide : (H, W, 3) float32 linear light, or (H, W, 1) data
    turn : entered for each part of the work, so that others come in between
    The one that suits the kind of picture is chosen where it is good; else the one that is best by
    the worse of its two figures, each in parts of what is good.
    Raises ShapeError for pictures under 16 texels a side.
    """
    turn = turn or nullcontext()
    with turn:
        likely = likely_method(guide)
    with turn:
        blend = plan_tile(guide, "blend")
    with turn:
        cut = TilePlan("cut", blend.overlap, plan_cuts(guide, blend.overlap))
    ways: dict[Method, Way] = {}
    for plan in (TilePlan("gradient"), blend, cut):
        with turn:
            ways[plan.method] = Way(plan, report_tile(guide, plan))
    if ways[likely].report.before.visibility <= GOOD_VISIBILITY:
        return Ways(None, ways)
    if ways[likely].is_good:
        return Ways(likely, ways)
    least: Method = min(METHODS, key=lambda method: _fault(ways[method]))
    return Ways(least, ways)


def _fault(way: Way) -> float:
    return max(way.report.after.visibility / GOOD_VISIBILITY, way.report.contrast_loss / GOOD_LOSS)
