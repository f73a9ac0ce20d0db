"""Edits of a set that are made on many alike."""

from __future__ import annotations

import pytest

from copper_sieve.core.errors import ParameterError
from copper_sieve.core.image.map_kind import MapKind, NormalY
from copper_sieve.core.models import set_edits
from copper_sieve.core.models.texture_set import (
    Constant,
    Derived,
    Imported,
    SetDefinition,
    compose,
)
from copper_sieve.core.operations import get_operation

COLOR = Imported(source="a" * 64)
NORMAL = Imported(source="b" * 64, normal_y=NormalY.DOWN)
HEIGHT = Imported(source="c" * 64, channels="R")


def a_set(name: str = "wall", **maps: Imported) -> SetDefinition:
    return compose(name, {MapKind(kind): one for kind, one in maps.items()} or {
        MapKind.BASE_COLOR: COLOR})  # fmt: skip


def test_names() -> None:
    one = a_set("Old_wall_old")
    assert set_edits.with_words_replaced(one, "OLD", "new").name == "new_wall_new"
    assert set_edits.with_words_replaced(one, "_old", "").name == "Old_wall"
    assert set_edits.with_words_replaced(one, ".", "x") is one  # no pattern: a dot is a dot
    assert set_edits.with_words_replaced(one, "wall", "w-1").name == "Old_w-1_old"
    with pytest.raises(ParameterError, match="a valid set name"):
        set_edits.with_words_replaced(one, "Old_wall", "")
    with pytest.raises(ParameterError, match="enter the text"):
        set_edits.with_words_replaced(one, "", "x")


def test_width_and_relief() -> None:
    for metres in (0.001, 1000):
        assert set_edits.with_width(a_set(), metres).surface.tile_size == metres
    one = set_edits.with_width(a_set(), 2.5)
    assert one.surface.tile_size == 2.5
    for metres in (0, 1001):
        with pytest.raises(ParameterError):
            set_edits.with_width(one, metres)
    deep = one.model_copy(update={"surface": one.surface.model_copy(update={"depth": 0.1})})
    tilted = set_edits.with_relief(deep, 12.0)
    assert (tilted.surface.relief, tilted.surface.depth, tilted.surface.tile_size) == (
        12,
        None,
        2.5,
    )


def test_a_constant_puts_the_way_before_on_the_shelf() -> None:
    one = a_set()
    before = one.maps[MapKind.ROUGHNESS]
    even = set_edits.with_constant(one, MapKind.ROUGHNESS, (0.3,))
    assert even.maps[MapKind.ROUGHNESS] == Constant(value=(0.3,))
    assert even.shelf[MapKind.ROUGHNESS] == (before,)
    assert set_edits.with_constant(even, MapKind.ROUGHNESS, (0.3,)) == even
    other = set_edits.with_constant(even, MapKind.ROUGHNESS, (0.4,))
    assert other.shelf[MapKind.ROUGHNESS] == (Constant(value=(0.3,)), before)
    back = set_edits.with_constant(other, MapKind.ROUGHNESS, (0.3,))
    assert back.shelf[MapKind.ROUGHNESS] == (Constant(value=(0.4,)), before)


def test_green_turns_wherever_a_normal_came_in() -> None:
    names = {slot.name for slot in get_operation("normal_from_picture").slots}
    filled = Derived(operation="normal_from_picture", slots=dict.fromkeys(names, NORMAL))
    one = SetDefinition(
        name="wall",
        maps={MapKind.BASE_COLOR: COLOR, MapKind.NORMAL: filled, MapKind.BENT_NORMAL: NORMAL},
        shelf={MapKind.NORMAL: (NORMAL,)},
    )
    turned = set_edits.with_green_turned(one)
    made = turned.maps[MapKind.NORMAL]
    assert isinstance(made, Derived)
    normals = {
        slot.name for slot in get_operation("normal_from_picture").slots
        if slot.takes in (MapKind.NORMAL, MapKind.BENT_NORMAL)
    }  # fmt: skip
    assert normals
    for name, filling in made.slots.items():
        assert isinstance(filling, Imported)
        assert filling.normal_y is (NormalY.UP if name in normals else NormalY.DOWN)
    bent = turned.maps[MapKind.BENT_NORMAL]
    assert isinstance(bent, Imported)
    assert bent.normal_y is NormalY.UP
    assert turned.maps[MapKind.BASE_COLOR] == COLOR
    assert set_edits.with_green_turned(turned) == one


def test_merging_brings_pictures_and_leaves_what_is_derived() -> None:
    into = a_set("wall", base_color=COLOR)
    other = a_set("wall_more", base_color=HEIGHT, normal=NORMAL)
    found = set_edits.merge_definitions(into, other)
    assert found.taken == (MapKind.NORMAL,)
    assert found.shelved == (MapKind.BASE_COLOR,)
    assert found.texture_set.maps[MapKind.NORMAL] == NORMAL
    assert found.texture_set.shelf[MapKind.NORMAL] == (into.maps[MapKind.NORMAL],)
    assert found.texture_set.maps[MapKind.BASE_COLOR] == COLOR
    assert found.texture_set.shelf[MapKind.BASE_COLOR] == (HEIGHT,)
    assert found.left[MapKind.ROUGHNESS] in ("derived", "unchanged")
    even = Constant(value=(0.2, 0.1, 0.0))
    lit = other.with_map(MapKind.EMISSIVE, even)
    assert set_edits.merge_definitions(into, lit).texture_set.maps[MapKind.EMISSIVE] == even
    own = into.with_map(MapKind.EMISSIVE, Constant(value=(0.0, 0.0, 0.0)))
    kept = set_edits.merge_definitions(own, lit)
    assert kept.left[MapKind.EMISSIVE] == "a constant"
    assert kept.texture_set.maps[MapKind.EMISSIVE] == own.maps[MapKind.EMISSIVE]
    again = set_edits.merge_definitions(found.texture_set, other)
    assert again.texture_set == found.texture_set
