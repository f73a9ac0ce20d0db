"""The graph: content keys say exactly what pixels depend on; evaluation computes no more."""

from __future__ import annotations

import numpy as np
import pytest

from copper_sieve.core.errors import CancelledError, MissingMapError, PlanError
from copper_sieve.core.graph.evaluate import evaluate, picture_to_map
from copper_sieve.core.graph.plan import plan
from copper_sieve.core.image.encoding import quantize, srgb_to_linear
from copper_sieve.core.image.map_kind import MapKind, NormalY
from copper_sieve.core.image.normals import vectors_to_encoded
from copper_sieve.core.image.raster import Encoding, Picture
from copper_sieve.core.image.resize import resize
from copper_sieve.core.models.texture_set import Constant, Derived, Imported, SurfaceSpec
from copper_sieve.core.operations import OPERATIONS
from tests.core.conftest import SHA, Wall


class DictCache(dict):  # type: ignore[type-arg]
    """The simplest cache that keeps everything."""

    def put(self, key: str, pixels: np.ndarray) -> None:
        self[key] = pixels


def keys(wall: Wall, **change: object) -> dict[MapKind, str]:
    return plan(wall.texture_set.model_copy(update=change), wall.sizes).outputs


def changed(before: dict[MapKind, str], after: dict[MapKind, str]) -> set[str]:
    return {kind.value for kind in before if before[kind] != after[kind]}


def test_a_parameter_changes_its_map_and_what_is_made_of_it(wall: Wall) -> None:
    maps = wall.texture_set.maps
    other = Derived(operation="height_from_color", parameters={"contrast": 2})
    after = keys(wall, maps={**maps, MapKind.HEIGHT: other})
    assert changed(keys(wall), after) == {"height", "normal", "ambient_occlusion", "roughness"}


def test_a_parameter_written_out_as_its_default_changes_nothing(wall: Wall) -> None:
    maps = wall.texture_set.maps
    same = Derived(operation="height_from_color", parameters={"contrast": 1.0})
    assert changed(keys(wall), keys(wall, maps={**maps, MapKind.HEIGHT: same})) == set()


def test_the_surface_changes_only_what_reads_it(wall: Wall) -> None:
    before = keys(wall)
    assert changed(before, keys(wall, surface=SurfaceSpec(depth=0.5))) == {
        "normal",
        "ambient_occlusion",
    }
    wrapped = changed(before, keys(wall, surface=SurfaceSpec(wrap=True)))
    assert wrapped == {"height", "normal", "ambient_occlusion", "roughness"}


def test_size_source_version_and_name(wall: Wall, monkeypatch: pytest.MonkeyPatch) -> None:
    before = keys(wall)
    assert changed(before, keys(wall, name="other")) == set()
    smaller = plan(wall.texture_set, wall.sizes, longer_side=32).outputs
    assert changed(before, smaller) == {kind.value for kind in before}
    old = OPERATIONS["normal_from_height"]
    from dataclasses import replace

    monkeypatch.setitem(OPERATIONS, old.name, replace(old, version=old.version + 1))
    assert changed(before, keys(wall)) == {"normal"}


def test_a_smaller_result_is_the_whole_one_reduced(wall: Wall) -> None:
    whole = evaluate(plan(wall.texture_set, wall.sizes), wall.load)
    small = evaluate(plan(wall.texture_set, wall.sizes, longer_side=16), wall.load)
    for kind, raster in small.items():
        assert max(raster.size) == 16
        expected = resize(whole[kind], *raster.size).pixels
        np.testing.assert_array_equal(raster.pixels, expected)
    # A quicker one is derived from a smaller picture; imported maps are the same.
    quick = plan(wall.texture_set, wall.sizes, longer_side=16, compute_side=24)
    slow = plan(wall.texture_set, wall.sizes, longer_side=16)
    derived = {k.value for k, d in wall.texture_set.maps.items() if isinstance(d, Derived)}
    assert changed(slow.outputs, quick.outputs) == derived
    assert {max(n.size) for n in quick.nodes.values() if not n.measures} == {16, 24}
    # Never smaller than the result, never larger than the source.
    for asked in (4, 10_000):
        sides = {max(n.size) for n in plan(wall.texture_set, wall.sizes, longer_side=16,
                                           compute_side=asked).nodes.values()}  # fmt: skip
        assert max(sides) == (16 if asked == 4 else max(next(iter(wall.sizes.values()))))


def test_missing_maps_and_circles_are_named(wall: Wall) -> None:
    alone = {MapKind.NORMAL: Derived(operation="normal_from_height")}
    with pytest.raises(MissingMapError, match="wall has no height map, which normal requires"):
        keys(wall, maps=alone)
    circle = {**alone, MapKind.HEIGHT: Derived(operation="height_from_normal")}
    with pytest.raises(PlanError, match="cycle: normal -> height -> normal"):
        keys(wall, maps=circle)


def test_every_map_is_computed_at_the_planned_size(wall: Wall) -> None:
    graph = plan(wall.texture_set, wall.sizes, longer_side=32)
    found = evaluate(graph, wall.load)
    assert set(found) == set(wall.texture_set.maps)
    assert {raster.size for raster in found.values()} == {(32, 24)}
    assert wall.loads == [SHA]


def test_imported_color_comes_back_code_for_code(wall: Wall) -> None:
    from copper_sieve.core.image.encoding import linear_to_srgb

    graph = plan(wall.texture_set, wall.sizes, wanted=[MapKind.BASE_COLOR])
    pixels = evaluate(graph, wall.load)[MapKind.BASE_COLOR].pixels
    np.testing.assert_array_equal(quantize(linear_to_srgb(pixels), 8), wall.pictures[SHA].codes)


