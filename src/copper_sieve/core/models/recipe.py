"""Recipes: the derivation part of a set, to be applied to other sets; plain JSON."""

from __future__ import annotations

from collections.abc import Collection
from dataclasses import dataclass
from typing import Annotated, Literal

from pydantic import Field, model_validator

from copper_sieve.core.errors import ParameterError, RecipeError, UnknownOperationError
from copper_sieve.core.image.map_kind import MapKind
from copper_sieve.core.models.base import Model
from copper_sieve.core.models.relief import RELIEF, Relief
from copper_sieve.core.models.texture_set import (
    Constant,
    Derived,
    FromBlendedSet,
    FromMap,
    Imported,
    MapDefinition,
    SetDefinition,
    imported_in,
    is_measured,
)
from copper_sieve.core.operations import get_operation

RecipeName = Annotated[str, Field(pattern=r"^\S(.{0,78}\S)?$")]


class RecipeSurface(Model):
    """The part of the surface that a recipe sets; tiling belongs to the picture."""

    tile_size: float = Field(gt=0, le=1000)
    depth: float | None = Field(default=None, ge=0, le=100)
    relief: Relief = RELIEF


class Recipe(Model):
    """A recipe file, version 1. Required inputs of operations are filled by each set."""

    format: Literal["copper-sieve/recipe"] = "copper-sieve/recipe"
    version: Literal[1] = 1
    name: RecipeName
    surface: RecipeSurface | None = None
    maps: dict[MapKind, Annotated[Derived | Constant, Field(discriminator="how")]]

    @model_validator(mode="after")
    def _known(self) -> Recipe:
        try:
            for kind, definition in self.maps.items():
                SetDefinition(name="recipe", maps={kind: definition}).checked()
        except (ParameterError, UnknownOperationError) as error:
            raise ValueError(error.message) from error
        return self

    def sources(self) -> set[str]:
        """Return the SHA-256 of the pictures that the recipe contains."""
        return {file for d in self.maps.values() for one in imported_in(d) for file in one.files}


@dataclass(frozen=True, slots=True)
class Applied:
    """A set with a recipe applied: changed maps, and kept maps with the reason."""

    texture_set: SetDefinition
    changed: tuple[MapKind, ...]
    kept: dict[MapKind, str]


def recipe_of(texture_set: SetDefinition, name: str) -> Recipe:
    """Return the settings of a set that can be applied to others: its derived and constant maps.

    Pictures in required inputs belong to the set and are left out, as are blended maps.

    Raises
    ------
    RecipeError : if nothing is left
    """
    maps: dict[MapKind, Derived | Constant] = {}
    for kind, definition in texture_set.maps.items():
        if isinstance(definition, Derived):
            if any(isinstance(one, FromBlendedSet) for one in definition.slots.values()):
                continue  # the sets that this one is blended of are its own
            required = {s.name for s in get_operation(definition.operation).slots if s.required}
            kept = {
                slot: filling
                for slot, filling in definition.slots.items()
                if slot not in required or isinstance(filling, FromMap)
            }
            maps[kind] = definition.model_copy(update={"slots": kept})
        elif isinstance(definition, Constant):
            maps[kind] = definition
    if not maps:
        raise RecipeError(
            f"{texture_set.name}: all maps are imported or blended, so there are no settings "
            "to save"
        )
    surface = texture_set.surface
    return Recipe(
        name=name,
        surface=RecipeSurface(
            tile_size=surface.tile_size, depth=surface.depth, relief=surface.relief
        ),
        maps=maps,
    )


