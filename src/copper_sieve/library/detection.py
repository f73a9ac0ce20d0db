"""Detect the map kinds of a set's files from names, content and a source card."""

from __future__ import annotations

from collections.abc import Mapping, Sequence
from dataclasses import dataclass, replace
from pathlib import Path

from copper_sieve.core.detection.classify import Recognition
from copper_sieve.core.errors import PlanError
from copper_sieve.core.image.map_kind import MapKind, NormalY
from copper_sieve.core.models.assignment import (
    AS_SPECULAR,
    Assignment,
    assignment_of_content,
    imports_of,
    is_specular_set,
    resolve_with_siblings,
    with_card,
)
from copper_sieve.core.models.naming import slug
from copper_sieve.core.models.origin import Origin
from copper_sieve.core.models.source_card import SourceCard, offered_card
from copper_sieve.core.models.texture_set import Imported, SetDefinition, compose
from copper_sieve.core.models.tile_numbers import Numbered, group_tiles, tiles_among
from copper_sieve.library.arguments import normal_y_of
from copper_sieve.library.importing import WrapChoice, surface_of
from copper_sieve.library.sources import LocalSources, Note

# minimum confidence to detect the type of a lone file by its content; below, it is a photo
_LEAST_SURE = 0.6


@dataclass(frozen=True, slots=True)
class RecognizedFiles:
    """Detected maps of a set.

    Attributes
    ----------
    name : name of the set
    imported : source of each map
    files : path of each map
    card : source card that was applied, or None
    notes : skipped files, with the reason
    """

    name: str
    imported: dict[MapKind, Imported]
    files: dict[MapKind, Path]
    card: SourceCard | None
    notes: tuple[Note, ...]


@dataclass(frozen=True, slots=True)
class _One:
    path: Path
    found: Recognition
    assignment: Assignment
    mark: str

    @property
    def numbered(self) -> Numbered:
        """As far as it may be a tile."""
        return Numbered.of(self.path.stem, self.path.parent.name, self.found)


def detect_files(
    paths: Sequence[Path],
    sources: LocalSources,
    cards: Sequence[SourceCard] = (),
    normal_y: NormalY | None = None,
) -> RecognizedFiles:
    """Read the files of a set and detect their map kinds.

    Parameters
    ----------
    paths : sequence of Path, files of one set
    sources : LocalSources, receives the files
    cards : sequence of SourceCard, optional, the card that matches the file names determines the
        map kinds
    normal_y : NormalY, optional, green direction of normal maps. Default: from the card, else
        measured, and noted

    Returns
    -------
    RecognizedFiles

    Raises
    ------
    PictureError : if a file can't be read
    PlanError : if no file has a known map kind, or two files are the same map
    """
    ones = _by_their_names([_read(path, sources) for path in paths])
    card = offered_card([one.mark for one in ones if one.mark], cards)
    if card:
        ones = [replace(one, assignment=with_card(one.assignment, one.mark, card)) for one in ones]
    ones = _by_their_kinds(ones)
    files: dict[tuple[MapKind, int | None], Path] = {}
    all_given, notes = [], []
    for one in ones:
        given = _imports(one, sources, normal_y, known=bool(card and card.normal_y))
        if not given:
            notes.append(Note(f"{one.path.name}: the map type is unknown; skipped"))
        tile = one.assignment.tile
        all_given.append((given, tile))
        for kind in given:
            if other := _in_the_way(files, kind, tile):
                raise PlanError(
                    f"{one.path.name}: {other.name} is used as the {kind} map already. Give "
                    "only one"
                )
            files[kind, tile] = one.path
    imported = group_tiles(all_given)
    if not imported:
        names = ", ".join(path.name for path in paths)
        raise PlanError(f"{names}: the map types are unknown. Rename the files by their maps")
    first = {kind: path for (kind, _), path in reversed(files.items())}
    name = ones[0].assignment.set_name
    return RecognizedFiles(name, imported, first, card, tuple(notes))


