"""Two sets blended: values by hand, every map follows, borders meet, keys tell parts apart."""

from __future__ import annotations

import numpy as np
import pytest

from copper_sieve.core.detection.tiling import measure_tiling_of_values
from copper_sieve.core.errors import ParameterError
from copper_sieve.core.graph.evaluate import evaluate
from copper_sieve.core.graph.geometry import geometry_of
from copper_sieve.core.graph.plan import plan
from copper_sieve.core.graph.tiled_resample import TiledResample
from copper_sieve.core.image.map_kind import MapKind, Meaning
from copper_sieve.core.image.raster import Encoding, Picture
from copper_sieve.core.models.blending import BlendInput, blend_definitions
from copper_sieve.core.models.model_tie import ModelLink
from copper_sieve.core.models.recipe import recipe_of
from copper_sieve.core.models.texture_set import (
    Constant,
    Derived,
    FromBlendedSet,
    Imported,
    SetDefinition,
    SurfaceSpec,
)
from copper_sieve.core.operations import SurfaceContext, get_operation
from tests.core.recognition.maps import encoded, normals, relief

SIDE = 64
COLOR, HEIGHT, NORMAL, ROUGH = (
    MapKind.BASE_COLOR, MapKind.HEIGHT, MapKind.NORMAL, MapKind.ROUGHNESS,
)  # fmt: skip
TILE = SurfaceContext.of(tile_size=1.0, wrap=True)


def share(
    below: object, above: object, surface: SurfaceContext = TILE, **given: object
) -> np.ndarray:
    operation = get_operation("mask_1_from_part_heights")
    inputs = {name: np.asarray(values, np.float32)[:, :, None]
              for name, values in (("below_height", below), ("above_height", above))}  # fmt: skip
    if "drawn" in given:
        inputs["mask_source"] = np.asarray(given.pop("drawn"), np.float32)[:, :, None]
    return operation.compute(inputs, operation.resolve(given), surface)[:, :, 0]


def test_the_share_by_hand() -> None:
    below, above = np.array([[0.2, 0.8, 0.5]]), np.array([[0.8, 0.2, 0.5]])
    plain = {"transition": 1.0, "contrast": 0.5, "below_depth": 0.02, "above_depth": 0.02}
    # x = 2 * 0.5 * (0.6, -0.6, 0), t = x / 2 + 0.5, t * t * (3 - 2 t)
    due = [0.8**2 * 1.4, 0.2**2 * 2.6, 0.5]
    np.testing.assert_allclose(share(below, above, **plain)[0], due, atol=1e-6)
    # A relief of half the depth counts half: x = (0.4 - 0.2, 0.1 - 0.8, 0.25 - 0.5)
    half = share(below, above, **{**plain, "above_depth": 0.01})[0]
    t = np.array([0.2, -0.7, -0.25]) / 2 + 0.5
    np.testing.assert_allclose(half, t * t * (3 - 2 * t), atol=1e-6)


def test_what_stands_out_comes_through_and_the_offset_moves_the_border() -> None:
    below, above = relief("bricks", 1, SIDE), relief("pebbles", 2, SIDE)
    hard = share(below, above, transition=0.0, contrast=1.0)
    np.testing.assert_array_equal(hard > 0.5, above > below)
    shares = [share(below, above, offset=o).mean() for o in (-1.0, -0.3, 0.0, 0.3, 1.0)]
    assert shares == sorted(shares)
    assert (shares[0], shares[-1]) == (0.0, 1.0)
    soft, sharp = (share(below, above, transition=t) for t in (0.6, 0.05))
    between = [((one > 0.02) & (one < 0.98)).mean() for one in (soft, sharp)]
    assert between[0] > 2 * between[1]


