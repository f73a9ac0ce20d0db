"""Sets, targets, names: what is accepted, what is refused and why."""

from __future__ import annotations

import json
from importlib import resources
from pathlib import Path

import pytest
from hypothesis import given
from hypothesis import strategies as st
from pydantic import ValidationError

from copper_sieve.core.detection.names import kind_from_name, normal_y_from_name
from copper_sieve.core.errors import NamePatternError, ParameterError, UnknownTargetError
from copper_sieve.core.export.export_plan import ExportPlan
from copper_sieve.core.export.planning import plan_export
from copper_sieve.core.image.map_kind import MapKind, NormalY
from copper_sieve.core.image.raster import Encoding
from copper_sieve.core.ingest.project_file import ProjectFile
from copper_sieve.core.models.assignment import Assignment, imports_of
from copper_sieve.core.models.base import Model
from copper_sieve.core.models.manifest import Manifest
from copper_sieve.core.models.naming import check_distinct, check_name, expand, slug
from copper_sieve.core.models.slot import Slot
from copper_sieve.core.models.source_card import SourceCard, offered_card
from copper_sieve.core.models.texture_set import Constant, Derived, Imported, SetDefinition, compose
from copper_sieve.core.targets.catalog import builtin_targets, get_target
from copper_sieve.core.targets.options import TargetOptions
from copper_sieve.core.targets.table import targets_table
from copper_sieve.core.targets.target_preset import FileSpec, SizeRule, TargetPreset

SHA = "ab" * 32


@pytest.mark.parametrize("target_id", ["orm-y-down", "gltf-metal-rough"])
def test_built_in_targets_survive_json(target_id: str) -> None:
    preset = get_target(target_id)
    assert TargetPreset.model_validate_json(preset.model_dump_json()) == preset


def test_the_orm_target_packs_as_its_name_says() -> None:
    packed = get_target("orm-y-down").files[1].channels
    assert [slot.map for slot in packed.values()] == [
        MapKind.AMBIENT_OCCLUSION,
        MapKind.ROUGHNESS,
        MapKind.METALLIC,
    ]
    assert get_target("orm-y-down").normal_y is NormalY.DOWN
    assert get_target("gltf-metal-rough").normal_y is NormalY.UP


def test_the_page_about_targets_is_made_from_them() -> None:
    page = Path(__file__).parents[2] / "docs" / "targets.md"
    assert page.read_text("utf-8") == targets_table()


def test_unknown_targets_are_answered_with_the_list() -> None:
    with pytest.raises(UnknownTargetError, match=r"Available: .*gltf-metal-rough, .*orm-y-down"):
        get_target("orm")
    assert list(builtin_targets()) == sorted(builtin_targets())


@pytest.mark.parametrize(
    ("name", "model"), [("manifest.v2.json", Manifest), ("project.v2.json", ProjectFile)]
)
def test_the_shipped_schemas_are_the_models_own(name: str, model: type[Model]) -> None:
    folder = resources.files("copper_sieve.core.models") / "schemas"
    shipped = json.loads((folder / name).read_text("utf-8"))
    assert shipped == model.model_json_schema()


@pytest.mark.parametrize(
    "slot",
    [
        {},
        {"map": "normal", "constant": 0.5},
        {"map": "roughness", "component": "r"},
        {"constant": 1.5},
        {"constant": 0.5, "changes": ["invert"]},
        {"constant": 0.5, "times": {"map": "ambient_occlusion"}},
        {"map": "roughness", "changes": ["sharpen"]},
        {"map": "roughness", "mapp": 1},
    ],
)
def test_slots_that_make_no_sense_are_refused(slot: dict) -> None:
    with pytest.raises(ValidationError):
        Slot.model_validate(slot)