def test_what_is_cached_is_not_computed_nor_its_inputs(wall: Wall) -> None:
    cache = DictCache()
    graph = plan(wall.texture_set, wall.sizes, wanted=[MapKind.NORMAL])
    first = evaluate(graph, wall.load, cache=cache)
    assert len(cache) == 4  # base color, height, its depth, normal
    wall.loads.clear()
    for kind in (MapKind.BASE_COLOR, MapKind.HEIGHT):
        del cache[plan(wall.texture_set, wall.sizes, wanted=[kind]).outputs[kind]]
    again = evaluate(graph, wall.load, cache=cache)
    assert wall.loads == []
    np.testing.assert_array_equal(again[MapKind.NORMAL].pixels, first[MapKind.NORMAL].pixels)


def test_results_nobody_needs_are_freed(wall: Wall, monkeypatch: pytest.MonkeyPatch) -> None:
    import weakref
    from dataclasses import replace

    alive: list[weakref.ref] = []
    seen: list[int] = []
    for name in ("height_from_color", "normal_from_height", "ambient_occlusion_from_height"):
        old = OPERATIONS[name]

        def noting(inputs, parameters, surface, compute=old.compute):  # type: ignore[no-untyped-def]
            seen.append(sum(ref() is not None for ref in alive))
            out = compute(inputs, parameters, surface).copy()
            alive.append(weakref.ref(out))
            return out

        monkeypatch.setitem(OPERATIONS, name, replace(old, compute=noting))
    wanted = [MapKind.AMBIENT_OCCLUSION]
    found = evaluate(plan(wall.texture_set, wall.sizes, wanted=wanted), wall.load)
    assert set(found) == set(wanted)
    assert seen == [0, 1]
    assert [ref() is not None for ref in alive] == [False, True]  # the height is gone


def test_progress_rises_to_one_and_cancel_stops_between_nodes(wall: Wall) -> None:
    graph = plan(wall.texture_set, wall.sizes)
    shares: list[float] = []
    evaluate(graph, wall.load, on_progress=shares.append)
    assert shares == sorted(shares)
    assert shares[-1] == 1
    done: list[float] = []
    with pytest.raises(CancelledError):
        evaluate(graph, wall.load, on_progress=done.append, is_cancelled=lambda: len(done) >= 2)
    assert len(done) == 2


def test_normals_are_read_in_the_stated_direction() -> None:
    codes = np.array([[[128, 200, 230]]], np.uint8)
    picture = Picture(codes, ("R", "G", "B"), Encoding.SRGB)
    up, down = (
        picture_to_map(picture, MapKind.NORMAL, Imported(source=SHA, normal_y=y)).pixels
        for y in (NormalY.UP, NormalY.DOWN)
    )
    np.testing.assert_allclose(up * [1, -1, 1], down)
    assert quantize(vectors_to_encoded(up), 8)[0, 0, 1] > 128


def test_data_from_a_colored_picture_is_its_luminance() -> None:
    codes = np.zeros((1, 4, 3), np.uint8)
    codes[0, 0, 0] = codes[0, 1, 1] = codes[0, 2, 2] = 255
    codes[0, 3] = 255
    picture = Picture(codes, ("R", "G", "B"), Encoding.LINEAR)
    values = picture_to_map(picture, MapKind.ROUGHNESS, Imported(source=SHA)).pixels[0, :, 0]
    np.testing.assert_allclose(values, [0.2126, 0.7152, 0.0722, 1], atol=1e-6)  # Rec. 709


def test_data_is_never_decoded_as_color() -> None:
    codes = np.full((2, 2, 3), 100, np.uint8)
    codes[0, 0] = (10, 20, 30)
    picture = Picture(codes, ("R", "G", "B"), Encoding.SRGB)
    one = picture_to_map(picture, MapKind.ROUGHNESS, Imported(source=SHA, channels="G")).pixels
    np.testing.assert_array_equal(one[:, :, 0] * 255, [[20, 100], [100, 100]])
    color = picture_to_map(picture, MapKind.BASE_COLOR, Imported(source=SHA)).pixels
    assert color[1, 1, 0] == pytest.approx(float(srgb_to_linear(100 / 255)))


def test_float_pictures_become_finite_and_never_negative() -> None:
    values = np.array([[[np.nan, -1.0, np.inf], [0.5, 2.0, -np.inf]]], np.float32)
    picture = Picture(values, ("R", "G", "B"), Encoding.LINEAR)
    imported = Imported(source=SHA, encoding=Encoding.LINEAR)
    color = picture_to_map(picture, MapKind.BASE_COLOR, imported).pixels
    np.testing.assert_array_equal(color, [[[0, 0, 65504], [0.5, 2, 0]]])


def test_constants_stay_exactly_what_they_are(wall: Wall) -> None:
    one = wall.texture_set.with_map(MapKind.METALLIC, Constant(value=(0.25,)))
    graph = plan(one, wall.sizes, wanted=[MapKind.METALLIC])
    pixels = evaluate(graph, wall.load)[MapKind.METALLIC].pixels
    assert (pixels == np.float32(0.25)).all()
    assert wall.loads == []


def test_a_picture_is_decoded_once_for_all_maps_that_it_holds(wall: Wall) -> None:
    packed = wall.texture_set
    for kind, channel in (("roughness", "R"), ("metallic", "G"), ("opacity", "B")):
        imported = Imported(source=SHA, channels=channel)
        packed = packed.with_map(MapKind(kind), imported)
    evaluate(plan(packed, wall.sizes), wall.load)
    assert wall.loads == [SHA]
