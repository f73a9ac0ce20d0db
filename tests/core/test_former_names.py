"""Data of the previous version is read by its former names."""

import pytest

from copper_sieve.core.image.map_kind import MapKind
from copper_sieve.core.models.finding import FORMER_RULES, TITLES, present_key
from copper_sieve.core.models.manifest import Manifest
from copper_sieve.core.models.recipe import Recipe
from copper_sieve.core.models.texture_set import SetDefinition
from copper_sieve.core.operations import OPERATIONS, former_names, get_operation

SHA = [f"{n:064x}" for n in range(6)]
LAMP = {"around": 8.5, "up": 42.0, "distance": None, "strength": 1.2}
CAPTURES = {
    "shots": [
        {"source": sha, "lamp": LAMP, "told": told, "placement": {"right": 0.1, "turn": 2.0}}
        for sha, told in zip(SHA, ("ball", "fit", "guess", "hand"), strict=False)
    ],
    "mirrors": 0.05,
    "grey": {"x": 0.2, "y": 0.3, "reflects": 0.18},
    "paper": SHA[5],
}
DEFINITION = {
    "name": "bed",
    "maps": {
        "normal": {
            "how": "derived", "operation": "normal_from_shots", "parameters": {"guessed": 0.2},
        },
        "doubt": {
            "how": "derived", "operation": "doubt_from_shots", "parameters": {"about": "normals"},
        },
        "height": {
            "how": "derived", "operation": "height_from_normal",
            "parameters": {"fit": False, "mix_by": "highest"},
            "slots": {"mixed_in": {"how": "map", "kind": "doubt"}},
        },
        "mask_1": {
            "how": "derived", "operation": "mask_1_from_model_facing",
            "parameters": {"way": "left", "from_share": 0.4, "detailed": False},
        },
    },
    "model": {"source": SHA[4], "detailed": SHA[3], "by_name": True, "same_uvs": False},
    "shots": CAPTURES,
}  # fmt: skip


def test_a_stored_set_is_read_and_written_with_present_names() -> None:
    found = SetDefinition.model_validate(DEFINITION)
    found.checked()
    assert found == SetDefinition.model_validate(found.model_dump(mode="json"))
    text = found.model_dump_json()
    for former in ("shots", "doubt", "mirrors", "paper", "around", "detailed", "mixed_in", "fit"):
        assert f'"{former}"' not in text, former
    assert found.captures is not None
    first, *_, last = found.captures.captures
    assert (first.lamp.azimuth, first.lamp.elevation, first.lamp.intensity) == (8.5, 42.0, 1.2)
    assert [one.light_origin for one in found.captures.captures] == [
        "ball", "refined", "estimated", "manual",
    ]  # fmt: skip
    assert last.placement.rotation == 2.0
    assert (found.captures.f0, found.captures.flat_field) == (0.05, SHA[5])
    assert found.captures.gray_card is not None and found.captures.gray_card.reflectance == 0.18
    height = found.maps[MapKind.HEIGHT].model_dump(mode="json")
    assert height["parameters"] == {"full_range": False, "blend_mode": "max"}
    assert height["slots"]["second"] == {"how": "map", "kind": "uncertainty"}
    assert found.model is not None and found.model.high_poly == SHA[3]


def test_a_recipe_and_a_manifest_are_read() -> None:
    maps = {"base_color": {"how": "derived", "operation": "base_color_from_photo",
                           "parameters": {"evenness": 0.4, "glints": 0.1}}}  # fmt: skip
    recipe = Recipe.model_validate({"name": "even", "surface": {"tile_size": 1.0}, "maps": maps})
    assert recipe.maps[MapKind.BASE_COLOR].model_dump()["parameters"] == {
        "delight": 0.4, "highlights": 0.1,
    }  # fmt: skip
    assert Manifest.former_names == {"shots": "captures"}


def test_every_former_name_leads_to_a_present_one_and_hides_none() -> None:
    names = {p.name for one in OPERATIONS.values() for p in one.parameters}
    inputs = {slot.name for one in OPERATIONS.values() for slot in one.slots}
    choices = {
        (p.name, choice) for one in OPERATIONS.values() for p in one.parameters
        for choice in p.choices
    }  # fmt: skip
    assert set(former_names._PARAMETERS.values()) <= names
    assert not set(former_names._PARAMETERS) & names
    assert set(former_names._OPERATIONS.values()) <= set(OPERATIONS)
    assert not set(former_names._OPERATIONS) & set(OPERATIONS)
    for name in OPERATIONS:
        assert former_names.current_operation(name) == name
    assert set(former_names._INPUTS.values()) <= inputs
    for (name, former), present in former_names._CHOICES.items():
        assert (name, present) in choices
        assert (name, former) not in choices


@pytest.mark.parametrize(
    ("former", "present"),
    [
        ("base_color_from_parts", "value_from_parts"),
        ("doubt_from_parts", "value_from_parts"),
        ("mask_3_from_parts", "value_from_parts"),
        ("bent_normal_from_parts", "normal_from_parts"),
        ("height_from_parts", "height_from_parts"),
        ("emissive_strength_from_range", "value_from_range"),
        ("mask_2_from_part_heights", "mask_from_part_heights"),
        ("detail_mask_from_model_facing", "mask_from_model_facing"),
        ("mask_4_from_model_names", "mask_from_model_names"),
    ],
)
def test_operations_that_were_registered_for_each_kind_are_one(former: str, present: str) -> None:
    assert get_operation(former) is OPERATIONS[present]


@pytest.mark.parametrize("name", ["doubt_from_shots", "uncertainty_from_captures"])
def test_an_operation_answers_to_both_names(name: str) -> None:
    assert get_operation(name).output is MapKind.UNCERTAINTY
    assert MapKind("doubt") is MapKind.UNCERTAINTY
    with pytest.raises(ValueError, match="not a valid MapKind"):
        MapKind("doubts")


def test_ignored_findings_keep_their_rule() -> None:
    assert present_key("green_turned:normal") == "green_direction:normal"
    assert present_key("mixed:doubt") == "mixed_green:uncertainty"
    assert present_key("delivery.no_channel:height") == "delivery.no_channel:height"
    assert set(FORMER_RULES.values()) <= set(TITLES)
    assert not set(FORMER_RULES) & set(TITLES)
