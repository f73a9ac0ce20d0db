"""Maps that a set takes from the model that it is made for, as nodes of its graph."""

from __future__ import annotations

from collections.abc import Callable
from dataclasses import replace

import numpy as np
import pytest

from copper_sieve.core.baking import BakeOptions, bake
from copper_sieve.core.errors import CancelledError, MeshError, PlanError
from copper_sieve.core.graph.evaluate import evaluate
from copper_sieve.core.graph.geometry import geometry_of
from copper_sieve.core.graph.node import Plan
from copper_sieve.core.graph.plan import plan
from copper_sieve.core.image.map_kind import MapKind
from copper_sieve.core.image.raster import Picture
from copper_sieve.core.mesh.mesh import Mesh, join_meshes
from copper_sieve.core.models.model_tie import ModelLink
from copper_sieve.core.models.texture_set import Constant, Derived, MapDefinition, SetDefinition
from copper_sieve.store.cache import MemoryCache
from tests.core.mesh.solids import ball, floor

SIMPLE, DETAILED = "a" * 64, "b" * 64
SIDE = 64


def _models() -> dict[str, Mesh]:
    """A ball over a floor, each of its own material; the detailed ball is 20 mm larger."""
    ground_plane = replace(floor(2.0, 8, height=-0.5), material_names=("ground",))
    simple = join_meshes([replace(ball(0.4, rings=24), material_names=("globe",)), ground_plane])
    high_poly = join_meshes(
        [replace(ball(0.42, rings=48), material_names=("globe",)), ground_plane]
    )
    return {SIMPLE: simple, DETAILED: high_poly}


MODELS = _models()


def _no_pictures(sha256: str) -> Picture:
    raise AssertionError(sha256)


def _set(tie: ModelLink | None, **maps: MapDefinition) -> SetDefinition:
    given = {MapKind(kind): way for kind, way in maps.items()}
    return SetDefinition(name="globe", maps=given, model=tie).checked()


def _tie(**more: object) -> ModelLink:
    return ModelLink.model_validate({"source": SIMPLE, "material": "globe", **more})


def _run(graph: Plan, load: Callable[[str], Mesh] = MODELS.__getitem__) -> dict[str, np.ndarray]:
    found = evaluate(graph, _no_pictures, load)
    return {kind.value: raster.pixels for kind, raster in found.items()}


def _derived(operation: str, **parameters: float | bool | str) -> Derived:
    return Derived(operation=operation, parameters=parameters)


def test_a_map_is_what_the_command_takes_from_the_same_model() -> None:
    shade = _derived("ambient_occlusion_from_model", rays="16")
    graph = plan(_set(_tie(), ambient_occlusion=shade), {}, longer_side=1024)
    node = graph.nodes[graph.outputs[MapKind.AMBIENT_OCCLUSION]]
    assert node.words == "baking occlusion from the model"
    small = replace(node, size=(SIDE, SIDE))
    found = _run(replace(graph, nodes={node.key: small}))["ambient_occlusion"]
    options = BakeOptions(width=SIDE, height=SIDE, samples=1, rays=16)
    wanted = bake(MODELS[SIMPLE], ["ambient_occlusion"], options, material="globe")
    np.testing.assert_array_equal(found, wanted.maps["ambient_occlusion"])


def test_a_preview_takes_it_small_and_lays_it_larger_under_a_key_of_its_own() -> None:
    one = _set(_tie(), curvature=_derived("curvature_from_model"))
    whole = plan(one, {}, longer_side=256)
    quick = plan(one, {}, longer_side=256, compute_side=256, model_side=SIDE)
    sizes = {node.words: node.size for node in quick.nodes.values()}
    assert sizes["baking curvature from the model"] == (SIDE, SIDE)
    assert _run(quick)["curvature"].shape == (256, 256, 1)
    assert quick.outputs != whole.outputs
    assert plan(one, {}, longer_side=256).outputs == whole.outputs


@pytest.mark.parametrize(
    "other",
    [{"material": "ground"}, {"source": DETAILED}, {"detailed": DETAILED}, {"uv_set": 1},
     {"detailed": DETAILED, "cage": 0.1}],
)  # fmt: skip
def test_another_tie_is_another_key(other: dict[str, object]) -> None:
    def key(tie: ModelLink) -> str:
        one = _set(tie, mask_1=_derived("mask_1_from_model_facing"))
        return plan(one, {}).outputs[MapKind.MASK_1]

    assert key(_tie()) == key(_tie())
    assert key(_tie()) != key(_tie(**other))


