"""Readings of a photo: what each changes, which one a set is already, and where there are none."""

from __future__ import annotations

import pytest

from copper_sieve.core.errors import RecipeError
from copper_sieve.core.image.map_kind import MapKind
from copper_sieve.core.models.interpretations import LIT_SHARE, interpretations_of
from copper_sieve.core.models.texture_set import Derived, Imported, SetDefinition, SurfaceSpec

_PHOTO = Imported(source="0" * 64, channels="RGB")


def _set(**surface: float) -> SetDefinition:
    return SetDefinition(
        name="wall",
        surface=SurfaceSpec(**surface),
        maps={
            MapKind.BASE_COLOR: _PHOTO,
            MapKind.HEIGHT: Derived(operation="height_from_color", parameters={"contrast": 1.4}),
            MapKind.NORMAL: Derived(operation="normal_from_height"),
        },
    )


def test_reliefs_are_words_and_the_depth_is_measured_again() -> None:
    found = interpretations_of(_set(depth=0.3), "relief", None)
    assert [one.name for one in found] == ["low", "medium", "high", "very high"]
    assert [one.texture_set.surface.relief for one in found] == [4, 9, 18, 28]
    assert {one.texture_set.surface.depth for one in found} == {None}
    assert not any(one.current for one in found)
    same = interpretations_of(_set(relief=9), "relief", None)
    assert [one.current for one in same] == [False, True, False, False]
    # What else the set is made by stays.
    assert found[0].texture_set.maps == _set().maps


def test_light_from_one_side_is_read_both_ways_and_not_at_all() -> None:
    assert interpretations_of(_set(), "relief", 30)[-1].name == "light from 30°"
    even, here, there = interpretations_of(_set(), "light", 30)
    assert (even.current, here.current, there.current) == (True, False, False)
    height = there.texture_set.maps[MapKind.HEIGHT]
    assert isinstance(height, Derived)
    assert height.parameters == {"contrast": 1.4, "shading": LIT_SHARE, "light_direction": 210.0}
    again = interpretations_of(there.texture_set, "light", 30)
    assert [one.current for one in again] == [False, False, True]


def test_inside_out_is_a_reading() -> None:
    upright, inverted_relief = interpretations_of(_set(), "invert", None)
    assert (upright.current, inverted_relief.current) == (True, False)
    height = inverted_relief.texture_set.maps[MapKind.HEIGHT]
    assert isinstance(height, Derived)
    assert height.parameters["invert"] is True


def test_where_there_is_nothing_to_read_it_is_said() -> None:
    came = _set().model_copy(update={"maps": {**_set().maps, MapKind.NORMAL: _PHOTO}})
    with pytest.raises(RecipeError, match="the imported normal map determines"):
        interpretations_of(came, "relief", None)
    with pytest.raises(RecipeError, match="no light direction was detected"):
        interpretations_of(_set(), "light", None)
    flat = SetDefinition(name="flat", maps={MapKind.BASE_COLOR: _PHOTO})
    with pytest.raises(RecipeError, match="no height"):
        interpretations_of(flat, "relief", None)
    with pytest.raises(RecipeError, match="derived from the color of a photo"):
        interpretations_of(flat, "invert", None)