def test_masks_are_drawn_by_a_map_a_gradient_or_noise() -> None:
    flat = np.full((SIDE, SIDE), 0.5)
    bare = {"transition": 1.0, "contrast": 0.0}
    drawn = np.zeros((SIDE, SIDE))
    drawn[:, : SIDE // 2] = 1
    by_map = share(flat, flat, by="a map", drawn=drawn, **bare)
    np.testing.assert_array_equal(by_map > 0.5, drawn > 0.5)
    np.testing.assert_array_equal(
        share(flat, flat, by="a map", drawn=drawn, invert=True, **bare) > 0.5, drawn < 0.5
    )
    assert (share(flat, flat, by="a map", **bare) == 0.5).all()  # none is drawn yet

    up = share(flat, flat, SurfaceContext.of(wrap=False), by="gradient", angle=90.0, **bare)
    assert (np.diff(up[:, 0]) < 0).all()
    right = share(flat, flat, SurfaceContext.of(wrap=False), by="gradient", angle=0.0, **bare)
    assert (np.diff(right[0]) > 0).all()
    tiled = share(flat, flat, by="gradient", angle=45.0, **bare)
    assert measure_tiling_of_values(tiled[:, :, None]).wrap

    large, small = (share(flat, flat, by="noise", patch=p, **bare) for p in (0.4, 0.05))
    assert np.abs(np.diff(small, axis=0)).mean() > 3 * np.abs(np.diff(large, axis=0)).mean()
    assert (small > 0.5).mean() == pytest.approx(0.5, abs=0.02)
    assert not np.array_equal(small, share(flat, flat, by="noise", patch=0.05, seed=2.0, **bare))
    big = np.full((4 * SIDE, 4 * SIDE), 0.5)
    same = share(big, big, by="noise", patch=0.2, **bare)
    same = same.reshape(SIDE, 4, SIDE, 4).mean(axis=(1, 3))
    assert np.abs(same - share(flat, flat, by="noise", patch=0.2, **bare)).max() < 0.05
    noise = share(big, big, by="noise", patch=0.1, **bare)
    assert measure_tiling_of_values(noise[:, :, None]).wrap


def test_normals_have_the_slope_of_the_blended_height() -> None:
    a, b = relief("soft", 3, 256), relief("soft", 9, 256)
    depths = {"below_depth": 0.02, "above_depth": 0.01}
    surface = SurfaceContext.of(tile_size=1.0, depth=0.02, wrap=True)
    mask = share(a, b, by="noise", patch=0.3, transition=0.8, contrast=0.3)[:, :, None]

    def heights(field: np.ndarray) -> np.ndarray:
        return field.astype(np.float32)[:, :, None]

    def normal_of(field: np.ndarray, depth: float) -> np.ndarray:
        one = SurfaceContext.of(tile_size=1.0, depth=depth, wrap=True)
        operation = get_operation("normal_from_height")
        plain = operation.resolve({"kernel": "central"} if "kernel" in {
            p.name for p in operation.parameters} else {})  # fmt: skip
        return operation.compute({MapKind.HEIGHT: heights(field)}, plain, one)

    blend = get_operation("height_from_parts")
    both = {"below": heights(a), "above": heights(b), "mask": mask}
    height = blend.compute(both, blend.resolve(depths), surface)
    np.testing.assert_allclose(height, heights(a) + mask * (heights(b) / 2 - heights(a)), atol=1e-6)
    operation = get_operation("normal_from_parts")
    given = {"below": normal_of(a, 0.02), "above": normal_of(b, 0.01), "mask": mask,
             "below_height": heights(a), "above_height": heights(b)}  # fmt: skip
    found = operation.compute(given, operation.resolve(depths), surface)
    expected = normal_of(height[:, :, 0], 0.02)
    off = np.degrees(np.arccos(np.clip((found * expected).sum(axis=2), -1, 1)))
    without = operation.compute({k: given[k] for k in ("below", "above", "mask")},
                                operation.resolve(depths), surface)  # fmt: skip
    flatter = np.degrees(np.arccos(np.clip((without * expected).sum(axis=2), -1, 1)))
    assert np.median(off) < 0.5
    assert np.median(off) < 0.4 * np.median(flatter)


def picture(values: np.ndarray, encoding: Encoding = Encoding.LINEAR) -> Picture:
    codes = np.round(np.clip(values, 0, 1) * 255).astype(np.uint8)
    codes = codes if codes.ndim == 3 else np.repeat(codes[:, :, None], 3, axis=2)
    return Picture(np.ascontiguousarray(codes), ("R", "G", "B"), encoding)


class Sets:
    """Two sets with pictures: bricks below, pebbles of half the width above."""

    def __init__(self) -> None:
        self.pictures: dict[str, Picture] = {}
        bricks, pebbles = relief("bricks", 1, SIDE), relief("pebbles", 2, SIDE // 2)
        self.below = self.make("bricks", bricks, 0.2, 1.0)
        self.above = self.make("pebbles", pebbles, 0.8, 0.5)

    def add(self, made: Picture) -> str:
        sha = f"{len(self.pictures):064x}"
        self.pictures[sha] = made
        return sha

    def make(self, name: str, field: np.ndarray, level: float, width: float) -> BlendInput:
        color = self.add(picture(0.6 * level + 0.2 * field))
        height = self.add(picture(field))
        normal = self.add(picture(encoded(normals(field, 0.5, down=False)) / 255))
        maps = {
            COLOR: Imported(source=color, encoding=Encoding.LINEAR),
            HEIGHT: Imported(source=height, encoding=Encoding.LINEAR),
            NORMAL: Imported(source=normal, encoding=Encoding.LINEAR),
            ROUGH: Constant(value=(level,)),
            MapKind.AMBIENT_OCCLUSION: Derived(operation="ambient_occlusion_from_height"),
        }
        surface = SurfaceSpec(tile_size=width, depth=0.02, wrap=True)
        return BlendInput(SetDefinition(name=name, surface=surface, maps=maps), surface, 0.02)

    @property
    def sizes(self) -> dict[str, tuple[int, int]]:
        return {sha: one.size for sha, one in self.pictures.items()}

    def maps(self, one: SetDefinition, **more: object) -> dict[MapKind, np.ndarray]:
        graph = plan(one.checked(), self.sizes, **more)
        found = evaluate(graph, self.pictures.__getitem__)
        return {kind: raster.pixels for kind, raster in found.items()}


@pytest.fixture
def sets() -> Sets:
    return Sets()


def with_mask(one: SetDefinition, **given: object) -> SetDefinition:
    way = one.maps[MapKind.MASK_1]
    assert isinstance(way, Derived)
    changed = way.model_copy(update={"parameters": {**way.parameters, **given}})
    return one.with_map(MapKind.MASK_1, changed)


def test_every_map_follows_the_mask(sets: Sets) -> None:
    both = blend_definitions("quay", sets.below, sets.above)
    assert geometry_of(both, sets.sizes).size == (SIDE, SIDE)
    assert both.parts["above"].repeat == 2
    # Half as wide, so half as deep over the lower set's width.
    way = both.maps[MapKind.MASK_1]
    assert isinstance(way, Derived)
    assert (way.parameters["below_depth"], way.parameters["above_depth"]) == (0.02, 0.02)
    assert both.maps[MapKind.AMBIENT_OCCLUSION] == Derived(
        operation="ambient_occlusion_from_height"
    )
    below = sets.maps(sets.below.texture_set)
    above = {
        kind: np.tile(one, (2, 2, 1)) for kind, one in sets.maps(sets.above.texture_set).items()
    }
    only_below = sets.maps(with_mask(both, offset=-1.0, contrast=0.0))
    only_above = sets.maps(with_mask(both, offset=1.0, contrast=0.0))
    for kind in (COLOR, HEIGHT, NORMAL, ROUGH):
        np.testing.assert_allclose(only_below[kind], below[kind], atol=2e-3, err_msg=kind)
        np.testing.assert_allclose(only_above[kind], above[kind], atol=2e-3, err_msg=kind)
    mixed = sets.maps(with_mask(both, by="noise", patch=0.3))
    mask = mixed[MapKind.MASK_1]
    assert 0.2 < mask.mean() < 0.8
    for kind in (COLOR, ROUGH, HEIGHT):
        due = below[kind] + mask * (above[kind] - below[kind])
        np.testing.assert_allclose(mixed[kind], due, atol=1e-5, err_msg=kind)
    assert measure_tiling_of_values(mixed[COLOR]).wrap
    np.testing.assert_allclose(np.linalg.norm(mixed[NORMAL], axis=2), 1, atol=1e-5)


def test_what_one_set_lacks_is_derived_or_changes_nothing(sets: Sets) -> None:
    lamp = sets.below.texture_set.with_map(MapKind.EMISSIVE, Constant(value=(1.0, 0.5, 0.0)))
    below = BlendInput(lamp, sets.below.surface, sets.below.depth)
    maps = {COLOR: sets.above.texture_set.maps[COLOR]}
    bare = sets.above.texture_set.model_copy(update={"maps": maps})
    both = blend_definitions("lit", below, BlendInput(bare, sets.above.surface, 0.01))
    part = both.parts["above"].texture_set
    assert part.maps[MapKind.EMISSIVE] == Constant(value=(0.0, 0.0, 0.0))
    assert part.maps[HEIGHT].how == "derived"
    assert set(sets.maps(both)) == set(both.maps)


def test_keys_tell_parts_apart_and_stay_where_nothing_changed(sets: Sets) -> None:
    both = blend_definitions("quay", sets.below, sets.above)
    keys = plan(both, sets.sizes).outputs
    assert plan(both, sets.sizes).outputs == keys
    other = sets.above.texture_set.with_map(ROUGH, Constant(value=(0.3,)))
    part = both.parts["above"].model_copy(update={"texture_set": other})
    changed = both.model_copy(update={"parts": {**both.parts, "above": part}})
    after = plan(changed, sets.sizes).outputs
    assert {kind for kind in keys if keys[kind] != after[kind]} == {ROUGH}
    once = both.parts["above"].model_copy(update={"repeat": 1})
    moved = plan(both.model_copy(update={"parts": {**both.parts, "above": once}}), sets.sizes)
    assert moved.outputs[COLOR] != keys[COLOR]


def test_a_preview_shows_what_is_delivered(sets: Sets) -> None:
    both = with_mask(blend_definitions("quay", sets.below, sets.above), by="noise", patch=0.4)
    whole = sets.maps(both)[COLOR]
    small = sets.maps(both, longer_side=SIDE // 2)[COLOR]
    reduced = whole.reshape(SIDE // 2, 2, SIDE // 2, 2, 3).mean(axis=(1, 3))
    np.testing.assert_allclose(small, reduced, atol=1e-5)


def test_a_blend_of_a_blend_and_what_cannot_be(sets: Sets) -> None:
    first = blend_definitions("one", sets.below, sets.above)
    second = blend_definitions("two", BlendInput(first, first.surface, 0.02), sets.above)
    assert second.maps[MapKind.MASK_2].operation == "mask_from_part_heights"  # type: ignore[union-attr]
    assert second.sources() == set(sets.pictures)
    assert set(sets.maps(second)) == set(second.maps)
    with pytest.raises(ParameterError, match="blend of blended sets"):
        blend_definitions("three", BlendInput(second, second.surface, 0.02), sets.above)
    slots = {name: FromBlendedSet(part=name, kind=COLOR) for name in ("below", "above")}
    maps = {COLOR: Derived(operation="base_color_from_parts", slots=slots)}
    alone = SetDefinition(name="alone", maps=maps)
    with pytest.raises(ParameterError, match="isn't a blend"):
        alone.checked()
    kept = recipe_of(first, "how").maps
    assert MapKind.MASK_1 not in kept
    assert MapKind.AMBIENT_OCCLUSION in kept


def test_a_set_with_tiles_lies_below(sets: Sets) -> None:
    """Two tiles side by side, a metre each; the upper set goes on across where they meet."""
    fields = {1001 + n: relief("bricks", 3 + n, SIDE) for n in range(2)}
    shas = {number: sets.add(picture(0.5 * one)) for number, one in fields.items()}
    tiled = Imported(source=shas[1001], tiles=shas, encoding=Encoding.LINEAR)
    surface = SurfaceSpec(tile_size=1.0, depth=0.02)
    tie = ModelLink(source="d" * 64)
    wall = SetDefinition(name="wall", surface=surface, maps={COLOR: tiled}, model=tie)
    geometry = geometry_of(wall, sets.sizes)
    below = BlendInput(wall, geometry.surface, 0.02, geometry.size)
    assert below.metres == (2, 1)
    both = blend_definitions("mossy", below, sets.above)
    assert (both.sheet, both.model) == (wall.sheet, tie)
    assert (both.parts["above"].repeat, both.parts["above"].repeat_down) == (4, 2)
    assert both.surface.tile_size == 1  # of a tile, as it is said
    laid = geometry_of(both, sets.sizes)
    assert (laid.size, laid.tile) == ((2 * SIDE, SIDE), (SIDE, SIDE))
    assert laid.surface.tile_size == 2
    only_above = sets.maps(with_mask(both, offset=1.0, contrast=0.0))
    due = np.tile(sets.maps(sets.above.texture_set)[COLOR], (2, 4, 1))
    np.testing.assert_allclose(only_above[COLOR], due, atol=2e-3)
    only_below = sets.maps(with_mask(both, offset=-1.0, contrast=0.0))
    np.testing.assert_allclose(only_below[COLOR], sets.maps(wall)[COLOR], atol=2e-3)
    read = SetDefinition.model_validate_json(both.model_dump_json())
    assert read == both
    plain = blend_definitions("quay", sets.below, sets.above).model_dump_json()
    assert "repeat_down" not in plain and '"model"' not in plain  # older definitions have neither
    # The other way round nothing says which part of the surface its tiles would be.
    with pytest.raises(ParameterError, match="wall has tiles and bricks has none"):
        blend_definitions("odd", sets.below, below)
    more = {**shas, 1011: shas[1001]}
    taller = wall.model_copy(update={"maps": {COLOR: tiled.model_copy(update={"tiles": more})}})
    with pytest.raises(ParameterError, match="wall has tiles and wall has different tiles"):
        blend_definitions("odd", below, BlendInput(taller, geometry.surface, 0.02, geometry.size))


def test_borders_end_where_those_of_one_set_do(sets: Sets) -> None:
    surface = sets.above.surface.model_copy(update={"wrap": "across"})
    both = blend_definitions("open", sets.below, BlendInput(sets.above.texture_set, surface, 0.02))
    assert both.surface.wrap == "across"


def test_laying_keeps_each_copy_whole() -> None:
    one = np.random.default_rng(1).random((8, 8, 1)).astype(np.float32)
    laid = TiledResample(2, 2).run({"map": one}, Meaning.DATA, (16, 16))
    np.testing.assert_array_equal(laid, np.tile(one, (2, 2, 1)))
    wide = TiledResample(4, 1).run({"map": one}, Meaning.DATA, (32, 8))
    np.testing.assert_array_equal(wide, np.tile(one, (1, 4, 1)))
    assert "down" not in TiledResample(2, 2).content()  # keys are older than it
    assert TiledResample(2, 1).content() != TiledResample(2, 2).content()
    odd = TiledResample(3, 3).run({"map": one}, Meaning.DATA, (16, 16))
    assert odd.shape == (16, 16, 1)
    assert measure_tiling_of_values(np.tile(odd, (4, 4, 3))).wrap
