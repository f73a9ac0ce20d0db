"""Content keys, field by field: whatever a result depends on is in its key, so leaving any of it
out fails here. Equal keys would give people the pixels of something else."""

from __future__ import annotations

from collections.abc import Callable
from dataclasses import replace
from typing import Any

import pytest

from copper_sieve.core.graph import plan as planning
from copper_sieve.core.graph import preparing
from copper_sieve.core.graph.plan import plan
from copper_sieve.core.image.map_kind import MapKind, NormalY
from copper_sieve.core.image.raster import Encoding
from copper_sieve.core.models.preparation import (
    EvenLight,
    FrameSpec,
    Mark,
    Preparation,
    Seams,
    Size,
)
from copper_sieve.core.models.texture_set import (
    Constant,
    Derived,
    FromMap,
    Imported,
    SetDefinition,
    SurfaceSpec,
    compose,
)
from copper_sieve.core.operations import OPERATIONS

COLOR, NORMAL, OTHER = "1" * 64, "2" * 64, "3" * 64
SIZES = {COLOR: (64, 48), NORMAL: (64, 48), OTHER: (64, 48)}
CORNERS = ((0.1, 0.0), (0.9, 0.1), (1.0, 1.0), (0.0, 0.9))
MARK = Mark(outline=((0.1, 0.1), (0.2, 0.1), (0.2, 0.3)))
MOVED = Mark(outline=((0.1, 0.1), (0.2, 0.1), (0.2, 0.4)))


def made(**maps: Any) -> SetDefinition:
    """Color and normals came in; height, occlusion and roughness are derived."""
    given = {MapKind.BASE_COLOR: Imported(source=COLOR), MapKind.NORMAL: Imported(source=NORMAL)}
    one = compose("wall", given)
    for kind, definition in maps.items():
        one = one.with_map(MapKind(kind), definition)
    return one


def with_surface(**changes: Any) -> SetDefinition:
    """Of color alone, so that heights and normals come of it."""
    return compose("wall", {MapKind.BASE_COLOR: Imported(source=COLOR)}, SurfaceSpec(**changes))


def prepared(**steps: Any) -> SetDefinition:
    return made().model_copy(update={"prepare": Preparation(**steps)})


def color(**changes: Any) -> SetDefinition:
    return made(base_color=Imported(**{"source": COLOR, **changes}))


def normal(**changes: Any) -> SetDefinition:
    return made(normal=Imported(**{"source": NORMAL, **changes}))


def height(**parameters: Any) -> SetDefinition:
    way = Derived(operation="height_from_color", parameters=parameters)
    return with_surface().with_map(MapKind.HEIGHT, way)


def mixed(**changes: Any) -> SetDefinition:
    way = {
        "operation": "height_from_color",
        "slots": {"second": Imported(source=OTHER)},
        **changes,
    }
    return with_surface().with_map(MapKind.HEIGHT, Derived(**way))


def seams(method: str, **more: Any) -> dict[str, Any]:
    return {"seams": Seams(method=method, **more)}


def light(**more: Any) -> dict[str, Any]:
    return {"light": EvenLight(**more)}


def frame(**more: Any) -> dict[str, Any]:
    return {"frame": FrameSpec(**more)}


