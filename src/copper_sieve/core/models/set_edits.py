"""Edits of a set, for one or many sets; independent of storage.

Each returns a new definition, which is equal if nothing changes.
"""

from __future__ import annotations

import re
from dataclasses import dataclass

from copper_sieve.core.errors import ParameterError
from copper_sieve.core.image.map_kind import MapKind, Meaning, NormalY
from copper_sieve.core.models.texture_set import (
    NAME_RULE,
    Constant,
    Derived,
    Imported,
    MapDefinition,
    SetDefinition,
)
from copper_sieve.core.operations import get_operation
from copper_sieve.core.untrusted_paths import is_device_name


def with_name(texture_set: SetDefinition, name: str) -> SetDefinition:
    """Return the set with another name.

    Raises
    ------
    ParameterError : if the name is invalid
    """
    if not re.match(NAME_RULE, name) or is_device_name(name):
        raise ParameterError(
            f"{name!r} isn't a valid set name. Start with a letter or digit and use at most "
            "100 letters, digits, _ . and -; reserved device names such as CON aren't "
            "allowed"
        )
    return texture_set.model_copy(update={"name": name})


def with_words_replaced(texture_set: SetDefinition, find: str, into: str) -> SetDefinition:
    """Return the set with `find` replaced in its name, regardless of case.

    Raises
    ------
    ParameterError : if `find` is empty or the new name is invalid
    """
    if not find:
        raise ParameterError("enter the text to find")
    changed = re.sub(re.escape(find), lambda _: into, texture_set.name, flags=re.IGNORECASE)
    return texture_set if changed == texture_set.name else with_name(texture_set, changed)


def with_width(texture_set: SetDefinition, metres: float) -> SetDefinition:
    """Return the set with another width in meters; a manual depth is kept."""
    if not 0 < metres <= 1000:
        raise ParameterError("the surface width must be greater than 0 and at most 1000 meters")
    surface = texture_set.surface.model_copy(update={"tile_size": metres})
    return texture_set.model_copy(update={"surface": surface})


def with_relief(texture_set: SetDefinition, degrees: float) -> SetDefinition:
    """Set the mean slope of the relief; a manual depth is reset."""
    update = {"relief": degrees, "depth": None}
    surface = texture_set.surface.model_validate({**texture_set.surface.model_dump(), **update})
    return texture_set.model_copy(update={"surface": surface})


def with_constant(
    texture_set: SetDefinition, kind: MapKind, value: tuple[float, ...]
) -> SetDefinition:
    """Return the set with a constant map; the previous definition is kept as an alternative.

    Raises
    ------
    ParameterError : if the number of values is wrong
    """
    constant = Constant(value=value)
    return _with_way(texture_set, kind, constant).checked()


def _with_way(texture_set: SetDefinition, kind: MapKind, way: MapDefinition) -> SetDefinition:
    """Return a map with another definition; the previous one becomes an alternative."""
    before = texture_set.maps.get(kind)
    if before == way:
        return texture_set
    shelf = [one for one in texture_set.shelf.get(kind, ()) if one != way]
    if before is not None:
        shelf.insert(0, before)
    shelves = {**texture_set.shelf, kind: tuple(shelf)}
    return texture_set.model_copy(
        update={
            "maps": {**texture_set.maps, kind: way},
            "shelf": {one: ways for one, ways in shelves.items() if ways},
        }
    )


def with_green_turned(texture_set: SetDefinition) -> SetDefinition:
    """Switch every imported normal map of the set between Y+ and Y−.

    Includes alternatives and inputs of operations.
    """
    maps = {kind: _turned(kind, way) for kind, way in texture_set.maps.items()}
    shelf = {
        kind: tuple(_turned(kind, way) for way in ways) for kind, ways in texture_set.shelf.items()
    }
    return texture_set.model_copy(update={"maps": maps, "shelf": shelf})


def _turned(kind: MapKind, way: MapDefinition) -> MapDefinition:
    if isinstance(way, Imported) and kind.facts.meaning is Meaning.NORMAL:
        other = NormalY.DOWN if way.normal_y is NormalY.UP else NormalY.UP
        return way.model_copy(update={"normal_y": other})
    if isinstance(way, Derived):
        takes = {slot.name: slot.takes for slot in get_operation(way.operation, kind).slots}
        slots = {
            name: _turned(takes[name], filling) if isinstance(filling, Imported) else filling
            for name, filling in way.slots.items()
        }
        return way.model_copy(update={"slots": slots})
    return way


@dataclass(frozen=True, slots=True)
class MergeResult:
    """Two merged sets.

    taken : maps of the other set that are now used
    shelved : maps kept as alternatives, because the set has an imported one
    left : maps that weren't merged, with the reason
    """

    texture_set: SetDefinition
    taken: tuple[MapKind, ...]
    shelved: tuple[MapKind, ...]
    left: dict[MapKind, str]


def merge_definitions(into: SetDefinition, other: SetDefinition) -> MergeResult:
    """Add the imported and constant maps of another set to a set.

    An imported picture replaces a derived map. If the set has a own picture, the other one
    is kept as an alternative. Derived maps of the other set are left out.

    Parameters
    ----------
    into : the set to extend
    other : the set with further maps

    Returns
    -------
    MergeResult
    """
    out, taken, shelved = into, [], []
    left: dict[MapKind, str] = {}
    for kind, way in other.maps.items():
        present = out.maps.get(kind)
        if way == present:
            left[kind] = "unchanged"
        elif not _came_in(way) and not (isinstance(way, Constant) and present is None):
            left[kind] = "a constant" if isinstance(way, Constant) else "derived"
        elif present is None or not _came_in(present):
            out = _with_way(out, kind, way)
            taken.append(kind)
        else:
            shelf = (*(one for one in out.shelf.get(kind, ()) if one != way), way)
            out = out.model_copy(update={"shelf": {**out.shelf, kind: shelf}})
            shelved.append(kind)
    return MergeResult(out, tuple(taken), tuple(shelved), left)


def _came_in(way: MapDefinition) -> bool:
    """Return True if a map uses an own picture: imported, or adjusted by an operation."""
    if isinstance(way, Derived):
        return any(isinstance(one, Imported) for one in way.slots.values())
    return isinstance(way, Imported)
