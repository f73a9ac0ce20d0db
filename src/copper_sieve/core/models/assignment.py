"""Assignment of an imported file: set, map kind, channels, green direction.

A detected value is overridden by a source card, which is overridden by the user.
"""

from __future__ import annotations

from collections.abc import Collection, Mapping
from typing import Literal

from pydantic import Field

from copper_sieve.core.detection.classify import Recognition, stated_green_direction
from copper_sieve.core.detection.names import NameReading
from copper_sieve.core.image.map_kind import MapKind, Meaning, NormalY
from copper_sieve.core.image.raster import Encoding
from copper_sieve.core.image.tile_layout import LAST_TILE
from copper_sieve.core.models.base import Model
from copper_sieve.core.models.naming import slug
from copper_sieve.core.models.relief import Relief
from copper_sieve.core.models.source_card import SourceCard
from copper_sieve.core.models.texture_set import Imported

Sorted = MapKind | Literal["packed", "none"]
Channels = dict[str, MapKind | None]


class Assignment(Model):
    """Assignment of one file. "none" skips it; `channels` applies to packed files only.

    tile : UV tile of the set; None: not a tile
    two_channels : for a normal map, whose z is computed
    relief : mean slope in degrees of a set created from it; None: default
    """

    set_name: str
    map: Sorted
    channels: Channels = Field(default_factory=dict)
    normal_y: NormalY | None = None
    two_channels: bool = False
    relief: Relief | None = None
    tile: int | None = None


class AssignmentChange(Model):
    """Corrections by the user; None keeps the detected value.

    channels : only corrected ones; None as value: unused
    tile : 0: not a tile
    """

    set_name: str | None = Field(default=None, min_length=1, max_length=100)
    map: Sorted | None = None
    channels: Channels | None = None
    normal_y: NormalY | None = None
    relief: Relief | None = None
    tile: int | None = Field(default=None, ge=0, le=LAST_TILE)

    def over(self, earlier: AssignmentChange) -> AssignmentChange:
        """Merge this change with an earlier one."""
        return earlier.model_copy(update=_said(self, earlier.channels or {}))


def _said(change: AssignmentChange, channels: Channels) -> dict[str, object]:
    """Return the fields that a change sets; channels are merged with the others."""
    update: dict[str, object] = {
        name: getattr(change, name)
        for name in ("set_name", "map", "normal_y", "relief", "tile")
        if getattr(change, name) is not None
    }
    if change.channels is not None:
        update["channels"] = {**channels, **change.channels}
    return update


def assignment_of_content(
    found: Recognition, name_of_folder: str = "", *, tile: int | None = None
) -> Assignment:
    """Return the assignment of a file from its detection result.

    A file named only by its map kind belongs to the set of its folder.

    Parameters
    ----------
    found : detection result
    name_of_folder : name of the folder, or ""
    tile : tile number, from the names of the other files; None: a number is part of the set's name

    Returns
    -------
    Assignment
    """
    return Assignment(
        set_name=set_of(found, name_of_folder, with_number=tile is None),
        tile=tile,
        map="packed" if found.channels else found.kind or "none",
        channels={one.name: one.kind for one in found.channels},
        two_channels=found.two_channels,
        normal_y=stated_green_direction(found) or (NormalY.UP if found.flat else None),
    )


def guessed_by_name(
    read: NameReading, name_of_folder: str = "", *, tile: int | None = None
) -> Assignment:
    """Return the assignment from the file name alone; see `assignment_of_content`."""
    kind = read.kind or ("packed" if read.packed is not None else "none")
    name = set_of(read, name_of_folder, with_number=tile is None)
    return Assignment(set_name=name, map=kind, tile=tile)


def set_of(
    found: Recognition | NameReading, name_of_folder: str, *, with_number: bool = True
) -> str:
    """Return the set name of a single file.

    Parameters
    ----------
    found : detection result
    name_of_folder : name of the folder, or ""
    with_number : keep a number that may be a tile number
    """
    alone = found.mark and found.stem.lower() == found.mark
    stem = name_of_folder if alone and name_of_folder else found.stem
    return slug(f"{stem}_{found.tile}" if found.tile and with_number else stem)


_SURE = 0.9  # of a name: no other file makes another thing of it


def resolve_with_siblings(
    whole: str, assignment: Assignment, mark: str, confidence: float, stems: Mapping[str, str]
) -> tuple[Assignment, str]:
    """Improve an assignment with the names of the other files.

    "rusty_metal" isn't a metallic map if there is "rusty_metal_n"; "ladle_shine" belongs to "ladle"
    if there is "ladle_n", even though "shine" is unknown.

    Parameters
    ----------
    whole : file name without extension
    assignment : from the file alone
    mark : words of the name that state the map kind
    confidence : of the map kind, 0 to 1
    stems : set names of the other files, lower case to original case

    Returns
    -------
    Assignment, mark
    """
    lower = whole.lower()
    if mark:
        if confidence < _SURE and lower in stems:
            update = {"set_name": whole, "map": MapKind.BASE_COLOR}
            return assignment.model_copy(update=update), ""
        return assignment, mark
    for stem in sorted(stems, key=len, reverse=True):
        rest = lower[len(stem) :]
        if lower.startswith(stem) and rest[:1] in ("_", "-", ".") and not rest[1:].isdigit():
            return assignment.model_copy(update={"set_name": stems[stem]}), rest[1:]
    return assignment, ""


