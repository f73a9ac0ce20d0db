"""A set's pictures prepared at the head of its graph: all alike, one size, one surface."""

from __future__ import annotations

import math
from typing import Any

import numpy as np
import pytest
from pydantic import ValidationError

from copper_sieve.core.errors import ShapeError
from copper_sieve.core.export.file_maps import graph_of
from copper_sieve.core.export.planning import plan_export
from copper_sieve.core.graph.evaluate import evaluate
from copper_sieve.core.graph.geometry import geometry_of, reference_map_of
from copper_sieve.core.graph.plan import plan
from copper_sieve.core.graph.preparing import reduced_source
from copper_sieve.core.image.encoding import linear_to_srgb
from copper_sieve.core.image.map_kind import MapKind
from copper_sieve.core.image.raster import Encoding, Picture
from copper_sieve.core.image.resize import resize
from copper_sieve.core.models.preparation import Preparation
from copper_sieve.core.models.texture_set import (
    Derived,
    Imported,
    SetDefinition,
    SurfaceSpec,
    compose,
)
from copper_sieve.core.operations.prepare.compare_ways import compare_ways
from copper_sieve.core.operations.prepare.measure_seams import seam_visibility
from copper_sieve.core.targets.catalog import get_target
from tests.core.conftest import SHA, Wall
from tests.core.recognition.maps import relief

OTHER = "0b" * 32
SIDE = 192
CUT = {"method": "cut", "overlap": (0.2, 0.25)}
DOT = [(0.5 + 0.09 * math.cos(a), 0.5 + 0.09 * math.sin(a)) for a in np.arange(0, 6.2, 0.4)]


def prepared(texture_set: SetDefinition, **steps: Any) -> SetDefinition:
    return texture_set.model_copy(update={"prepare": Preparation.model_validate(steps)})


def pictures(wall: Wall, texture_set: SetDefinition, **how: Any) -> dict[MapKind, np.ndarray]:
    rasters = evaluate(plan(texture_set, wall.sizes, **how), wall.load)
    return {kind: raster.pixels for kind, raster in rasters.items()}


@pytest.fixture
def pair() -> Wall:
    """A grey color and a roughness that are the same picture, a piece of pebbles."""
    piece = relief("pebbles", 5, 2 * SIDE)[: SIDE + 40, :SIDE]
    codes = np.round(piece[:, :, None] * 255).astype(np.uint8)
    grey, color = (
        Picture(codes, ("Y",), Encoding.LINEAR),
        Picture(np.repeat(codes, 3, axis=2), ("R", "G", "B"), Encoding.SRGB),
    )
    maps = {
        MapKind.BASE_COLOR: Imported(source=SHA),
        MapKind.ROUGHNESS: Imported(source=OTHER, channels="R", encoding=Encoding.LINEAR),
    }
    sizes = {SHA: color.size, OTHER: grey.size}
    return Wall(compose("pair", maps), sizes, {SHA: color, OTHER: grey})


def test_a_set_with_nothing_to_prepare_has_no_steps(wall: Wall) -> None:
    ruler = {"start": (0.25, 0.5), "end": (0.75, 0.5), "metres": 0.5}
    for one in (wall.texture_set, prepared(wall.texture_set, ruler=ruler)):
        assert not any(node.step for node in plan(one, wall.sizes).nodes.values())


@pytest.mark.parametrize(
    "steps",
    [
        {"frame": {"angle": 12, "mirror": True, "crop": (0.1, 0.1, 0.9, 0.95)}},
        {"frame": {"corners": ((0.1, 0.05), (0.9, 0.0), (1, 1), (0, 0.9)), "quarter_turns": 3}},
        {"marks": [{"outline": DOT}]},
        {"seams": CUT},
        {"seams": {**CUT, "method": "blend"}},
        {"frame": {"angle": -5}, "marks": [{"outline": DOT}], "seams": CUT},
    ],
)
def test_all_maps_of_a_set_are_prepared_alike(pair: Wall, steps: dict[str, Any]) -> None:
    """Color and data go through the same places: what was one picture still is one."""
    one = prepared(pair.texture_set, **steps)
    found = pictures(pair, one, wanted=[MapKind.BASE_COLOR, MapKind.ROUGHNESS])
    color, rough = linear_to_srgb(found[MapKind.BASE_COLOR])[:, :, :1], found[MapKind.ROUGHNESS]
    width, height = geometry_of(one, pair.sizes).size
    assert color.shape == rough.shape == (height, width, 1)
    assert np.percentile(np.abs(color - rough), 99) < 0.03
    plain = pictures(pair, pair.texture_set, wanted=[MapKind.ROUGHNESS])[MapKind.ROUGHNESS]
    assert plain.shape != rough.shape or np.abs(plain - rough).max() > 0.1


