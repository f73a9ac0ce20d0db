"""Intake: files are imported, detected, corrected, and accepted into sets."""

from __future__ import annotations

import uuid
from collections import defaultdict
from collections.abc import Collection, Iterable
from dataclasses import dataclass, field
from pathlib import Path

from copper_sieve.core.codecs import read_spec
from copper_sieve.core.codecs.checksums import file_sha256
from copper_sieve.core.errors import ConflictError, NotAPictureError, PictureError
from copper_sieve.core.graph.plan import plan
from copper_sieve.core.image.map_kind import MapKind
from copper_sieve.core.image.raster import Picture
from copper_sieve.core.ingest.sources import file_facts, leading_source
from copper_sieve.core.ingest.unpack import Unpacked, is_container, unpack
from copper_sieve.core.models.assignment import (
    AssignmentChange,
    card_from_corrections,
)
from copper_sieve.core.models.file_facts import FileFacts
from copper_sieve.core.models.origin import Origin
from copper_sieve.core.models.source_card import SourceCard
from copper_sieve.core.models.texture_set import Imported, SurfaceSpec, compose
from copper_sieve.core.models.tile_numbers import group_tiles, joined, without_files
from copper_sieve.core.untrusted_paths import safe_file_name
from copper_sieve.services.arrival_table import (
    Arrival,
    Offer,
    arrange,
    card_offers,
    checked,
    imports_from,
)
from copper_sieve.services.capture_groups import CaptureGroup, offered, waits_for_decision
from copper_sieve.services.context import Context
from copper_sieve.services.jobs.requests import ask_detection
from copper_sieve.store import arrivals as store
from copper_sieve.store import capture_groups, jobs, texture_sets
from copper_sieve.store.database import Transaction
from copper_sieve.store.projects import get_project
from copper_sieve.store.sources import add_source, source_sizes
from copper_sieve.store.texture_sets import StoredSet


@dataclass(frozen=True, slots=True)
class Refusal:
    """A file that wasn't imported, with the reason."""

    name: str
    message: str


@dataclass(frozen=True, slots=True)
class AddedFiles:
    """Result of a drop."""

    batch: str
    ids: tuple[int, ...]
    refused: tuple[Refusal, ...]


@dataclass(slots=True)
class ImportTable:
    """All data of the Intake view.

    is_comparing : files of a drop are being compared, or will be
    surfaces : detected groups of pictures of one surface, to be confirmed
    """

    rows: list[Arrival]
    waiting: int
    is_comparing: bool = False
    offers: list[Offer] = field(default_factory=list)
    surfaces: list[CaptureGroup] = field(default_factory=list)
    known_sets: dict[str, int] = field(default_factory=dict)


def add(context: Context, project_slug: str, path: Path, name: str, batch: str = "") -> AddedFiles:
    """Store a picture, or all pictures of a zip archive or glTF file, for detection.

    batch : shared by the files of one drop; default: a new one
    A single unreadable picture raises PictureError, and nothing is stored; of an archive, the other
    files are imported and the rejected ones are listed.
    """
    folder, _, own = name.replace("\\", "/").rpartition("/")
    batch = batch or uuid.uuid4().hex
    unpacked = path.parent / "inside"
    unpacked.mkdir()
    renamed = path.rename(_into(path.parent / "file", own))
    found, refused = examined(context, renamed, unpacked)
    with context.database.transaction() as connection:
        project = get_project(connection, project_slug)
        ids = put(context, connection, project.id, found, folder, batch)
    return AddedFiles(batch, tuple(ids), tuple(refused))


def put(  # noqa: PLR0917
    context: Context, connection: Transaction, project_id: int, found: Iterable[CheckedPicture],
    folder: str, batch: str,
) -> list[int]:  # fmt: skip
    """Store pictures of a folder and create detection jobs; return the ids of the files."""
    ids = []
    for one in found:
        keep_source(connection, one)
        inside = "/".join(part for part in (folder, one.file.inside) if part)
        number = store.add_arrival(
            connection, project_id, one.sha256, one.file.name, inside=inside, batch=batch
        )
        ask_detection(context, connection, project_id, number, one.file.name)
        ids.append(number)
    return ids


def keep_source(connection: Transaction, one: CheckedPicture) -> None:
    """Store the bytes of a picture unless they are stored."""
    add_source(connection, one.file.path, sha256=one.sha256, name=one.file.name,
               facts=one.facts, thumbnail=None)  # fmt: skip


def _into(folder: Path, name: str) -> Path:
    folder.mkdir()
    return folder / safe_file_name(name)


@dataclass(frozen=True, slots=True)
class CheckedPicture:
    """A valid picture that isn't stored yet."""

    file: Unpacked
    sha256: str
    facts: FileFacts


