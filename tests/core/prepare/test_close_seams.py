"""Closing seams: what is seen of them afterwards, on surfaces of many kinds under uneven light."""

from __future__ import annotations

from itertools import pairwise

import numpy as np
import pytest

from copper_sieve.core.errors import ParameterError, ShapeError
from copper_sieve.core.image.encoding import srgb_to_linear
from copper_sieve.core.image.map_kind import Meaning
from copper_sieve.core.operations.prepare.make_tileable import (
    METHODS,
    apply_tile,
    plan_tile,
    report_tile,
)
from copper_sieve.core.operations.prepare.measure_seams import fine_contrast, seam_visibility
from copper_sieve.core.operations.prepare.seam_cut import cheapest_closed_path
from copper_sieve.demo.tatami_weave import draw_tatami_weave
from tests.core.recognition.maps import FIELDS, normals, relief

SIDE = 512


def photo(kind: str) -> np.ndarray:
    """A piece of a larger surface, so that nothing meets at its borders, under a bright corner."""
    piece = relief(kind, 1, 2 * SIDE)[SIDE // 3 :][:SIDE, SIDE // 5 :][:, :SIDE]
    y, x = np.mgrid[0:SIDE, 0:SIDE] / SIDE
    light = 0.7 + 0.5 * np.exp(-((x - 0.2) ** 2 + (y - 0.3) ** 2) * 2)
    grain = 1 + 0.03 * np.random.default_rng(2).normal(size=(SIDE, SIDE, 1))
    color = np.array([0.6, 0.5, 0.4]) * (0.4 + 0.6 * piece[..., None]) * light[..., None] * grain
    return srgb_to_linear(np.clip(color, 0, 1).astype(np.float32))


def tatami() -> np.ndarray:
    codes = draw_tatami_weave().codes.astype(np.float32) / 255
    return srgb_to_linear(codes)


@pytest.mark.parametrize("kind", [*FIELDS, "tatami"])
def test_the_chosen_way_hides_the_seam_and_keeps_the_contrast(kind: str) -> None:
    picture = tatami() if kind == "tatami" else photo(kind)
    plan = plan_tile(picture)
    found = report_tile(picture, plan)
    assert found.before.visibility > 2
    assert found.after.visibility <= 1.15
    assert found.contrast_loss <= 0.10
    tile = apply_tile(picture, plan, Meaning.COLOR)
    size = plan.tile((picture.shape[1], picture.shape[0]))
    assert (tile.shape[1], tile.shape[0]) == size
    assert min(size) >= SIDE * 0.55
    assert np.isfinite(tile).all()
    assert tile.min() >= 0


@pytest.mark.parametrize("method", ["blend", "cut"])
def test_every_overlapping_way_hides_it(method: str) -> None:
    for kind in ("bricks", "rough", "pebbles", "scratches"):
        picture = photo(kind)
        found = report_tile(picture, plan_tile(picture, method))  # type: ignore[arg-type]
        assert found.after.visibility <= 1.15, kind
        assert found.contrast_loss <= 0.10, kind


def test_a_plain_cross_fade_would_lose_contrast_that_the_blend_keeps() -> None:
    picture = photo("rough")
    plan = plan_tile(picture, "blend")
    width = round(plan.overlap[0] * SIDE)
    half = (picture[:, :width] + picture[:, -width:]) / 2  # the middle of a cross-fade
    had = (fine_contrast(picture[:, :width]) + fine_contrast(picture[:, -width:])) / 2
    assert fine_contrast(half) < 0.8 * had
    assert report_tile(picture, plan).contrast_loss < 0.05


def test_a_regular_structure_meets_itself() -> None:
    y, x = np.mgrid[0:SIDE, 0:SIDE]
    wave = 0.5 + 0.3 * np.sin(2 * np.pi * x / 73) + 0.1 * np.sin(2 * np.pi * y / 57)
    plan = plan_tile(wave.astype(np.float32)[:, :, None], "cut")
    for side, period in zip(plan.tile((SIDE, SIDE)), (73, 57), strict=True):
        assert abs(side / period - round(side / period)) < 0.06


def test_all_maps_of_a_set_are_cut_alike() -> None:
    """A map that is a function of the color still is, wherever pixels are taken as they are."""
    picture = photo("scratches")
    height = picture[:, :, :1] ** np.float32(1 / 2.2)
    plan = plan_tile(picture, "cut")
    color = apply_tile(picture, plan, Meaning.COLOR)[:, :, :1] ** np.float32(1 / 2.2)
    data = apply_tile(height, plan, Meaning.DATA)
    assert np.corrcoef(color.ravel(), data.ravel())[0, 1] > 0.98


@pytest.mark.parametrize("method", METHODS)
def test_normals_stay_unit_vectors_and_their_seam_goes(method: str) -> None:
    field = relief("stones", 1, 2 * SIDE)
    vectors = normals(field, 0.6, down=False).astype(np.float32)[100:][:SIDE, 60:][:, :SIDE]
    vectors = np.ascontiguousarray(vectors)
    plan = plan_tile(photo("stones"), method)
    tile = apply_tile(vectors, plan, Meaning.NORMAL)
    np.testing.assert_allclose(np.linalg.norm(tile, axis=2), 1, atol=1e-5)
    assert tile[:, :, 2].min() > 0
    assert (
        seam_visibility(tile[:, :, :2]).visibility
        < 0.5 * seam_visibility(vectors[:, :, :2]).visibility + 0.6
    )


def test_a_tile_stays_as_it_is() -> None:
    field = relief("stones", 1, SIDE).astype(np.float32)[:, :, None]
    plan = plan_tile(field)
    assert plan.method == "gradient"
    assert np.abs(apply_tile(field, plan, Meaning.DATA) - field).max() < 0.05


def test_the_visibility_of_a_known_step() -> None:
    ramp = np.tile(np.arange(64, dtype=np.float32), (64, 1))
    found = seam_visibility(ramp)  # 63 across the wrap, 1 elsewhere
    assert found.axis == "x"
    assert found.visibility == pytest.approx(63)


def test_the_path_is_the_cheapest_and_closes() -> None:
    cost = np.ones((40, 21), dtype=np.float32)
    wanted = 10 + np.round(4 * np.sin(2 * np.pi * np.arange(40) / 40)).astype(int)
    cost[np.arange(40), wanted] = 0
    path = cheapest_closed_path(cost)
    np.testing.assert_array_equal(path, wanted)
    assert all(abs(a - b) <= 1 for a, b in pairwise([*path, path[0]]))


def test_what_cannot_be_tiled_is_refused() -> None:
    picture = photo("rough")
    with pytest.raises(ShapeError, match="too small"):
        plan_tile(picture[:12])
    with pytest.raises(ParameterError, match="unknown method"):
        plan_tile(picture, "magic")  # type: ignore[arg-type]
    with pytest.raises(ShapeError, match="Resize it first"):
        apply_tile(picture, plan_tile(picture, "cut"), Meaning.COLOR, (SIDE + 1, SIDE))
