"""Compares the three methods of making a picture tileable."""

from __future__ import annotations

from contextlib import AbstractContextManager, nullcontext
from dataclasses import dataclass
from typing import Any

from copper_sieve.core.image.raster import Float
from copper_sieve.core.operations.prepare.make_tileable import (
    METHODS,
    Method,
    TilePlan,
    TileReport,
    has_distinct_objects,
    likely_method,
    plan_cuts,
    plan_tile,
    report_tile,
    structure_of,
)

GOOD_VISIBILITY = 1.15
GOOD_LOSS = 0.10
GOOD_BROKEN = 0.10
TOO_BROKEN = 0.15  # from here on a way is not taken by measure
_SHOWN_THROUGH = 1.25  # penalty for blending objects

_BREAKS = {
    "gradient": "the pattern doesn't continue",
    "blend": "ghosting: two contents overlap",
    "cut": "objects are cut",
}
_WHERE = {
    "across": "where left and right meet",
    "down": "where top and bottom meet",
    "corner": "at the corners",
}


@dataclass(frozen=True, slots=True)
class SeamMethod:
    """One method, planned for a picture, with its measurements.

    things : the picture has a regular structure or objects, which show when blended
    """

    plan: TilePlan
    report: TileReport
    things: bool

    @property
    def breaks(self) -> str | None:
        """What it breaks, in words; None where the tile holds together."""
        structure = self.report.structure
        if structure.broken > GOOD_BROKEN:
            return f"{_BREAKS[self.plan.method]} {_WHERE[structure.where]}"
        if self.plan.method == "blend" and self.things:
            return "ghosting where parts overlap"
        return None

    @property
    def is_good(self) -> bool:
        """Nobody sees the seam, nobody misses the contrast, and nothing breaks."""
        figures = self.report.after.visibility <= GOOD_VISIBILITY
        return figures and self.report.contrast_loss <= GOOD_LOSS and self.breaks is None

    @property
    def fault(self) -> float:
        """The worst of its measurements, each divided by its limit."""
        report = self.report
        ghosts = self.plan.method == "blend" and self.things
        return max(
            _SHOWN_THROUGH if ghosts else 0.0,
            report.after.visibility / GOOD_VISIBILITY,
            report.contrast_loss / GOOD_LOSS,
            report.structure.broken / GOOD_BROKEN,
        )

    def beats(self, other: SeamMethod) -> bool:
        """Return True if this method is better in seam, contrast, structure and kept share."""
        ours, theirs = self._figures(), other._figures()
        return all(a <= b for a, b in zip(ours, theirs, strict=True)) and ours != theirs

    def _figures(self) -> tuple[float, ...]:
        """Return the displayed measurements; smaller is better. Invisible seams count as equal."""
        report, (across, down) = self.report, self.plan.overlap
        return (
            max(1.0, round(report.after.visibility, 2)),
            round(max(0.0, report.contrast_loss), 2),
            round(report.structure.broken, 2),
            round(1 - (1 - across) * (1 - down), 2),
        )


@dataclass(frozen=True, slots=True)
class SeamMethods:
    """All methods on one picture.

    chosen : by measurement; None if it is tileable already, or if every method damages it
    refused : in the latter case, the damage of each method, as a sentence
    """

    chosen: Method | None
    ways: dict[Method, SeamMethod]
    refused: str | None = None


def compare_ways(guide: Float, turn: AbstractContextManager[Any] | None = None) -> SeamMethods:
    """Plan and measure every method of closing seams, and choose one.

    The method that suits the kind of picture is chosen if it is good and no other good method is
    better in every measure; otherwise the one with the least damage among the good or acceptable
    ones. If every method damages the picture, none is chosen, and the reasons are returned.

    Parameters
    ----------
    guide : (H, W, 3) float32, linear light, or (H, W, 1) data
    turn : context manager entered for each part of the work, so that other threads can run

    Returns
    -------
    SeamMethods

    Raises
    ------
    ShapeError : if a side has fewer than 16 texels
    """
    turn = turn or nullcontext()
    with turn:
        things = has_distinct_objects(guide)
        likely = likely_method(guide, things)
    with turn:
        blend = plan_tile(guide, "blend")
    with turn:
        cut = TilePlan("cut", blend.overlap, plan_cuts(guide, blend.overlap))
    with turn:
        pieces = structure_of(guide)
    ways: dict[Method, SeamMethod] = {}
    for plan in (TilePlan("gradient"), blend, cut):
        ways[plan.method] = SeamMethod(plan, report_tile(guide, plan, pieces, turn), things)
    if ways[likely].report.before.visibility <= GOOD_VISIBILITY:
        return SeamMethods(None, ways)
    return _choose(ways, likely)


def _choose(ways: dict[Method, SeamMethod], likely: Method) -> SeamMethods:
    good = [method for method in METHODS if ways[method].is_good]
    whole = good or [
        method for method in METHODS if ways[method].report.structure.broken <= TOO_BROKEN
    ]
    if not whole:
        broken = "; ".join(f"{method}: {ways[method].breaks}" for method in METHODS)
        return SeamMethods(None, ways, f"Every method breaks something ({broken}).")
    best = likely if likely in whole else min(whole, key=lambda method: ways[method].fault)
    for method in whole:
        if ways[method].beats(ways[best]):
            best = method
    return SeamMethods(best, ways)