def test_only_what_maps_come_to_is_told_of_a_prepared_set(pair: Wall) -> None:
    """The plans by which marks are filled and borders cut are on the way to them."""
    texture_set = prepared(pair.texture_set, marks=[{"outline": DOT}], seams=CUT)
    graph = plan(texture_set, pair.sizes)
    told = {node.step.name if node.step else "" for node in graph.nodes.values()
            if not node.passing}  # fmt: skip
    assert "seams" in told
    assert not told & {"frame", "marks", "places", "cuts"}


def test_a_closed_set_tiles_in_every_map(pair: Wall) -> None:
    one = prepared(pair.texture_set, seams=CUT)
    found = pictures(pair, one)
    for kind in (MapKind.BASE_COLOR, MapKind.ROUGHNESS, MapKind.HEIGHT, MapKind.NORMAL):
        before = seam_visibility(pictures(pair, pair.texture_set, wanted=[kind])[kind])
        after = seam_visibility(found[kind])
        assert before.visibility > 1.5, kind
        assert after.visibility < 1.3, (kind, after)
    surface = geometry_of(one, pair.sizes).surface
    assert surface.wrap
    assert surface.tile_size == pytest.approx(0.8, rel=0.01)


def test_what_is_laid_over_a_set_is_not_prepared(wall: Wall) -> None:
    mixed = Derived(operation="normal_from_height", slots={})
    mixed = mixed.model_copy(update={"slots": {"second": Imported(source=OTHER)}})
    laid = wall.texture_set.with_map(MapKind.NORMAL, mixed)
    sizes = {**wall.sizes, OTHER: (32, 32)}
    graph = plan(prepared(laid, frame={"quarter_turns": 1}), sizes)
    read = [node.definition for node in graph.nodes.values() if node.is_read]
    assert {one.source for one in read if isinstance(one, Imported)} == {SHA, OTHER}
    steps = [node for node in graph.nodes.values() if node.step]
    assert {node.definition.source for node in steps if isinstance(node.definition, Imported)} == {
        SHA
    }


def test_only_color_pictures_have_their_light_evened(pair: Wall) -> None:
    one = prepared(pair.texture_set, light={"strength": 1.0, "scale": 0.1})
    before, after = (plan(s, pair.sizes).outputs for s in (pair.texture_set, one))
    found, plain = pictures(pair, one), pictures(pair, pair.texture_set)
    np.testing.assert_array_equal(found[MapKind.ROUGHNESS], plain[MapKind.ROUGHNESS])
    assert before[MapKind.BASE_COLOR] != after[MapKind.BASE_COLOR]
    assert np.abs(found[MapKind.BASE_COLOR] - plain[MapKind.BASE_COLOR]).max() > 0.05


def test_a_smaller_result_is_the_whole_one_reduced(pair: Wall) -> None:
    one = prepared(pair.texture_set, frame={"angle": 7}, marks=[{"outline": DOT}], seams=CUT)
    graphs = plan(one, pair.sizes), plan(one, pair.sizes, longer_side=96)
    whole, small = (evaluate(graph, pair.load)[MapKind.BASE_COLOR] for graph in graphs)
    again = resize(whole, small.pixels.shape[1], small.pixels.shape[0])
    np.testing.assert_array_equal(again.pixels, small.pixels)


