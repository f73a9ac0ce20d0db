"""Intake: each file next to the others of its drop, with open questions."""

from __future__ import annotations

from collections import defaultdict
from collections.abc import Collection, Iterable, Mapping
from dataclasses import dataclass, replace
from pathlib import Path

from pydantic import TypeAdapter

from copper_sieve.core.detection.classify import Recognition
from copper_sieve.core.detection.names import NameReading, read_name
from copper_sieve.core.errors import ParameterError
from copper_sieve.core.image.map_kind import MapKind
from copper_sieve.core.image.raster import Encoding
from copper_sieve.core.image.tile_layout import TileLayout
from copper_sieve.core.models.assignment import (
    AS_SPECULAR,
    Assignment,
    assignment_of_content,
    guessed_by_name,
    imports_of,
    is_specular_set,
    resolve_with_siblings,
    with_card,
    with_change,
)
from copper_sieve.core.models.file_facts import FileFacts
from copper_sieve.core.models.naming import slug
from copper_sieve.core.models.source_card import SourceCard, offered_card
from copper_sieve.core.models.texture_set import Imported
from copper_sieve.core.models.tile_numbers import Numbered, tiles_among
from copper_sieve.store.arrivals import StoredArrival

_DIFFUSE = "used as diffuse, because there is a specular color map and no metallic map"
_GREY_SPECULAR = (
    "used as specular color (identical red, green and blue), because there is a glossiness map"
)
_recognitions = TypeAdapter(Recognition)
# By arrival and the SHA-256 of its file, which may change in a watched folder.
Recognitions = dict[tuple[int, str], Recognition]
_MOST_KEPT = 20_000  # recognitions


@dataclass(frozen=True, slots=True)
class Arrival:
    """A file in Intake with its detected and its assigned role.

    mark : the words of its name that identify the map, as a source card stores them
    by : who assigned `map` and `normal_y`: "detected", "card" or "user"
    problem : why it can't be accepted
    """

    id: int
    sha256: str
    name: str
    inside: str
    batch: str
    state: str
    error: str | None
    facts: FileFacts
    has_thumbnail: bool
    found: Recognition | None
    assignment: Assignment
    by: dict[str, str]
    mark: str
    hint: str
    card: str | None
    set_id: int | None
    remarks: tuple[str, ...] = ()
    problem: str | None = None

    @property
    def number(self) -> int | None:
        """Return a number in its name that may be a tile number."""
        return self.found.tile if self.found else None


@dataclass(frozen=True, slots=True)
class Offer:
    """A source card that fits the files of a drop and waits for confirmation."""

    card: SourceCard
    ids: tuple[int, ...]


def imports_from(one: Arrival) -> dict[MapKind, Imported]:
    """Return the maps that a file adds to its set with its current assignment."""
    facts = one.facts
    return imports_of(
        one.assignment, one.sha256, facts.channels, Encoding(facts.encoding),
        cut_out=facts.cut_out,
    )  # fmt: skip


def recognition_of(found: object) -> Recognition:
    """Parse a stored detection result."""
    return _recognitions.validate_python(found)


def recognition_row(found: Recognition) -> object:
    """Return a detection result as JSON to be stored."""
    return _recognitions.dump_python(found, mode="json")


def arrange(arrivals: list[StoredArrival], known: Recognitions) -> list[Arrival]:
    """Assign the files of a project to sets, considering each other.

    "rusty_metal" isn't a metallic map if there is "rusty_metal_n"; "ladle_shine" belongs to "ladle"
    if there is "ladle_n", even though "shine" is unknown. A color is diffuse if there is a specular
    color and no metallic map.

    known : detection results of files that were read before; new results are added
    """
    guesses = _guesses(arrivals, known)
    stems = {one.assignment.set_name.lower(): one.assignment.set_name
             for one in guesses.values() if one.mark}  # fmt: skip
    kinds: dict[str, set[object]] = defaultdict(set)
    for one in guesses.values():
        of_set = kinds[one.assignment.set_name.lower()]
        of_set |= {one.assignment.map, *one.assignment.channels.values()}
    specular = {name for name, has in kinds.items() if is_specular_set(has)}
    return [_arrival(one, guesses[one.id], stems, specular) for one in arrivals]