def test_channels_are_put_in_order_and_gaps_refused() -> None:
    grey = {"map": "roughness"}
    base = {"name": "x", "format": "png", "encoding": "linear"}
    spec = FileSpec.model_validate({**base, "channels": {"B": grey, "R": grey, "G": grey}})
    assert list(spec.channels) == ["R", "G", "B"]
    with pytest.raises(ValidationError, match="R, or R G, or R G B, or R G B A"):
        FileSpec.model_validate({**base, "channels": {"R": grey, "A": grey}})


def test_a_photo_becomes_a_full_set() -> None:
    whole = compose("wall", {MapKind.BASE_COLOR: Imported(source=SHA)}).checked()
    how = {kind.value: definition.how for kind, definition in whole.maps.items()}
    assert how == {
        "base_color": "imported",
        "height": "derived",
        "normal": "derived",
        "ambient_occlusion": "derived",
        "roughness": "derived",
        "metallic": "constant",
    }
    assert SetDefinition.model_validate_json(whole.model_dump_json()) == whole


def test_glossiness_is_preferred_over_a_guess_from_color() -> None:
    photo, gloss = Imported(source=SHA), Imported(source="cd" * 32, channels="R")
    whole = compose("wall", {MapKind.BASE_COLOR: photo, MapKind.GLOSSINESS: gloss})
    rough = whole.maps[MapKind.ROUGHNESS]
    assert isinstance(rough, Derived)
    assert rough.operation == "roughness_from_glossiness"


@pytest.mark.parametrize(
    ("kind", "definition", "says"),
    [
        (MapKind.HEIGHT, Derived(operation="normal_from_height"), "makes normal, not height"),
        (MapKind.BASE_COLOR, Constant(value=(0.5,)), r"takes 3 number"),
        (
            MapKind.NORMAL,
            Derived(operation="normal_from_height", parameters={"strength": 99}),
            "0 to 8",
        ),
    ],
)
def test_sets_check_their_maps(kind: MapKind, definition: object, says: str) -> None:
    one = SetDefinition.model_validate({"name": "x", "maps": {kind: definition}})
    with pytest.raises(ParameterError, match=says):
        one.checked()


@pytest.mark.parametrize("value", [(), (float("nan"),), (0.1, 0.2, 0.3, 0.4)])
def test_constants_are_one_to_three_finite_numbers(value: tuple[float, ...]) -> None:
    with pytest.raises(ValidationError):
        Constant(value=value)


def test_patterns_are_filled() -> None:
    assert expand("T_{set}_{suffix}", {"set": "wall", "suffix": "N"}) == "T_wall_N"
    assert expand("{set}-{size}", {"set": "a b", "size": "512"}) == "a b-512"


@pytest.mark.parametrize(
    ("pattern", "says"),
    [("{sett}", "unknown variable {sett}"), ("{set", "brace"), ("a}b", "brace")],
)
def test_wrong_patterns_are_explained(pattern: str, says: str) -> None:
    with pytest.raises(NamePatternError, match=says):
        expand(pattern, {"set": "x"})


@pytest.mark.parametrize(
    ("name", "says"),
    [
        (".png", "empty"),
        ("a/b.png", "'/'"),
        ("a\\b.png", "which some systems don't allow"),
        ("a:b.png", "':'"),
        ("CON.png", "device"),
        ("lpt1.tga", "device"),
        ("wall.", "dot or a space"),
        ("ä" * 101 + ".png", "more than 200 bytes"),
    ],
)
def test_names_that_do_not_travel_are_refused_with_the_reason(name: str, says: str) -> None:
    with pytest.raises(NamePatternError, match=says):
        check_name(name)


def test_names_differ_by_more_than_case() -> None:
    check_distinct(["a.png", "b.png"])
    for names in (["a.png", "A.png"], ["a.png", "a.png"], ["Manifest.JSON"]):
        with pytest.raises(NamePatternError, match="two files would have the name"):
            check_distinct(names)


@given(st.text())
def test_any_text_gives_a_name_a_set_accepts(text: str) -> None:
    assert SetDefinition(name=slug(text), maps={}).name