# What maps are, read as those of a set in the specular workflow.
AS_SPECULAR: dict[Sorted, MapKind] = {
    MapKind.BASE_COLOR: MapKind.DIFFUSE,
    MapKind.SPECULAR_LEVEL: MapKind.SPECULAR_COLOR,
}


def is_specular_set(kinds: Collection[object]) -> bool:
    """Return True for maps of the specular workflow.

    They contain a specular color and no metallic map, or a gray specular map with glossiness.
    """
    if MapKind.METALLIC in kinds:
        return False
    return MapKind.SPECULAR_COLOR in kinds or (
        MapKind.SPECULAR_LEVEL in kinds and MapKind.GLOSSINESS in kinds
    )


def with_card(assignment: Assignment, mark: str, card: SourceCard) -> Assignment:
    """Apply the interpretation, green direction and relief that a source card states."""
    update: dict[str, object] = {}
    if mark in card.packed:
        update |= {"map": "packed", "channels": card.packed[mark]}
    elif mark in card.marks:
        update |= {"map": card.marks[mark], "channels": {}}
    kind = update.get("map", assignment.map)
    if kind is MapKind.NORMAL and card.normal_y:
        update["normal_y"] = card.normal_y
    if card.relief is not None:
        update["relief"] = card.relief
    return assignment.model_copy(update=update)


def with_change(assignment: Assignment, change: AssignmentChange) -> Assignment:
    """Apply the user's corrections."""
    update = _said(change, assignment.channels)
    if "set_name" in update:
        update["set_name"] = slug(str(update["set_name"]))
    if change.tile == 0:
        update["tile"] = None
        if assignment.tile:  # reset to the name's set
            update.setdefault("set_name", f"{assignment.set_name}_{assignment.tile}")
    elif change.tile and not assignment.tile:  # its number is no more its set's
        alone = assignment.set_name.removesuffix(f"_{change.tile}")
        update.setdefault("set_name", alone)
    return assignment.model_copy(update=update)


def card_from_corrections(card: SourceCard, assignment: Assignment, mark: str) -> SourceCard:
    """Return the card extended by the corrections of one file."""
    update: dict[str, object] = {}
    if assignment.map is MapKind.NORMAL and assignment.normal_y:
        update["normal_y"] = assignment.normal_y
    if assignment.relief is not None:
        update["relief"] = assignment.relief
    if mark and assignment.map == "packed":
        update["packed"] = {**card.packed, mark: assignment.channels}
    elif mark and assignment.map != "none":
        update["marks"] = {**card.marks, mark: assignment.map}
    return card.model_copy(update=update)


def imports_of(
    assignment: Assignment,
    sha256: str,
    names: tuple[str, ...],
    encoding: Encoding,
    *,
    cut_out: bool,
) -> dict[MapKind, Imported]:
    """Return the maps that a file contributes to a set.

    Parameters
    ----------
    assignment : map kind, channels and green direction
    sha256 : of the file
    names : channel names of the file
    encoding : color encoding of the file
    cut_out : True if alpha contains transparent areas; a color then also gives opacity

    Returns
    -------
    dict of MapKind to Imported
    """
    if assignment.map == "none":
        return {}
    if assignment.map == "packed":
        held = assignment.channels
        maps = {
            kind: Imported(source=sha256, channels=name, encoding=Encoding.LINEAR)
            for name, kind in held.items()
            if kind is not None
        }
        for kind in maps:
            if kind.facts.planar:
                both = "".join(name for name, one in held.items() if one is kind)
                maps[kind] = Imported(source=sha256, channels=both, encoding=Encoding.LINEAR)
        whole = held.get("R")
        if whole in maps and held.get("G") is held.get("B") is whole:  # a color and its alpha
            maps[whole] = Imported(source=sha256, channels="RGB", encoding=encoding)
        return maps
    kind = MapKind(assignment.map)
    if kind is MapKind.OPACITY and cut_out:
        return {kind: Imported(source=sha256, channels="A")}
    color = kind.facts.meaning is Meaning.COLOR
    maps = {
        kind: Imported(
            source=sha256,
            channels=_channels(assignment, names),
            encoding=encoding if color else Encoding.LINEAR,
            normal_y=assignment.normal_y or NormalY.UP,
        )
    }
    if kind is MapKind.BASE_COLOR and cut_out:
        maps[MapKind.OPACITY] = Imported(source=sha256, channels="A")
    return maps


def _channels(assignment: Assignment, names: tuple[str, ...]) -> str:
    if names[0] == "Y":
        return "R"
    kind = MapKind.of(assignment.map or "")
    planar = kind is not None and kind.facts.planar
    two = planar or (assignment.two_channels and kind is MapKind.NORMAL)
    return "RG" if two else "RGB"
