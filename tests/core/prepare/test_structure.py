"""What breaks at a seam, as the eye sees it: patterns, things, ghosts, corners."""

from __future__ import annotations

from collections.abc import Callable
from functools import cache

import numpy as np
import pytest

from copper_sieve.core.image.encoding import linear_to_srgb
from copper_sieve.core.operations.prepare.compare_ways import GOOD_BROKEN, SeamMethods, compare_ways
from copper_sieve.core.operations.prepare.make_tileable import has_distinct_objects, plan_tile
from copper_sieve.core.operations.prepare.structure import PictureStructure
from tests.core.prepare.things import SIDE, basket, boards, bricks, coins, grit


@cache
def _ways(draw: Callable[..., np.ndarray], seed: int) -> SeamMethods:
    return compare_ways(draw(seed=seed))


def _broken(picture: np.ndarray, tile: np.ndarray, overlap: tuple[int, int] = (0, 0)) -> float:
    seen = [linear_to_srgb(one).astype(np.float32) for one in (picture, tile)]
    return PictureStructure(seen[0]).measure(seen[1], overlap).broken


PATTERNS = {
    "bricks": (bricks(), (72, 60)),
    "basket": (basket(), (64, 64)),
    "boards": (boards(), (64, None)),
}


@pytest.mark.parametrize("name", PATTERNS)
def test_a_pattern_is_whole_at_whole_periods_and_broken_between_them(name: str) -> None:
    picture, (wide, high) = PATTERNS[name]
    rows = SIDE if high is None else SIDE // high * high
    columns = SIDE // wide * wide
    assert _broken(picture, picture[:rows, :columns]) < GOOD_BROKEN
    off = picture[: rows - (0 if high is None else high // 3), : columns - wide // 3]
    assert _broken(picture, off) > 0.3


def test_contents_that_show_through_each_other_are_seen() -> None:
    picture = coins()
    lap = 90
    left, right = picture[:, :lap], picture[:, -lap:]
    ghost = np.concatenate([(left + right) / 2, picture[:, lap:-lap]], axis=1)
    assert _broken(picture, ghost, (lap, 0)) > 2 * GOOD_BROKEN


def test_a_dark_corner_is_seen() -> None:
    picture = grit()
    y, x = (np.minimum(np.arange(SIDE), SIDE - np.arange(SIDE)) / 60 for _ in range(2))
    dark = 1 - 0.6 * np.exp(-(y[:, None, None] ** 2) - x[None, :, None] ** 2)
    seen = PictureStructure(linear_to_srgb(picture).astype(np.float32))
    found = seen.measure(linear_to_srgb(picture * dark).astype(np.float32), (0, 0))
    assert found.where == "corner"
    assert found.broken > 0.3


def test_things_and_patterns_are_told_from_random_detail() -> None:
    assert all(
        has_distinct_objects(one) for one in (bricks(loose=0.05), basket(), boards(), coins())
    )
    assert not has_distinct_objects(grit())


@pytest.mark.parametrize("seed", range(2))
def test_courses_are_met_and_the_cut_is_chosen_for_them(seed: int) -> None:
    picture = bricks(seed=seed)
    across, down = plan_tile(picture, "cut").tile((SIDE, SIDE))
    for side, period in ((across, 72), (down, 60)):
        assert abs(side / period - round(side / period)) * period <= 3
    found = _ways(bricks, seed)
    assert found.chosen == "cut"
    assert found.ways["cut"].is_good
    blend = found.ways["blend"]
    assert blend.breaks
    assert "ghosting" in blend.breaks
    assert "doesn't continue" in (found.ways["gradient"].breaks or "")


def test_where_every_way_breaks_something_none_is_chosen_and_it_is_said() -> None:
    # Bricks so long that no whole number of them is left.
    found = compare_ways(bricks((400, 130)))
    assert found.chosen is None
    assert found.refused
    for method, way in found.ways.items():
        assert way.breaks
        assert f"{method}: {way.breaks}" in found.refused


def test_random_detail_is_blended_or_cut_and_never_refused() -> None:
    for seed in range(2):
        found = _ways(grit, seed)
        assert found.chosen in {"blend", "cut"}
        assert found.ways[found.chosen].is_good


def test_the_way_by_measure_is_not_beaten_in_every_column() -> None:
    for ways in (_ways(bricks, 0), _ways(coins, 0), _ways(grit, 0), _ways(grit, 1)):
        if ways.chosen:
            best = ways.ways[ways.chosen]
            assert not any(one.breaks is None and one.beats(best) for one in ways.ways.values())