@pytest.mark.parametrize(
    ("stem", "kind"),
    [
        ("brick_BaseColor", MapKind.BASE_COLOR),
        ("brick-albedo", MapKind.BASE_COLOR),
        ("brick_nor_dx_2k", MapKind.NORMAL),
        ("BrickNormalGL", MapKind.NORMAL),
        ("brick_N", MapKind.NORMAL),
        ("brick_1024_rough", MapKind.ROUGHNESS),
        ("brick_ambient_occlusion", MapKind.AMBIENT_OCCLUSION),
        ("brick disp", MapKind.HEIGHT),
        ("brick", None),
        ("normal", MapKind.NORMAL),
    ],
)
def test_kinds_from_names(stem: str, kind: MapKind | None) -> None:
    assert kind_from_name(stem) is kind


@pytest.mark.parametrize(
    ("stem", "direction"),
    [("a_nor_gl", NormalY.UP), ("aNormalDX", NormalY.DOWN), ("a_normal", None)],
)
def test_direction_from_names(stem: str, direction: NormalY | None) -> None:
    assert normal_y_from_name(stem) is direction


def test_a_color_beside_an_alpha_stays_one_map() -> None:
    """Specular color in RGB and glossiness in A, as glTF's extension packs them."""
    channels = dict.fromkeys("RGB", MapKind.SPECULAR_COLOR) | {"A": MapKind.GLOSSINESS}
    said = Assignment(set_name="a", map="packed", channels=channels)
    maps = imports_of(said, SHA, tuple("RGBA"), Encoding.SRGB, cut_out=True)
    assert maps[MapKind.SPECULAR_COLOR] == Imported(source=SHA, channels="RGB")
    assert maps[MapKind.GLOSSINESS].channels == "A"


def test_only_the_color_of_a_cut_out_brings_its_opacity() -> None:
    for kind in (MapKind.BASE_COLOR, MapKind.EMISSIVE):
        said = Assignment(set_name="a", map=kind)
        maps = imports_of(said, SHA, tuple("RGBA"), Encoding.SRGB, cut_out=True)
        assert (MapKind.OPACITY in maps) == (kind is MapKind.BASE_COLOR)


def test_a_card_is_offered_where_one_fits_best() -> None:
    marks = ("bc", "n", "r")
    full = SourceCard(name="full", marks={"bc": MapKind.BASE_COLOR, "n": MapKind.NORMAL,
                                          "r": MapKind.ROUGHNESS})  # fmt: skip
    most = SourceCard(name="most", marks={"bc": MapKind.BASE_COLOR, "n": MapKind.NORMAL})
    few = SourceCard(name="few", marks={"bc": MapKind.BASE_COLOR})
    assert offered_card(marks, [few, most, full]) is full
    assert offered_card(marks, [few, most]) is most
    assert offered_card(marks, [few]) is None
    twin = full.model_copy(update={"name": "twin"})
    assert offered_card(marks, [full, most, twin]) is None
    assert offered_card(marks, []) is None


@pytest.mark.parametrize(
    ("rule", "sides"),
    [
        ({}, {1000: 1000, 64: 64}),
        ({"mode": "fixed", "longer_side": 512}, {1000: 512, 64: 512}),
        ({"mode": "at_most", "longer_side": 512}, {1000: 512, 64: 64}),
        ({"mode": "power_of_two"}, {1000: 1024, 700: 512, 800: 1024, 64: 64, 1: 1}),
    ],
)
def test_the_size_of_the_files_follows_the_rule(rule: dict, sides: dict[int, int]) -> None:
    found = SizeRule.model_validate(rule)
    assert {side: found.side(side) for side in sides} == sides


def test_a_size_rule_says_how_long() -> None:
    with pytest.raises(ValidationError, match="requires longer_side"):
        SizeRule.model_validate({"mode": "at_most"})