def test_what_looks_up_and_what_lies_high_are_masks() -> None:
    up = _derived("mask_1_from_model_facing", way="up", softness=0.0)
    down = _derived("mask_2_from_model_facing", way="down", softness=0.0)
    high = _derived("mask_3_from_model_place", from_share=0.525, softness=0.0)
    found = _run(plan(_set(_tie(), mask_1=up, mask_2=down, mask_3=high), {}, longer_side=SIDE,
                      compute_side=SIDE))  # fmt: skip
    # The ball's v runs from its top down, so its upper half is the upper half of the picture.
    assert found["mask_1"][4 : SIDE // 2 - 2].min() == 1
    assert found["mask_1"][SIDE // 2 + 2 : -4].max() == 0
    np.testing.assert_array_equal(found["mask_2"][4:-4], found["mask_1"][4:-4][::-1])
    # 2 m is the longest side, 0.5 the middle of 0.9 m; the ball's own is 50 mm above that.
    assert found["mask_3"][4 : SIDE // 2 - 2].min() == 1
    assert found["mask_3"][SIDE // 2 + 2 :].max() == 0


def test_relief_and_model_shade_each_other() -> None:
    flat = Constant(value=(0.5,))
    both = _derived("ambient_occlusion_from_model_and_height", rays="16")
    isolate_parts = _derived("ambient_occlusion_from_model", rays="16")
    asked = {"longer_side": SIDE, "compute_side": SIDE, "model_side": SIDE}
    even = _run(plan(_set(_tie(), height=flat, ambient_occlusion=both), {}, **asked))  # type: ignore[arg-type]
    model = _run(plan(_set(_tie(), ambient_occlusion=isolate_parts), {}, **asked))  # type: ignore[arg-type]
    np.testing.assert_allclose(even["ambient_occlusion"], model["ambient_occlusion"], atol=2e-3)


def test_the_detailed_model_gives_height_in_metres_and_the_depth_with_it() -> None:
    height = _derived("height_from_high_poly", metres=0.08)
    one = _set(_tie(high_poly=DETAILED), height=height, normal=_derived("normal_from_height"))
    assert geometry_of(one, {}).surface.depth == 0.08
    graph = plan(one, {}, longer_side=SIDE, compute_side=SIDE)
    assert graph.depth is None  # nothing is measured that is stated
    found = _run(graph)
    # 20 mm above the surface, of 80: three quarters of the range.
    assert np.median(found["height"]) == pytest.approx(0.75, abs=0.01)


@pytest.mark.parametrize(
    ("tie", "operation", "says"),
    [
        (None, "curvature_from_model", "none is linked. Link a model"),
        (_tie(), "height_from_high_poly", "requires a high-poly model. Choose one"),
    ],
)
def test_what_is_missing_is_told_before_anything_is_computed(
    tie: ModelLink | None, operation: str, says: str
) -> None:
    kind = operation.partition("_from")[0]
    with pytest.raises(PlanError, match=says):
        plan(_set(tie, **{kind: _derived(operation)}), {})


def test_where_there_are_no_models_it_says_so() -> None:
    graph = plan(_set(_tie(), curvature=_derived("curvature_from_model")), {}, longer_side=SIDE,
                 compute_side=SIDE)  # fmt: skip
    with pytest.raises(MeshError, match="no models are available"):
        evaluate(graph, _no_pictures)


def test_it_is_stopped_within_a_map_and_tells_how_far_it_is() -> None:
    shade = _derived("ambient_occlusion_from_model", rays="512")
    graph = plan(_set(_tie(), ambient_occlusion=shade), {}, longer_side=256, compute_side=256,
                 model_side=256)  # fmt: skip
    told: list[float] = []
    with pytest.raises(CancelledError):
        evaluate(graph, _no_pictures, MODELS.__getitem__, on_progress=told.append,
                 is_cancelled=lambda: len(told) >= 2)  # fmt: skip
    assert 0 < told[0] < told[1] < 0.9


def test_it_is_kept_and_not_taken_again() -> None:
    graph = plan(_set(_tie(), curvature=_derived("curvature_from_model")), {}, longer_side=SIDE,
                 compute_side=SIDE)  # fmt: skip
    cache = MemoryCache(1 << 24)
    first = evaluate(graph, _no_pictures, MODELS.__getitem__, cache=cache)
    again = evaluate(graph, _no_pictures, None, cache=cache)
    kind = MapKind.CURVATURE
    np.testing.assert_array_equal(first[kind].pixels, again[kind].pixels)


def test_a_set_without_a_tie_reads_as_it_was_written() -> None:
    plain = _set(None, roughness=Constant(value=(0.5,)))
    assert "model" not in plain.model_dump(mode="json")
    tied = _set(_tie(high_poly=DETAILED), roughness=Constant(value=(0.5,)))
    assert SetDefinition.model_validate(tied.model_dump(mode="json")) == tied
    assert tied.sources() == tied.tied() == {SIMPLE, DETAILED}


def test_parts_and_materials_are_masks_by_their_names() -> None:
    """Of a ball whose upper half is a part of its own, on islands beside each other."""
    halves = [
        replace(floor(1.0, uv=uv, height=n), part_names=(name,), material_names=(name,))
        for n, (name, uv) in enumerate((("lid_low", (0, 0, 0.5, 1)), ("pot", (0.5, 0, 0.5, 1))))
    ]
    both = join_meshes(halves)

    def mask(**how: float | bool | str) -> np.ndarray:
        one = _set(ModelLink(source=SIMPLE), mask_1=_derived("mask_1_from_model_names", **how))
        graph = plan(one, {}, wanted=[MapKind.MASK_1], longer_side=SIDE)
        return _run(graph, lambda _: both)["mask_1"][:, :, 0]

    lid = mask(names="LID*")
    assert (lid[:, : SIDE // 2 - 1] == 1).all() and (lid[:, SIDE // 2 + 1 :] == 0).all()
    assert np.array_equal(mask(names="pot", of="materials", invert=True), lid)
    assert mask(names="pot, lid_low").min() == 1
    with pytest.raises(MeshError, match=r"no part named spout\. It has: lid_low, pot"):
        mask(names="spout")