def _guesses(arrivals: list[StoredArrival], known: Recognitions) -> dict[int, _Guess]:
    """Guess each file on its own, except for tiles, which depend on each other."""
    read = [_recognition(one, known) or read_name(Path(one.name).stem) for one in arrivals]
    numbered = [
        Numbered.of(Path(one.name).stem, Path(one.inside).name, reading)
        for one, reading in zip(arrivals, read, strict=True)
    ]
    tiles = tiles_among(numbered)
    return {
        one.id: _guess(reading, Path(one.inside).name, tile)
        for one, reading, tile in zip(arrivals, read, tiles, strict=True)
    }


@dataclass(frozen=True, slots=True)
class _Guess:
    """Detection result of one file; from the name only until the picture was read."""

    found: Recognition | None
    assignment: Assignment
    mark: str
    confidence: float


def _guess(reading: Recognition | NameReading, folder: str, tile: int | None) -> _Guess:
    if isinstance(reading, Recognition):
        return _Guess(
            reading,
            assignment_of_content(reading, folder, tile=tile),
            reading.mark,
            reading.confidence,
        )
    return _Guess(
        None, guessed_by_name(reading, folder, tile=tile), reading.mark, reading.confidence
    )


def _recognition(one: StoredArrival, known: Recognitions) -> Recognition | None:
    """Return the detection result, cached, because the bytes of a file don't change."""
    if not one.found:
        return None
    place = one.id, one.sha256
    if (found := known.get(place)) is None:
        if len(known) >= _MOST_KEPT:
            known.clear()
        found = known[place] = recognition_of(one.found)
    return found


def _arrival(
    kept: StoredArrival, guess: _Guess, stems: dict[str, str], specular: set[str]
) -> Arrival:
    reading, card = kept.change, kept.card
    by = {"map": "detected", "normal_y": "detected"}
    assignment, mark = guess.assignment, guess.mark
    if assignment.tile is None:
        assignment, mark = resolve_with_siblings(
            slug(Path(kept.name).stem), assignment, mark, guess.confidence, stems
        )
    remarks = guess.found.remarks if guess.found else ()
    if assignment.set_name.lower() in specular and assignment.map in AS_SPECULAR:
        was, assignment = (
            assignment.map,
            assignment.model_copy(update={"map": AS_SPECULAR[assignment.map]}),
        )
        remarks = (*remarks, _DIFFUSE if was is MapKind.BASE_COLOR else _GREY_SPECULAR)
    if card:
        assignment = with_card(assignment, mark, card)
        by["map"] = "card" if mark in {*card.marks, *card.packed} else "detected"
        by["normal_y"] = "card" if card.normal_y else "detected"
    if reading.map or reading.channels:
        by["map"] = "user"
    if reading.normal_y:
        by["normal_y"] = "user"
    found = guess.found
    return Arrival(
        id=kept.id, sha256=kept.sha256, name=kept.name, inside=kept.inside,
        batch=kept.batch, state=kept.state, error=kept.error, facts=kept.facts,
        has_thumbnail=kept.has_thumbnail, found=found,
        assignment=with_change(assignment, reading), by=by,
        mark=mark, hint=kept.hint, card=card.name if card else None, set_id=kept.set_id,
        remarks=remarks,
    )  # fmt: skip