def test_what_is_no_power_of_two_is_remarked_upon() -> None:
    texture_set = compose("wall", {MapKind.BASE_COLOR: Imported(source=SHA)})
    preset = get_target("orm-y-down").model_copy(update={"size": SizeRule(mode="power_of_two")})
    export = plan_export(preset, texture_set, {SHA: (1000, 600)})
    assert export.size == (1024, 614)
    assert any("614 texels isn't a power of two" in remark.text for remark in export.remarks)
    square = plan_export(preset, texture_set, {SHA: (1000, 1000)})
    assert not any("power of two" in remark.text for remark in square.remarks)


def test_an_encoding_that_its_maps_do_not_have_will_be_wrong() -> None:
    photo = compose("wall", {MapKind.BASE_COLOR: Imported(source="0" * 64)})
    sizes = {"0" * 64: (64, 64)}
    content = get_target("orm-y-down").model_dump(mode="json")
    for n, encoding, word in ((0, "linear", "is a data file but contains base color"),
                              (1, "srgb", "is an sRGB file but contains occlusion")):  # fmt: skip
        files = [dict(one) for one in content["files"]]
        files[n]["encoding"] = encoding
        export = plan_export(TargetPreset.model_validate({**content, "files": files}), photo, sizes)
        wrong = [remark.text for remark in export.remarks if remark.weight == "error"]
        assert any(word in text for text in wrong), export.remarks
    for target in builtin_targets().values():
        remarks = plan_export(target, photo, sizes).remarks
        assert not [remark for remark in remarks if remark.weight == "error"], target.id


def test_what_is_made_larger_than_it_came_in_is_told() -> None:
    photo = compose("wall", {MapKind.BASE_COLOR: Imported(source="0" * 64),
                             MapKind.ROUGHNESS: Imported(source="1" * 64)})  # fmt: skip
    sizes = {"0" * 64: (128, 128), "1" * 64: (32, 32)}
    texts = {one.text for one in plan_export(get_target("orm-y-down"), photo, sizes).remarks}
    assert "roughness is enlarged from 32 to 128 texels" in texts
    texts = {
        one.text
        for one in plan_export(get_target("orm-y-down"), photo, sizes, longer_side=512).remarks
    }
    assert "enlarged from the set's 128 to 512 texels" in texts


def test_warnings_name_their_cause_and_none_is_about_an_expected_gap() -> None:
    photo = compose("wall", {MapKind.BASE_COLOR: Imported(source=SHA)})
    cutout = photo.with_map(MapKind.OPACITY, Imported(source=SHA, channels="R"))
    preset, sizes = get_target("orm-y-down"), {SHA: (64, 64)}

    def causes(plan: ExportPlan) -> list[str]:
        return [one.cause for one in plan.remarks if one.weight == "warning"]

    assert causes(plan_export(preset, cutout, sizes)) == ["delivery.no_channel:opacity"]
    # A map whose file the user switched off needs no warning.
    mask = get_target("separate-png")
    off = TargetOptions(off=("opacity",))
    plan = plan_export(off.of(mask), cutout, sizes, switched_off=off.switched_off(mask))
    assert off.switched_off(mask) == {MapKind.OPACITY}
    assert causes(plan) == []
    assert causes(plan_export(off.of(mask), cutout, sizes)) == ["delivery.no_channel:opacity"]
    # Nor do the maps of the other workflow, which a target of one workflow never contains.
    shiny = photo.with_map(MapKind.SPECULAR_COLOR, Constant(value=(0.9, 0.5, 0.2)))
    assert causes(plan_export(preset, shiny, sizes)) == []
    # All maps that a set lacks are one message.
    (gaps,) = [one.text for one in plan_export(mask, photo, sizes).remarks if "lacks" in one.text]
    assert gaps.startswith("not written, because the set lacks the map: ")
    assert {"opacity", "detail mask"} <= set(gaps.partition(": ")[2].split(", "))
