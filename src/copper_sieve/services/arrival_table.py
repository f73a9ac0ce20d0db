"""The sorting table: each file that came in beside the others, with what is to be settled."""

from __future__ import annotations

from collections import defaultdict
from collections.abc import Iterable
from dataclasses import dataclass, field, replace
from pathlib import Path
from typing import Any

from pydantic import TypeAdapter

from copper_sieve.core.image.map_kind import MapKind
from copper_sieve.core.image.raster import Encoding
from copper_sieve.core.presets.naming import slug
from copper_sieve.core.presets.sorting import (
    Sorting,
    SortingChange,
    guessed,
    imports_of,
    with_card,
    with_change,
)
from copper_sieve.core.presets.source_card import SourceCard, offered_card
from copper_sieve.core.presets.texture_set import Imported
from copper_sieve.core.recognition.judging import Recognition
from copper_sieve.core.recognition.names import read_name
from copper_sieve.store.database import Row

_recognitions = TypeAdapter(Recognition)


@dataclass(frozen=True, slots=True)
class Arrival:
    """One file in Intake: what it was found to be, and where it belongs now.

    by : who says where it belongs: "guess", "card" or "you", for `map` and `normal_y`
    problem : what keeps it from being accepted
    """

    id: int
    sha256: str
    name: str
    inside: str
    batch: str
    state: str
    error: str | None
    facts: dict[str, Any]
    has_thumbnail: bool
    found: Recognition | None
    sorting: Sorting
    by: dict[str, str]
    hint: str
    card: str | None
    set_id: int | None
    remarks: tuple[str, ...] = ()
    problem: str | None = None


@dataclass(frozen=True, slots=True)
class Offer:
    """A source card that fits the files of a drop, to be confirmed."""

    card: SourceCard
    ids: tuple[int, ...]


@dataclass(slots=True)
class Table:
    """Everything the Intake place shows."""

    rows: list[Arrival]
    waiting: int
    offers: list[Offer] = field(default_factory=list)
    known_sets: dict[str, int] = field(default_factory=dict)


def imports_from(one: Arrival) -> dict[MapKind, Imported]:
    """The maps that a file gives its set as it is sorted now."""
    facts = one.facts
    return imports_of(
        one.sorting, one.sha256, tuple(facts["channels"]), Encoding(facts["encoding"]),
        cut_out=bool(facts.get("cut_out")),
    )  # fmt: skip


def recognition_of(found: object) -> Recognition:
    """The recognition that is kept as JSON."""
    return _recognitions.validate_python(found)


def recognition_row(found: Recognition) -> object:
    """A recognition as JSON to keep."""
    return _recognitions.dump_python(found, mode="json")


def read_arrival(row: Row) -> Arrival:
    """One row by itself."""
    found = recognition_of(row["found"]) if row["found"] else None
    change_ = SortingChange.model_validate(row["change"])
    card = SourceCard.model_validate(row["card"]) if row["card"] else None
    folder = Path(row["inside"]).name
    sorting = guessed(found, folder) if found else _by_name(row["name"])
    by = {"map": "guess", "normal_y": "guess"}
    if card and found:
        carded = with_card(sorting, found.mark, card)
        by["map"] = "card" if found.mark in {*card.marks, *card.packed} else "guess"
        by["normal_y"] = "card" if card.normal_y else "guess"
        sorting = carded
    sorting = with_change(sorting, change_)
    if change_.map or change_.channels:
        by["map"] = "you"
    if change_.normal_y:
        by["normal_y"] = "you"
    remarks = found.remarks if found else ()
    return Arrival(
        id=row["id"], sha256=row["sha256"], name=row["name"], inside=row["inside"],
        batch=row["batch"], state=row["state"], error=row["error"], facts=row["facts"],
        has_thumbnail=row["has_thumbnail"], found=found, sorting=sorting, by=by, hint=row["hint"],
        card=card.name if card else None, set_id=row["set_id"], remarks=remarks,
    )  # fmt: skip