def test_the_size_asked_for(pair: Wall) -> None:
    taller = prepared(pair.texture_set, size={"longer_side": 64})
    assert geometry_of(taller, pair.sizes).size == (53, 64)
    square = prepared(pair.texture_set, size={"longer_side": 64, "square": True}, seams=CUT)
    assert geometry_of(square, pair.sizes).size == (64, 64)
    found = pictures(pair, square)
    assert {one.shape[:2] for one in found.values()} == {(64, 64)}
    target = get_target("orm-y-down")
    assert plan_export(target, square, pair.sizes).size == (64, 64)


def test_a_ruler_gives_the_width_whatever_is_cropped_or_turned(wall: Wall) -> None:
    ruler = {"start": (0.25, 0.5), "end": (0.75, 0.5), "metres": 0.6}

    def width(**steps: Any) -> float:
        return geometry_of(prepared(wall.texture_set, **steps), wall.sizes).surface.tile_size

    assert width(ruler=ruler) == pytest.approx(1.2)
    half = {"crop": (0.5, 0.0, 1.0, 1.0)}
    assert width(ruler=ruler, frame=half) == pytest.approx(0.6)
    assert width(ruler=ruler, frame={"quarter_turns": 1}) == pytest.approx(1.2 * 48 / 64)
    assert width(ruler=ruler, size={"longer_side": 512}) == pytest.approx(1.2)
    assert width(ruler=ruler, seams=CUT) == pytest.approx(1.2 * 51 / 64)
    # Twice as near at the right: the ruler lies on the straightened picture.
    near = {"corners": ((0, 0.25), (1, 0), (1, 1), (0, 0.75)), "aspect": 1.0}
    assert width(ruler=ruler, frame=near) != pytest.approx(1.2, rel=0.05)


def test_without_a_ruler_the_texels_keep_their_size(wall: Wall) -> None:
    stated = wall.texture_set.model_copy(update={"surface": SurfaceSpec(tile_size=0.8)})
    for steps, share in (
        ({"frame": {"crop": (0.0, 0.0, 0.5, 1.0)}}, 0.5),
        ({"frame": {"quarter_turns": 1}}, 0.75),
        ({"seams": CUT}, 51 / 64),
        ({"size": {"longer_side": 256}}, 1.0),
    ):
        found = geometry_of(prepared(stated, **steps), wall.sizes).surface
        assert found.tile_size == pytest.approx(0.8 * share)


@pytest.mark.parametrize(
    ("steps", "meet"),
    [
        ({}, True),
        ({"frame": {"quarter_turns": 1, "mirror": True}}, True),
        ({"size": {"longer_side": 32}}, True),
        ({"frame": {"crop": (0.0, 0.0, 0.5, 1.0)}}, False),
        ({"frame": {"angle": 3}}, False),
        ({"frame": {"angle": 3}, "seams": CUT}, True),
    ],
)
def test_a_tile_that_is_cropped_or_rotated_is_none_any_more(
    wall: Wall, steps: dict[str, Any], meet: bool
) -> None:
    tile = wall.texture_set.model_copy(update={"surface": SurfaceSpec(wrap=True)})
    one = prepared(tile, **steps, light={"strength": 0.5})
    assert geometry_of(one, wall.sizes).surface.wrap is meet
    (light,) = [
        node.step for node in plan(one, wall.sizes).nodes.values()
        if node.step and node.step.name == "light"
    ]  # fmt: skip
    assert light.wrap is (meet and "seams" not in steps)


@pytest.mark.parametrize(
    ("turns", "meet"), [(0, "across"), (1, "down"), (2, "across"), (3, "down")]
)
def test_borders_turn_with_the_picture(wall: Wall, turns: int, meet: str) -> None:
    tile = wall.texture_set.model_copy(update={"surface": SurfaceSpec(wrap="across")})
    one = prepared(tile, frame={"quarter_turns": turns})
    assert geometry_of(one, wall.sizes).surface.wrap == meet


def test_the_guide_is_the_base_color_s_picture_else_the_largest() -> None:
    normal, height = Imported(source=OTHER), Imported(source=SHA, channels="R")
    sizes = {SHA: (64, 64), OTHER: (128, 128)}
    without = SetDefinition(name="a", maps={MapKind.HEIGHT: height, MapKind.NORMAL: normal})
    assert reference_map_of(without, sizes) == (MapKind.NORMAL, normal)
    color = Imported(source=SHA)
    assert reference_map_of(without.with_map(MapKind.BASE_COLOR, color), sizes) == (
        MapKind.BASE_COLOR, color,
    )  # fmt: skip