def checked(
    arrivals: list[Arrival], there: Mapping[str, Collection[MapKind]] | None = None
) -> list[Arrival]:
    """Add problems that depend on other files: duplicate maps, different sizes.

    there : imported maps of existing sets by lower-case name
    """
    sets: dict[str, list[Arrival]] = defaultdict(list)
    for one in arrivals:
        if one.state == "recognized" and one.assignment.map != "none":
            sets[one.assignment.set_name.lower()].append(one)
    problems: dict[int, str] = {}
    remarks: dict[int, list[str]] = defaultdict(list)
    for files in sets.values():
        givers: dict[tuple[MapKind, int | None], list[Arrival]] = defaultdict(list)
        for one in files:
            kinds = imports_from(one)
            if not kinds:
                problems[one.id] = "no channel is used. Choose a map for one, or skip the file"
            for kind in kinds:
                givers[kind, one.assignment.tile].append(one)
            if one.assignment.map is MapKind.NORMAL and one.assignment.normal_y is None:
                problems[one.id] = (
                    "the green direction can't be determined. Compare the two lit previews "
                    "and choose one"
                )
        problems |= _mixed_tiles(files, givers)
        for (kind, _), many in givers.items():
            for one in many[1:]:
                first = many[0].name
                of_set = f"{kind.facts.title.lower()} of {one.assignment.set_name}"
                problems[one.id] = (
                    f"{first} is used as the {of_set} already. Skip one, or assign it to "
                    "another set or map"
                )
            name, state = many[0].assignment.set_name, many[0].state
            if state == "recognized" and kind in (there or {}).get(name.lower(), ()):
                remarks[many[0].id].append(
                    f"{name} already has a {kind.facts.title.lower()} map. This file "
                    "replaces it; the other file is kept as an alternative"
                )
        _compare_sizes(files, remarks)
    for one in arrivals:
        if (
            one.state == "recognized"
            and one.assignment.map == "none"
            and one.by["map"] == "detected"
        ):
            problems[one.id] = "map type unknown. Choose a map or skip this file"
    return [_with(one, problems.get(one.id), remarks.get(one.id, ())) for one in arrivals]


def _mixed_tiles(
    files: list[Arrival], givers: Mapping[tuple[MapKind, int | None], list[Arrival]]
) -> dict[int, str]:
    """Return why tiles can't be one texture.

    Reasons are files of the same map without a tile number, distant tile numbers, and normal maps
    with different green directions.
    """
    problems = {}
    tiled = {one.id: one.assignment.tile for one in files if one.assignment.tile}
    for (kind, tile), many in givers.items():
        others = [one for (k, t), some in givers.items() for one in some if k is kind and t]
        if tile is None and others:
            problems[many[0].id] = (
                f"{others[0].name} is a tile of the same map, but this file has no tile "
                "number. Enter its tile, or assign it to another set or map"
            )
        greens = {one.assignment.normal_y for one in others if one.assignment.normal_y}
        if kind is MapKind.NORMAL and tile and len(greens) > 1:
            problems[many[0].id] = (
                "green is Y+ in some tiles of this map and Y− in others. Choose one for all"
            )
    try:
        if tiled:
            TileLayout.of(tiled.values())
    except ParameterError as error:
        problems |= dict.fromkeys(tiled, error.message)
    return problems


def _with(one: Arrival, problem: str | None, more: Iterable[str]) -> Arrival:
    return replace(one, problem=problem, remarks=(*one.remarks, *more))


def _compare_sizes(files: list[Arrival], remarks: dict[int, list[str]]) -> None:
    sizes = [(one.facts.width, one.facts.height) for one in files]
    largest = max(sizes, default=(0, 0))
    for one, size in zip(files, sizes, strict=True):
        if size == largest:
            continue
        same = size[0] * largest[1] == size[1] * largest[0]
        remarks[one.id].append(
            f"{size[0]} x {size[1]}, but the set has {largest[0]} x {largest[1]}"
            + ("" if same else ", with another aspect ratio")
        )


def card_offers(arrivals: list[Arrival], cards: list[SourceCard]) -> list[Offer]:
    """Return for each drop the source card that fits its files, if one does."""
    batches: dict[str, list[Arrival]] = defaultdict(list)
    for one in arrivals:
        if one.state == "recognized" and one.card is None and one.found:
            batches[one.batch].append(one)
    offers = []
    for files in batches.values():
        marks = {one.mark for one in files if one.mark}
        if card := offered_card(marks, cards):
            offers.append(Offer(card, tuple(one.id for one in files)))
    return offers