PAIRS: list[tuple[str, MapKind, SetDefinition, SetDefinition]] = [
    ("source", MapKind.BASE_COLOR, made(), color(source=OTHER)),
    ("channels", MapKind.BASE_COLOR, made(), color(channels="R")),
    ("encoding", MapKind.BASE_COLOR, color(encoding=Encoding.SRGB),
     color(encoding=Encoding.LINEAR)),
    ("direction of green", MapKind.NORMAL, normal(normal_y=NormalY.UP),
     normal(normal_y=NormalY.DOWN)),
    ("a constant", MapKind.METALLIC, made(metallic=Constant(value=(0.0,))),
     made(metallic=Constant(value=(0.5,)))),
    ("a number", MapKind.HEIGHT, height(contrast=1.0), height(contrast=1.5)),
    ("a switch", MapKind.HEIGHT, height(invert=False), height(invert=True)),
    ("the operation", MapKind.ROUGHNESS, with_surface(),
     with_surface().with_map(MapKind.ROUGHNESS, Derived(operation="roughness_from_color"))),
    ("which borders meet", MapKind.HEIGHT, with_surface(wrap=False), with_surface(wrap=True)),
    ("borders one way", MapKind.HEIGHT, with_surface(wrap="across"), with_surface(wrap="down")),
    ("depth", MapKind.NORMAL, with_surface(depth=0.02), with_surface(depth=0.03)),
    ("tile size", MapKind.NORMAL, with_surface(depth=0.02), with_surface(depth=0.02, tile_size=2)),
    ("relief", MapKind.NORMAL, with_surface(relief=4), with_surface(relief=9)),
    ("corners", MapKind.BASE_COLOR, made(), prepared(**frame(corners=CORNERS))),
    ("aspect", MapKind.BASE_COLOR, prepared(**frame(corners=CORNERS, aspect=1.2)),
     prepared(**frame(corners=CORNERS, aspect=1.4))),
    ("turns", MapKind.BASE_COLOR, prepared(**frame(quarter_turns=1)),
     prepared(**frame(quarter_turns=3))),
    ("mirror", MapKind.BASE_COLOR, made(), prepared(**frame(mirror=True))),
    ("angle", MapKind.BASE_COLOR, prepared(**frame(angle=3)), prepared(**frame(angle=-3))),
    ("crop", MapKind.BASE_COLOR, prepared(**frame(crop=(0, 0, 0.5, 1))),
     prepared(**frame(crop=(0.5, 0, 1, 1)))),
    ("marks", MapKind.BASE_COLOR, prepared(marks=[MARK]), prepared(marks=[MOVED])),
    ("strength of the light", MapKind.BASE_COLOR, prepared(**light(strength=0.5)),
     prepared(**light(strength=0.9))),
    ("scale of the light", MapKind.BASE_COLOR, prepared(**light(scale=0.1)),
     prepared(**light(scale=0.2))),
    ("way of the seams", MapKind.BASE_COLOR, prepared(**seams("blend", overlap=(0.2, 0.2))),
     prepared(**seams("cut", overlap=(0.2, 0.2)))),
    ("size of the set", MapKind.BASE_COLOR, prepared(size=Size(longer_side=32)),
     prepared(size=Size(longer_side=16))),
    ("square", MapKind.BASE_COLOR, prepared(size=Size(longer_side=32)),
     prepared(size=Size(longer_side=32, square=True))),
    ("what fills a slot", MapKind.HEIGHT, mixed(),
     mixed(slots={"second": FromMap(kind=MapKind.METALLIC)})),
]  # fmt: skip


@pytest.mark.parametrize(
    ("kind", "one", "other"), [pair[1:] for pair in PAIRS], ids=[pair[0] for pair in PAIRS]
)
def test_what_a_result_depends_on_is_in_its_key(
    kind: MapKind, one: SetDefinition, other: SetDefinition
) -> None:
    keys = [plan(each, SIZES, wanted=[kind]).outputs[kind] for each in (one, other)]
    assert keys[0] != keys[1]


@pytest.mark.parametrize(
    ("one", "other"),
    [
        ({"longer_side": 32}, {"longer_side": 16}),
        ({"longer_side": 16}, {"longer_side": 16, "compute_side": 32}),
        ({"longer_side": 16}, {"longer_side": 16, "reduction": "nearest"}),
        ({"longer_side": 16}, {"longer_side": 16, "reduction": "appearance"}),
    ],
)
def test_sizes_and_ways_of_reducing_are_in_the_key(one: Any, other: Any) -> None:
    keys = [plan(made(), SIZES, **each).outputs[MapKind.ROUGHNESS] for each in (one, other)]
    assert keys[0] != keys[1]


def _next_operation(monkeypatch: pytest.MonkeyPatch) -> None:
    old = OPERATIONS["roughness_from_surface"]
    monkeypatch.setitem(OPERATIONS, old.name, replace(old, version=old.version + 1))


VERSIONS: dict[str, tuple[Callable[[pytest.MonkeyPatch], None], SetDefinition, MapKind]] = {
    "operation": (_next_operation, with_surface(), MapKind.ROUGHNESS),
    "import": (lambda m: m.setattr(planning, "_IMPORT_VERSION", 99), made(), MapKind.BASE_COLOR),
    "reduced": (lambda m: m.setattr(planning, "_REDUCED_VERSION", 99), made(), MapKind.HEIGHT),
    "depth": (lambda m: m.setattr(planning, "_DEPTH_VERSION", 99), with_surface(), MapKind.NORMAL),
    **{
        step: (
            lambda m, step=step: m.setitem(preparing._VERSIONS, step, 99),  # type: ignore[misc]
            prepared(marks=[MARK], light=EvenLight(), **frame(angle=2),
                     **seams("cut", overlap=(0.2, 0.2))),
            MapKind.BASE_COLOR,
        )
        for step in preparing._VERSIONS
    },
}  # fmt: skip


@pytest.mark.parametrize("what", VERSIONS)
def test_a_new_version_of_any_computation_gives_new_keys(
    what: str, monkeypatch: pytest.MonkeyPatch
) -> None:
    change, one, kind = VERSIONS[what]
    before = plan(one, SIZES, longer_side=32).outputs[kind]
    change(monkeypatch)
    assert plan(one, SIZES, longer_side=32).outputs[kind] != before


def test_what_no_result_depends_on_is_in_no_key() -> None:
    before = plan(made(), SIZES).outputs
    assert plan(made().model_copy(update={"name": "another"}), SIZES).outputs == before
    by_hand = prepared(**seams("gradient", by_measure=False))
    measured = prepared(**seams("gradient", by_measure=True))
    assert plan(by_hand, SIZES).outputs == plan(measured, SIZES).outputs