def _by_name(name: str) -> Sorting:
    """What the name says while nobody has looked at the picture yet."""
    read = read_name(Path(name).stem)
    kind = read.kind or ("packed" if read.packed is not None else "none")
    return Sorting(set_name=slug(read.stem), map=kind)


def read_arrivals(rows: list[Row]) -> list[Arrival]:
    """The rows, each beside the others: "rusty_metal" is no metal beside "rusty_metal_n"."""
    found = [read_arrival(row) for row in rows]
    stems = {one.sorting.set_name.lower() for one in found}
    return _checked([_whole_name(one, stems) for one in found])


def _whole_name(one: Arrival, stems: set[str]) -> Arrival:
    whole = slug(Path(one.name).stem)
    unsure = one.found is not None and one.found.confidence < 0.9 and one.found.mark
    if not unsure or one.by["map"] != "guess" or whole.lower() not in stems:
        return one
    sorting = one.sorting.model_copy(update={"set_name": whole, "map": MapKind.BASE_COLOR})
    return replace(one, sorting=sorting)


def _checked(arrivals: list[Arrival]) -> list[Arrival]:
    """The same with what only shows beside the others: two for one map, sizes that differ."""
    sets: dict[str, list[Arrival]] = defaultdict(list)
    for one in arrivals:
        if one.state == "recognized" and one.sorting.map != "none":
            sets[one.sorting.set_name.lower()].append(one)
    problems: dict[int, str] = {}
    remarks: dict[int, list[str]] = defaultdict(list)
    for files in sets.values():
        givers: dict[MapKind, list[Arrival]] = defaultdict(list)
        for one in files:
            kinds = imports_from(one)
            if not kinds:
                problems[one.id] = "no channel is used: choose a map for one, or leave it out"
            for kind in kinds:
                givers[kind].append(one)
            if one.sorting.map is MapKind.NORMAL and one.sorting.normal_y is None:
                problems[one.id] = (
                    "which way its green grows cannot be told: choose by the two lit pictures"
                )
        for kind, many in givers.items():
            for one in many[1:]:
                first = many[0].name
                problems[one.id] = (
                    f"{first} is the {kind.facts.title.lower()} of {one.sorting.set_name} already: "
                    "leave one out, or give it another set or map"
                )
        _compare_sizes(files, remarks)
    for one in arrivals:
        if one.state == "recognized" and one.sorting.map == "none" and one.by["map"] == "guess":
            problems[one.id] = "which map it is cannot be told: choose it, or leave it out"
    return [_with(one, problems.get(one.id), remarks.get(one.id, ())) for one in arrivals]


def _with(one: Arrival, problem: str | None, more: Iterable[str]) -> Arrival:
    return replace(one, problem=problem, remarks=(*one.remarks, *more))


def _compare_sizes(files: list[Arrival], remarks: dict[int, list[str]]) -> None:
    sizes = [(one.facts["width"], one.facts["height"]) for one in files]
    largest = max(sizes, default=(0, 0))
    for one, size in zip(files, sizes, strict=True):
        if size == largest:
            continue
        same = size[0] * largest[1] == size[1] * largest[0]
        remarks[one.id].append(
            f"{size[0]} x {size[1]} beside {largest[0]} x {largest[1]} of its set"
            + ("" if same else ", and of another shape")
        )


def card_offers(arrivals: list[Arrival], cards: list[SourceCard]) -> list[Offer]:
    """For each drop the source card that fits its files, if one does."""
    batches: dict[str, list[Arrival]] = defaultdict(list)
    for one in arrivals:
        if one.state == "recognized" and one.card is None and one.found:
            batches[one.batch].append(one)
    offers = []
    for files in batches.values():
        marks = {one.found.mark for one in files if one.found and one.found.mark}
        if card := offered_card(marks, cards):
            offers.append(Offer(card, tuple(one.id for one in files)))
    return offers
