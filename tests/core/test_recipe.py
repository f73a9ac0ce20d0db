"""Recipes: what they take from a set, and what they do to another one."""

from __future__ import annotations

import pytest
from pydantic import ValidationError

from copper_sieve.core.errors import PlanError, RecipeError
from copper_sieve.core.graph.plan import plan
from copper_sieve.core.image.map_kind import MapKind
from copper_sieve.core.models.recipe import Recipe, apply_recipe, recipe_of
from copper_sieve.core.models.texture_set import (
    Constant,
    Derived,
    FromMap,
    Imported,
    SetDefinition,
    SurfaceSpec,
    compose,
)

A, B, C = ("a" * 64, "b" * 64, "c" * 64)
STRONG = Derived(operation="height_from_color", parameters={"contrast": 2.0})


def photo_set(sha: str, **maps: Imported | Derived | Constant) -> SetDefinition:
    made = compose("wall", {MapKind.BASE_COLOR: Imported(source=sha)})
    for kind, definition in maps.items():
        made = made.with_map(MapKind(kind), definition)
    return made


def test_a_recipe_holds_what_is_derived_and_constant() -> None:
    source = photo_set(A, height=STRONG).model_copy(
        update={"surface": SurfaceSpec(tile_size=2, depth=0.1, wrap=True)}
    )
    recipe = recipe_of(source, "Rough stone")
    assert list(recipe.maps) == [kind for kind in source.maps if kind != "base_color"]
    again = Recipe.model_validate_json(recipe.model_dump_json())
    assert again == recipe
    applied = apply_recipe(again, photo_set(B))
    assert applied.changed == (MapKind.HEIGHT,)
    assert applied.texture_set.maps[MapKind.HEIGHT] == STRONG
    assert applied.texture_set.maps[MapKind.BASE_COLOR] == Imported(source=B)
    surface = applied.texture_set.surface
    assert (surface.tile_size, surface.depth, surface.wrap) == (2, 0.1, False)


def test_maps_that_came_in_stay_and_the_reason_is_given() -> None:
    own = Imported(source=C, channels="R")
    applied = apply_recipe(recipe_of(photo_set(A), "r"), photo_set(B, roughness=own))
    assert applied.texture_set.maps[MapKind.ROUGHNESS] == own
    assert applied.kept == {MapKind.ROUGHNESS: "it is imported"}


def test_a_required_slot_is_filled_by_the_set_s_own_picture() -> None:
    lit = Derived(operation="base_color_from_photo", parameters={"evenness": 0.5},
                  slots={"photo": Imported(source=A)})  # fmt: skip
    recipe = recipe_of(photo_set(A, base_color=lit), "even")
    assert recipe.sources() == set()
    applied = apply_recipe(recipe, photo_set(B))
    made = applied.texture_set.maps[MapKind.BASE_COLOR]
    assert isinstance(made, Derived)
    assert made.slots == {"photo": Imported(source=B)}
    assert applied.texture_set.shelf[MapKind.BASE_COLOR] == (Imported(source=B),)
    # Applied again to its own result it changes nothing.
    assert apply_recipe(recipe, applied.texture_set).changed == ()


def test_a_mixed_in_picture_goes_along_where_it_is_known() -> None:
    mixed = Derived(operation="normal_from_height", parameters={"weight": 0.2},
                    slots={"second": Imported(source=C)})  # fmt: skip
    recipe = recipe_of(photo_set(A, normal=mixed), "bumps")
    assert recipe.sources() == {C}
    there = apply_recipe(recipe, photo_set(B), known_sources={B, C})
    assert there.texture_set.maps[MapKind.NORMAL] == mixed
    gone = apply_recipe(recipe, photo_set(B), known_sources={B})
    made = gone.texture_set.maps[MapKind.NORMAL]
    assert isinstance(made, Derived)
    assert (made.slots, made.parameters) == ({}, {"weight": 0.2})
    assert "isn't available" in gone.kept[MapKind.NORMAL]


def test_nothing_is_left_without_inputs_or_in_a_circle() -> None:
    mask = Derived(operation="mask_1_from_range", slots={"map": FromMap(kind=MapKind.CAVITY)})
    cavity = Derived(operation="cavity_from_height")
    recipe = recipe_of(photo_set(A, cavity=cavity, mask_1=mask), "r")
    without_height = SetDefinition(name="x", maps={MapKind.ROUGHNESS: Constant(value=(0.5,))})
    applied = apply_recipe(recipe, without_height)
    assert set(applied.texture_set.maps) == {MapKind.ROUGHNESS, MapKind.METALLIC}
    assert applied.kept[MapKind.MASK_1] == "the set has no cavity map"
    # Here height comes from the normals: taking the recipe's normal from height would be a circle.
    circular = Recipe(name="c", maps={MapKind.NORMAL: Derived(operation="normal_from_height")})
    normal_first = SetDefinition(name="y", maps={
        MapKind.NORMAL: Constant(value=(0, 0, 1)),
        MapKind.HEIGHT: Derived(operation="height_from_normal"),
    })  # fmt: skip
    kept = apply_recipe(circular, normal_first)
    assert kept.kept == {MapKind.NORMAL: "the map would depend on itself"}
    plan(kept.texture_set, {})


def test_recipes_that_make_no_sense_are_refused() -> None:
    only = SetDefinition(name="x", maps={MapKind.BASE_COLOR: Imported(source=A)})
    with pytest.raises(RecipeError, match="all maps are imported or blended"):
        recipe_of(only, "r")
    good = recipe_of(photo_set(A), "r").model_dump(mode="json")
    for change, says in (
        ({"version": 2}, "version"),
        ({"name": " "}, "name"),
        ({"maps": {"height": {"how": "imported", "source": A}}}, "imported"),
        ({"maps": {"height": {"how": "derived", "operation": "sparkle"}}}, "no operation sparkle"),
        ({"maps": {"height": {"how": "derived", "operation": "normal_from_height"}}}, "makes"),
        ({"brand": 1}, "brand"),
    ):
        with pytest.raises(ValidationError, match=says):
            Recipe.model_validate({**good, **change})


def test_slots_are_planned_and_missing_ones_named() -> None:
    blend = Derived(operation="normal_from_height", slots={"second": Imported(source=C)})
    sizes = {A: (64, 32), C: (16, 16)}
    made = photo_set(A, normal=blend)
    assert made.sources() == {A, C}
    graph = plan(made, sizes, wanted=[MapKind.NORMAL])
    assert {n.size for n in graph.nodes.values() if not n.measures} == {
        (64, 32)
    }  # the base color's size
    plain = plan(photo_set(A), sizes, wanted=[MapKind.NORMAL])
    assert graph.outputs[MapKind.NORMAL] != plain.outputs[MapKind.NORMAL]
    unfilled = photo_set(A, opacity=Derived(operation="opacity_from_picture"))
    with pytest.raises(PlanError, match="opacity by opacity_from_picture requires cutout mask"):
        plan(unfilled, sizes)
    circle = photo_set(A, height=Derived(
        operation="height_from_color", slots={"mask": FromMap(kind=MapKind.NORMAL)}
    ))  # fmt: skip
    with pytest.raises(PlanError, match="in a cycle: height -> normal -> height"):
        plan(circle, sizes)