def set_of_files(
    paths: Sequence[Path],
    sources: LocalSources,
    cards: Sequence[SourceCard],
    *,
    name: str | None,
    normal_y: NormalY | str | None,
    wrap: WrapChoice,
    relief: float | str | None,
) -> tuple[RecognizedFiles, SetDefinition, tuple[Note, ...]]:
    """Return a set of files whose map kinds are detected; see `MapSet.from_recognized`."""
    found = detect_files(paths, sources, cards, normal_y_of(normal_y) if normal_y else None)
    facts = [(kind, sources.facts[one.source]) for kind, one in found.imported.items()]
    given = relief if relief is not None or found.card is None else found.card.relief
    surface, notes = surface_of(facts, wrap=wrap, relief=given)
    definition = compose(slug(name or found.name), found.imported, surface)
    if found.card:
        origin = Origin(card=found.card.name, licence=found.card.licence, where=found.card.where)
        definition = definition.model_copy(update={"origin": origin})
    return found, definition, (*found.notes, *sources.notes, *notes)


def _in_the_way(
    files: Mapping[tuple[MapKind, int | None], Path], kind: MapKind, tile: int | None
) -> Path | None:
    """Return the file that is already this map: of this tile, or of any if either has no tile."""
    same = (path for (k, t), path in files.items() if k is kind and (t == tile or not (t and tile)))
    return next(same, None)


def _read(path: Path, sources: LocalSources) -> _One:
    found = sources.recognize(path)
    return _One(path, found, assignment_of_content(found, path.parent.name), found.mark)


def _by_their_names(ones: list[_One]) -> list[_One]:
    """Return the detection from a file's name, considering the names of the other files."""
    tiles = tiles_among([one.numbered for one in ones])
    ones = [
        replace(one, assignment=assignment_of_content(one.found, one.path.parent.name, tile=tile))
        for one, tile in zip(ones, tiles, strict=True)
    ]
    stems = {one.assignment.set_name.lower(): one.assignment.set_name for one in ones if one.mark}
    found = []
    for one in ones:
        if one.assignment.tile:
            found.append(one)
            continue
        assignment, mark = resolve_with_siblings(
            slug(one.path.stem), one.assignment, one.mark, one.found.confidence, stems
        )
        found.append(replace(one, assignment=assignment, mark=mark))
    return found


def _by_their_kinds(ones: list[_One]) -> list[_One]:
    """Treat a lone photo as base color, and a color with a specular color as diffuse."""
    (first, *others) = ones
    if all(one.assignment.tile and not one.mark for one in ones):  # a photo of each tile
        update = {"map": MapKind.BASE_COLOR, "channels": {}}
        return [replace(one, assignment=one.assignment.model_copy(update=update)) for one in ones]
    uncalibrated = first.assignment.map == "none" or first.found.confidence < _LEAST_SURE
    if not others and not first.mark and uncalibrated:
        update = {"map": MapKind.BASE_COLOR, "channels": {}}
        return [replace(first, assignment=first.assignment.model_copy(update=update))]
    kinds = {one.assignment.map for one in ones}
    kinds |= {kind for one in ones for kind in one.assignment.channels.values() if kind}
    if not is_specular_set(kinds):
        return ones
    return [
        replace(one, assignment=one.assignment.model_copy(update={"map": as_specular}))
        if (as_specular := AS_SPECULAR.get(one.assignment.map)) and as_specular not in kinds
        else one
        for one in ones
    ]


def _imports(
    one: _One, sources: LocalSources, normal_y: NormalY | None, *, known: bool
) -> dict[MapKind, Imported]:
    assignment = one.assignment
    facts = sources.facts_of(one.path)
    if assignment.map is MapKind.NORMAL:
        green = normal_y or (assignment.normal_y if known else None) or sources.green_of(facts)
        assignment = assignment.model_copy(update={"normal_y": green})
    return imports_of(
        assignment, facts.sha256, tuple(facts.spec.channels), facts.spec.encoding,
        cut_out=facts.cut_out,
    )  # fmt: skip