def apply_recipe(
    recipe: Recipe, texture_set: SetDefinition, *, known_sources: Collection[str] | None = None
) -> Applied:
    """Apply a recipe to a set; previous map definitions are kept as alternatives.

    Imported maps are kept, unless the recipe adjusts such a picture (a required input): then the
    map fills this input. Measured maps and maps whose inputs the set lacks are kept as well.
    Without a recipe's picture, the map is made without it.

    Parameters
    ----------
    recipe : settings
    texture_set : the set
    known_sources : SHA-256 of available pictures; None: all

    Returns
    -------
    Applied, the set and the reasons for kept maps
    """
    maps = dict(texture_set.maps)
    shelf = dict(texture_set.shelf)
    kept: dict[MapKind, str] = {}
    changed: list[MapKind] = []
    for kind, wanted in recipe.maps.items():
        present = maps.get(kind)
        if reason := _stays(wanted, present, texture_set):
            kept[kind] = reason
            continue
        definition, reason = _fitted(wanted, present, shelf.get(kind, ()), known_sources)
        if definition is None:
            kept[kind] = reason
            continue
        if definition == present:
            continue
        maps[kind] = definition
        if present is not None:
            others = [
                d for d in shelf.get(kind, ()) if _way(d) not in {_way(present), _way(definition)}
            ]
            if _way(present) != _way(definition):
                others.append(present)
            shelf[kind] = tuple(others)
        changed.append(kind)
        if reason:
            kept[kind] = reason
    _drop_unfed(maps, texture_set, changed, kept)
    surface = texture_set.surface
    if recipe.surface:
        surface = surface.model_copy(update=recipe.surface.model_dump())
    result = texture_set.model_copy(
        update={"maps": maps, "shelf": {k: v for k, v in shelf.items() if v}, "surface": surface}
    )
    return Applied(result, tuple(changed), kept)


def _stays(
    wanted: Derived | Constant, present: MapDefinition | None, texture_set: SetDefinition
) -> str:
    """Return why a map is kept instead of applying the recipe; "" if it isn't."""
    if is_measured(present) and not is_measured(wanted):
        return "it is measured from light captures"
    takes = get_operation(wanted.operation).takes_from if isinstance(wanted, Derived) else None
    if takes == "captures" and texture_set.captures is None:
        return "the set has no light captures"
    link = texture_set.model
    if takes in ("model", "high_poly") and link is None:
        return "the set has no linked model"
    if takes == "high_poly" and link is not None and link.high_poly is None:
        return "the set has no high-poly model"
    return ""


def _way(definition: MapDefinition) -> str:
    return definition.operation if isinstance(definition, Derived) else definition.how


def _fitted(
    wanted: Derived | Constant,
    present: MapDefinition | None,
    shelved: tuple[MapDefinition, ...],
    known_sources: Collection[str] | None,
) -> tuple[Derived | Constant | None, str]:
    """Return the recipe's definition with the set's own pictures, or None and the reason."""
    if isinstance(wanted, Constant):
        if isinstance(present, Imported):
            return None, "it is imported"
        return wanted, ""
    slots = dict(wanted.slots)
    missing = [
        name
        for name, filling in slots.items()
        if isinstance(filling, Imported)
        and known_sources is not None
        and filling.source not in known_sources
    ]
    for name in missing:
        del slots[name]
    required = [
        slot
        for slot in get_operation(wanted.operation).slots
        if slot.required and slot.name not in slots
    ]
    own = [one for d in (present, *shelved) if d is not None for one in imported_in(d)]
    for slot in required:
        if not own:
            return None, f"the set has no picture for {slot.label.lower()}"
        slots[slot.name] = own[0]
    if isinstance(present, Imported) and not required:
        return None, "it is imported"
    reason = (
        "the second picture of the recipe isn't available; the map is made without it"
        if missing
        else ""
    )
    return wanted.model_copy(update={"slots": slots}), reason


def _drop_unfed(
    maps: dict[MapKind, MapDefinition],
    before: SetDefinition,
    changed: list[MapKind],
    kept: dict[MapKind, str],
) -> None:
    """Revert maps that lack an input in this set or would depend on themselves."""
    while True:
        for kind in changed:
            reason = _unfed(maps, kind)
            if reason:
                changed.remove(kind)
                kept[kind] = reason
                if kind in before.maps:
                    maps[kind] = before.maps[kind]
                else:
                    del maps[kind]
                break
        else:
            return


def _inputs(definition: MapDefinition | None) -> list[MapKind]:
    if not isinstance(definition, Derived):
        return []
    filled = [one.kind for one in definition.slots.values() if isinstance(one, FromMap)]
    return [*get_operation(definition.operation).inputs, *filled]


def _unfed(maps: dict[MapKind, MapDefinition], kind: MapKind) -> str:
    seen: list[MapKind] = []
    waiting = _inputs(maps[kind])
    while waiting:
        one = waiting.pop()
        if one is kind:
            return "the map would depend on itself"
        if one not in maps:
            return f"the set has no {one} map"
        if one not in seen:
            seen.append(one)
            waiting += _inputs(maps[one])
    return ""