def test_a_large_picture_is_read_no_larger_than_is_of_use() -> None:
    half = Preparation.model_validate({"frame": {"crop": (0.0, 0.0, 0.5, 0.5)}})
    assert reduced_source(Preparation(), (4096, 4096), (512, 512)) == (512, 512)
    assert reduced_source(half, (4096, 4096), (512, 512)) == (1024, 1024)
    assert reduced_source(half, (4096, 4096), (1024, 600)) == (2048, 2048)


def test_a_mark_that_cannot_be_filled_is_named(wall: Wall) -> None:
    mark = {"outline": [(0.05, 0.05), (0.95, 0.05), (0.95, 0.95), (0.05, 0.95)]}
    with pytest.raises(ShapeError, match="mark 1 is too large"):
        pictures(wall, prepared(wall.texture_set, marks=[mark]))


@pytest.mark.parametrize(
    ("steps", "said"),
    [
        ({"frame": {"corners": ((0, 0), (0, 1), (1, 1), (1, 0))}}, "clockwise"),
        ({"frame": {"crop": (0.5, 0, 0.5, 1)}}, "at least 1 %"),
        ({"frame": {"angle": 60}}, "45"),
        ({"seams": {"method": "cut"}}, "overlap"),
        ({"seams": {"method": "gradient", "overlap": (0.2, 0.2)}}, "doesn't use one"),
        ({"seams": {"method": "blend", "overlap": (0.2, 0.6)}}, "0.45"),
        ({"ruler": {"start": (0.5, 0.5), "end": (0.5, 0.5), "metres": 1}}, "the same position"),
        ({"marks": [{"outline": [(0, 0), (1, 1)]}]}, "3"),
        ({"marks": [{"outline": [(0, 0), (1, 1), (0, 1.2)]}]}, "1"),
    ],
)
def test_what_cannot_be_prepared_is_refused_in_words(steps: dict[str, Any], said: str) -> None:
    with pytest.raises(ValidationError, match=said):
        Preparation.model_validate(steps)


@pytest.mark.parametrize("crop", [(0.0, 0.0, 0.01, 1.0), (0.0, 0.0, 1.0, 0.01)])
def test_the_least_crop_is_a_hundredth_each_way(crop: tuple[float, ...]) -> None:
    assert Preparation.model_validate({"frame": {"crop": crop}}).frame.crop == crop
    less = tuple(0.0099 if side == 0.01 else side for side in crop)
    with pytest.raises(ValidationError, match="at least 1 %"):
        Preparation.model_validate({"frame": {"crop": less}})


def test_the_ways_are_compared_and_one_that_tiles_is_left_alone() -> None:
    tile = np.ascontiguousarray(relief("pebbles", 2, 128)[:, :, None].astype(np.float32))
    assert compare_ways(tile).chosen is None
    piece = np.ascontiguousarray(tile[:100, :90])
    found = compare_ways(piece)
    assert found.chosen
    best = found.ways[found.chosen]
    assert best.report.before.visibility > 1.5
    assert best.report.after.visibility <= min(
        1.15, *(w.report.before.visibility for w in found.ways.values())
    )
    assert found.ways["blend"].plan.overlap == found.ways["cut"].plan.overlap


@pytest.mark.parametrize(
    "frame", [{"crop": (0.0, 0.0, 0.5, 1.0)}, {"quarter_turns": 1}, {"mirror": True}]
)
def test_a_delivery_computes_the_very_maps_that_were_looked_at(
    wall: Wall, frame: dict[str, Any]
) -> None:
    """What is left of the width, and the borders that meet, are taken once."""
    stated = wall.texture_set.model_copy(update={"surface": SurfaceSpec(wrap="across")})
    one = prepared(stated, frame=frame)
    export = plan_export(get_target("separate-png"), one, wall.sizes)
    looked_at = plan(one, wall.sizes, wanted=export.wanted)
    assert graph_of(export, wall.sizes).outputs == looked_at.outputs
    assert export.texture_set.surface == geometry_of(one, wall.sizes).surface