def examined(
    context: Context, path: Path, unpacked: Path
) -> tuple[list[CheckedPicture], list[Refusal]]:
    """Read all pictures of a file before storing any, without holding a database transaction.

    Raises PictureError for a single unreadable picture; unreadable pictures of an archive are
    listed.
    """
    found: list[CheckedPicture] = []
    refused: list[Refusal] = []
    many = is_container(path)
    for one in unpack(path, unpacked, context.settings.limits):
        try:
            spec = read_spec(one.path, context.settings.limits)
        except PictureError as error:
            if not many:
                raise
            refused.append(Refusal(one.name, error.message.replace(one.path.name, one.name)))
            one.path.unlink()
            continue
        facts = file_facts(spec, safe_file_name(one.name), one.path.stat().st_size)
        found.append(CheckedPicture(one, file_sha256(one.path), facts))
    if many and not found and not refused:
        raise NotAPictureError(
            f"{path.name} isn't a picture. Models and archives are imported for the pictures "
            "they contain"
        )
    return found, refused


def table(context: Context, project_slug: str, *, accepted: bool = False) -> ImportTable:
    """Return the files that aren't in a set (or all), with suggestions to confirm."""
    with context.database.transaction() as connection:
        project = get_project(connection, project_slug)
        kept = store.list_arrivals(connection, project.id)
        waiting = sum(one.state == "waiting" for one in kept)
        cards = store.list_cards(connection)
        sets = texture_sets.list_sets(connection, project.id)
        seen = capture_groups.list_capture_groups(connection, project.id)
        compares = jobs.is_any_open(connection, "file_comparison", project.id)
    known = {one.name.lower(): one.id for one in sets}
    shown = [
        one for one in arrange(kept, context.recognitions) if accepted or one.state != "accepted"
    ]
    arrivals = checked(shown, {one.name.lower(): _came_in(one) for one in sets})
    surfaces = offered(seen, arrivals)
    arrivals = waits_for_decision(arrivals, surfaces)
    offers = card_offers(arrivals, cards) if not waiting else []
    return ImportTable(arrivals, waiting, compares, offers, surfaces, known)


def _came_in(kept: StoredSet) -> set[MapKind]:
    """Return the imported maps of a stored set, from its JSON in any version."""
    maps = kept.stored.get("maps", {})
    return {
        kind
        for name, way in maps.items()
        if (kind := MapKind.of(name)) and isinstance(way, dict) and way.get("how") == "imported"
    }


def change(context: Context, ids: Collection[int], wanted: AssignmentChange) -> None:
    """Change the roles of files; sets that use them are updated.

    Raises NotFoundError, ConflictError, PlanError if a set could no longer be computed.
    """
    with context.database.transaction() as connection:
        for one in store.get_arrivals(connection, ids, lock=True):
            store.set_change(connection, one.id, wanted.over(one.change))
        moved = [one for one in _chosen(context, connection, ids) if one.state == "accepted"]
        for set_id in {one.set_id for one in moved if one.set_id}:
            _update_set(connection, set_id, [one for one in moved if one.set_id == set_id])


def apply_card(context: Context, ids: Collection[int], name: str | None) -> None:
    """Apply a source card to files, or remove theirs. Raises NotFoundError."""
    with context.database.transaction() as connection:
        card = None
        if name is not None and (card := store.get_card(connection, name)) is None:
            raise ConflictError(f"the source card {name} no longer exists. Choose another one")
        store.get_arrivals(connection, ids)
        store.set_card(connection, ids, card)


def make_card(
    context: Context, ids: Collection[int], name: str, licence: str, where: str
) -> SourceCard:
    """Create or extend a source card from the corrections of files, and apply it to them."""
    with context.database.transaction() as connection:
        card = store.get_card(connection, name) or SourceCard(name=name)
        card = card.model_copy(
            update={"licence": licence or card.licence, "where": where or card.where}
        )
        for arrival in _chosen(context, connection, ids):
            if arrival.found:
                card = card_from_corrections(card, arrival.assignment, arrival.mark)
        store.put_card(connection, card)
        store.set_card(connection, ids, card)
    return card


def list_cards(context: Context) -> list[SourceCard]:
    """Return all source cards by name."""
    with context.database.transaction() as connection:
        return store.list_cards(connection)


def delete_card(context: Context, name: str) -> None:
    """Delete a source card; sets imported with it keep its values. Raises NotFoundError."""
    with context.database.transaction() as connection:
        store.delete_card(connection, name)


def dismiss(context: Context, ids: Collection[int]) -> None:
    """Remove files from Intake; sets that use them keep them. See `undelete`."""
    with context.database.transaction() as connection:
        store.dismiss_arrivals(connection, ids)


def undelete(context: Context, ids: Collection[int]) -> None:
    """Restore files that were removed in the last 30 days. Raises NotFoundError."""
    with context.database.transaction() as connection:
        store.restore_arrivals(connection, ids)
        for one in store.get_arrivals(connection, ids):
            if one.state == "waiting":
                ask_detection(context, connection, one.project_id, one.id, one.name)


def accept(context: Context, ids: Collection[int]) -> dict[str, int]:
    """Accept files into new or existing sets, all or none.

    Returns the id of each set by its name. Raises ConflictError with the file that can't be
    accepted.
    """
    with context.database.transaction() as connection:
        store.get_arrivals(connection, ids, lock=True)
        arrivals = checked(_chosen(context, connection, ids))
        for one in arrivals:
            if one.state in ("waiting", "refused"):
                raise ConflictError(
                    f"{one.name} {'is not recognized yet' if one.state == 'waiting' else one.error}"
                )
            if one.problem:
                raise ConflictError(f"{one.name}: {one.problem}")
        project_id = store.get_arrivals(connection, ids)[0].project_id
        there = {one.name.lower(): one for one in texture_sets.list_sets(connection, project_id)}
        by_set: dict[str, list[Arrival]] = defaultdict(list)
        for one in arrivals:
            by_set[one.assignment.set_name].append(one)
        made = {}
        for name, files in by_set.items():
            used = [one for one in files if one.assignment.map != "none"]
            set_id = None
            if used:
                kept = _into_set(connection, project_id, name, used, there.get(name.lower()))
                set_id = made[kept.name] = kept.id
            store.set_accepted(connection, [one.id for one in files], set_id)
    return made


def _chosen(context: Context, connection: Transaction, ids: Collection[int]) -> list[Arrival]:
    """Return files, sorted together with all other files of their project."""
    wanted = set(ids)
    project_id = store.get_arrivals(connection, wanted)[0].project_id
    rows = store.list_arrivals(connection, project_id)
    return [one for one in arrange(rows, context.recognitions) if one.id in wanted]


def _into_set(
    connection: Transaction,
    project_id: int,
    name: str,
    files: list[Arrival],
    there: StoredSet | None,
) -> StoredSet:
    imported = group_tiles((imports_from(one), one.assignment.tile) for one in files)
    card = next((one.card for one in files if one.card), None)
    origin = None
    if card and (known := store.get_card(connection, card)):
        origin = Origin(card=card, licence=known.licence, where=known.where)
    if there is None:
        texture_set = compose(name, imported, _measured_surface(files))
        texture_set = texture_set.model_copy(update={"origin": origin})
        return texture_sets.add_set(connection, project_id, texture_set.checked())
    before = there.definition()
    shelf = dict(before.shelf)
    imported = {kind: joined(before.maps.get(kind), one) for kind, one in imported.items()}
    for kind in imported:
        if kind in before.maps and before.maps[kind] != imported[kind]:
            shelf[kind] = (*shelf.get(kind, ()), before.maps[kind])
    changed = before.model_copy(
        update={"maps": {**before.maps, **imported}, "shelf": shelf,
                "origin": origin or before.origin}
    )  # fmt: skip
    # With further tiles a sheet may grow too large, and a frame that was there has to go.
    return texture_sets.update_set(connection, there.id, there.version, changed.checked())


def _measured_surface(files: list[Arrival]) -> SurfaceSpec:
    """Return the surface of a set: tiling of its base color or largest picture, chosen relief."""
    guide = max(
        files,
        key=lambda one: leading_source(one.assignment.map, one.facts.width, one.facts.height),
    )
    wrap = guide.facts.tiling.wrap if guide.facts.tiling else False
    relief = guide.assignment.relief
    return SurfaceSpec(wrap=wrap) if relief is None else SurfaceSpec(wrap=wrap, relief=relief)


def _update_set(connection: Transaction, set_id: int, files: list[Arrival]) -> None:
    """Replace the maps that these files previously added to the set."""
    there = texture_sets.get_set(connection, set_id)
    before = there.definition()
    shas = {one.sha256 for one in files}
    maps = {
        kind: left
        for kind, way in before.maps.items()
        if (left := without_files(way, shas)) is not None
    }
    given = group_tiles((imports_from(one), one.assignment.tile) for one in files)
    given = {kind: joined(maps.get(kind), one) for kind, one in given.items()}
    # In the previous order; a map that others were derived from may now be derived itself.
    composed = compose(before.name, {k: v for k, v in {**maps, **given}.items()
                                     if isinstance(v, Imported)})  # fmt: skip
    whole = {**composed.maps, **maps, **given}
    order = [*(k for k in before.maps if k in whole), *(k for k in whole if k not in before.maps)]
    changed = before.model_copy(update={"maps": {kind: whole[kind] for kind in order}})
    plan(changed.checked(), source_sizes(connection, changed.sources()))
    texture_sets.update_set(connection, set_id, there.version, changed)


def picture_of(context: Context, arrival_id: int) -> Picture:
    """Return the codes of a file in Intake. Raises NotFoundError."""
    with context.database.transaction() as connection:
        arrival = store.get_arrivals(connection, [arrival_id])[0]
    return context.load_source(arrival.sha256)
