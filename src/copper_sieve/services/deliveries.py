"""Deliveries: say what will be written, ask for it, watch it, stop it."""

from __future__ import annotations

import time
from collections.abc import Iterable
from contextlib import suppress
from dataclasses import dataclass, field, replace
from pathlib import Path
from typing import Literal

from copper_sieve.core.errors import (
    ConflictError,
    DeliveryError,
    NotFoundError,
    SieveError,
    UnreadableError,
)
from copper_sieve.core.export.deliver import Way, untouched
from copper_sieve.core.export.export_plan import ExportPlan
from copper_sieve.core.export.planning import plan_export
from copper_sieve.core.export.reuse import replaced_files
from copper_sieve.core.graph.geometry import Geometry, Sizes, geometry_of
from copper_sieve.core.mesh.coverage import Coverage
from copper_sieve.core.models.texture_set import SetDefinition
from copper_sieve.core.targets.target_preset import TargetPreset
from copper_sieve.services import destinations
from copper_sieve.services.context import Context
from copper_sieve.services.islands import coverage_of, known_models
from copper_sieve.services.stamps import checks_of, stamps_of
from copper_sieve.services.targets import find_target
from copper_sieve.store import deliveries, delivery_parts, texture_sets, webhooks
from copper_sieve.store.delivery_rows import KeptDelivery, Lying, NewPart, UnderWay
from copper_sieve.store.projects import get_project
from copper_sieve.store.sources import source_sizes
from copper_sieve.store.texture_sets import KeptSet

Cell = tuple[int, str]  # a set and a target, by their ids
Heavy = Literal["blocked", "error", "warning", "info"]


@dataclass(frozen=True, slots=True)
class DryRunPart:
    """What one set for one target would write, and the state of each name in its folder.

    copies : it is copied elsewhere as well
    """

    set_id: int
    export: ExportPlan | None
    preset: TargetPreset
    set_name: str
    folder: Path
    manifest_name: str
    states: dict[str, str]
    error: str | None
    sizes: Sizes = field(default_factory=dict)
    copies: bool = False

    @property
    def target_id(self) -> str:
        """The id of its target."""
        return self.preset.id


def each_to_each(set_ids: Iterable[int], target_ids: Iterable[str]) -> list[Cell]:
    """Every set for every target."""
    targets = list(dict.fromkeys(target_ids))
    return [(set_id, target_id) for set_id in dict.fromkeys(set_ids) for target_id in targets]


def dry_run(
    context: Context, project_slug: str, cells: Iterable[Cell], longer_side: int | None = None
) -> list[DryRunPart]:
    """Every file that a delivery would write, before anything is computed or written.

    What cannot be delivered has an `error` instead of an export. Raises NotFoundError,
    UnknownTargetError.
    """
    wanted = list(dict.fromkeys(cells))
    ids = list(dict.fromkeys(set_id for set_id, _ in wanted))
    with context.database.transaction() as connection:
        project = get_project(connection, project_slug)
        places = destinations.of_project(context.settings, connection, project.id, project_slug)
        for target_id in dict.fromkeys(target_id for _, target_id in wanted):
            find_target(connection, target_id)
        kept = {one.id: one for one in texture_sets.list_sets(connection, project.id, ids)}
        if missing := set(ids) - set(kept):
            raise NotFoundError(f"there is no texture set {min(missing)} in {project_slug}")
        readable = _readable(kept.values())
        sources = {s for one in readable.values() for s in one.sources()}
        sizes = source_sizes(connection, sources)
        asked = deliveries.asked_for(connection, ids)
        models = known_models(connection, readable.values())
    geometries: dict[int, Geometry] = {}  # worked out once for all targets of a set
    parts = []
    for set_id, target_id in wanted:
        place = places[target_id]
        folder, manifest = place.place(project_slug, kept[set_id].name)
        part = DryRunPart(
            set_id, None, place.preset, kept[set_id].name, folder, manifest, {}, None, sizes,
            copies=place.options.copy_to is not None,
        )  # fmt: skip
        if error := destinations.not_allowed(context.settings, place, folder):
            part = replace(part, error=error)
        elif definition := readable.get(set_id):
            number = 1 + asked.get((set_id, target_id), 0)
            coverage = coverage_of(context, definition, models)
            part = _planned(
                part, definition, sizes, geometries, project_slug, longer_side, number, coverage
            )
        else:
            part = replace(part, error="it cannot be read: see the Tray")
        parts.append(part)
    return _apart(parts)


def _apart(parts: list[DryRunPart]) -> list[DryRunPart]:
    """The same; in a folder that several share, no two may write files of the same name."""
    writes: dict[tuple[Path, str], DryRunPart] = {}
    found = []
    for part in parts:
        for name in part.states if part.error is None else ():
            where = part.folder, name.lower()
            if (other := writes.setdefault(where, part)) is not part:
                error = (
                    f"{other.set_name} for {other.target_id} would write {name} into {part.folder} "
                    "as well: give each a folder of its own, or names that tell them apart"
                )
                found.append(replace(part, error=error))
                break
        else:
            found.append(part)
    return found


def _readable(kept: Iterable[KeptSet]) -> dict[int, SetDefinition]:
    found = {}
    for one in kept:
        with suppress(UnreadableError):
            found[one.id] = one.definition()
    return found


def _planned(  # noqa: PLR0917
    part: DryRunPart,
    texture_set: SetDefinition,
    sizes: Sizes,
    geometries: dict[int, Geometry],
    project_slug: str,
    longer_side: int | None,
    number: int,
    coverage: Coverage | None,
) -> DryRunPart:
    """The same part with what it would write, or what is in the way."""
    try:
        if part.set_id not in geometries:
            geometries[part.set_id] = geometry_of(texture_set, sizes)
        export = plan_export(
            part.preset, texture_set, sizes, longer_side=longer_side, project=project_slug,
            delivery=number, geometry=geometries[part.set_id], coverage=coverage,
        )  # fmt: skip
        states = replaced_files(part.folder, export, part.manifest_name)
    except SieveError as problem:
        return replace(part, error=problem.message)
    error = None
    if foreign := [name for name, state in states.items() if state == "foreign"]:
        error = (
            f"{foreign[0]} is already in {part.folder} and was not written by a delivery: "
            "move it away"
        )
    return replace(part, export=export, states=states, error=error)


@dataclass(frozen=True, slots=True)
class Cause:
    """Something to know of some parts, told once.

    weight : blocked, where these cannot be delivered; else as a remark's
    """

    weight: Heavy
    text: str
    cells: tuple[Cell, ...]


@dataclass(frozen=True, slots=True)
class Look:
    """What a delivery of many parts would be.

    shown : the first parts with their files; the rest is in the figures
    files, replaced : how many files it has, and how many of them take the place of one; those that
        would come out the same stay as they are
    left : how many files of earlier deliveries lie there that it does not have
    blocked : how many parts cannot be delivered
    """

    shown: tuple[DryRunPart, ...]
    parts: int
    files: int
    replaced: int
    left: int
    blocked: int
    causes: tuple[Cause, ...]


_SHOWN = 12
_RANK: tuple[Heavy, ...] = ("blocked", "error", "warning", "info")


def look(
    context: Context, project_slug: str, cells: Iterable[Cell], longer_side: int | None = None
) -> Look:
    """A dry run of any number of parts in short: figures, and each cause once. Raises as that."""
    parts = dry_run(context, project_slug, cells, longer_side)
    causes: dict[tuple[Heavy, str], list[Cell]] = {}
    for part in parts:
        told: list[tuple[Heavy, str]] = [("blocked", part.error)] if part.error else []
        told += [(one.weight, one.text) for one in (part.export.remarks if part.export else ())]
        for cause in told:
            causes.setdefault(cause, []).append((part.set_id, part.target_id))
    states = [state for part in parts for state in part.states.values()]
    order = sorted(causes.items(), key=lambda one: (_RANK.index(one[0][0]), -len(one[1])))
    return Look(
        tuple(parts[:_SHOWN]),
        len(parts),
        len(states) - states.count("left"),
        states.count("replaces"),
        states.count("left"),
        sum(1 for part in parts if part.error),
        tuple(Cause(weight, text, tuple(some)) for (weight, text), some in order),
    )


@dataclass(frozen=True, slots=True)
class Wish:
    """How a delivery shall be.

    longer_side : texels, instead of the target's rule
    removes : files of earlier deliveries that this one does not have are removed; else they stay
    anew : every file is made, also one that would come out the same
    """

    longer_side: int | None = None
    removes: bool = False
    anew: bool = False


USUAL = Wish()


def ask(
    context: Context,
    project_slug: str,
    cells: Iterable[Cell],
    wish: Wish = USUAL,
    *,
    only_possible: bool = False,
) -> KeptDelivery:
    """Ask for a delivery of sets as they are now; it waits in the queue.

    only_possible : parts that cannot be delivered are left out
    Raises DeliveryError when any part cannot be delivered; then nothing is asked for.
    """
    planned = dry_run(context, project_slug, cells, wish.longer_side)
    possible = [part for part in planned if part.error is None]
    planned = possible if only_possible and possible else planned
    if not planned:
        raise DeliveryError("nothing to deliver: choose at least one set and one target")
    for part in planned:
        if part.error:
            raise DeliveryError(f"{part.set_name} for {part.target_id}: {part.error}")
    ids = list({part.set_id for part in planned})
    lying = _lying(context, planned, wish)
    with context.database.transaction() as connection:
        project = get_project(connection, project_slug)
        kept = {one.id: one for one in texture_sets.list_sets(connection, project.id, ids)}
        if set(ids) - set(kept):
            raise ConflictError("a set was thrown away in the meantime: look again")
        delivery_id = deliveries.add_delivery(
            connection,
            project.id,
            [
                NewPart(
                    part.set_id,
                    part.target_id,
                    kept[part.set_id].stored,
                    part.preset.model_dump(mode="json"),
                    wish.longer_side,
                    part.folder,
                    part.manifest_name,
                    part.export.memory if part.export else 0,
                    wish.removes,
                    wish.anew,
                    lying.get((part.set_id, part.target_id)),
                )
                for part in planned
            ],
        )
        context.enqueue(connection, delivery_id)
    return get(context, delivery_id)


_LOOKS_FOR = 3.0  # seconds; workers look at the rest


def _lying(context: Context, planned: list[DryRunPart], wish: Wish) -> dict[Cell, Lying]:
    """What lies there already as it would be made."""
    folders = [part.folder for part in planned if part.folder.is_dir()]
    if wish.anew or not folders:
        return {}
    with context.database.transaction() as connection:
        proven = deliveries.proven_in_each(connection, folders)
    found = {}
    end = time.monotonic() + _LOOKS_FOR
    for part in planned:
        known = proven.get((part.folder, part.manifest_name))
        if part.export is None or known is None or part.copies:  # a worker looks at the copy
            continue
        checks = checks_of(part.folder, known)
        with suppress(SieveError):
            way = Way(checks, removes=wish.removes, manifest_name=part.manifest_name)
            if same := untouched(part.export, part.folder, sizes=part.sizes, way=way):
                held = same.delivered
                found[part.set_id, part.target_id] = Lying(
                    held.manifest.model_dump(mode="json"),
                    held.assay.model_dump(mode="json"),
                    same.kept,
                    stamps_of(part.folder, held.manifest),
                )
        if time.monotonic() > end:
            break
    return found


def get(context: Context, delivery_id: int) -> KeptDelivery:
    """One delivery with its parts. Raises NotFoundError."""
    with context.database.transaction() as connection:
        return deliveries.get_delivery(connection, delivery_id)


def under_way(context: Context, project_slug: str) -> list[UnderWay]:
    """The deliveries of a project that wait or run, the newest first; without their parts."""
    with context.database.transaction() as connection:
        project = get_project(connection, project_slug)
        return deliveries.under_way(connection, project.id)


def cancel(context: Context, delivery_id: int) -> KeptDelivery:
    """Stop a delivery: its parts that wait or run are given up; what was delivered stays.

    Raises ConflictError when it has ended already.
    """
    with context.database.transaction() as connection:
        given_up = delivery_parts.cancel(connection, delivery_id)
        delivery = deliveries.get_delivery(connection, delivery_id)
    if not given_up:
        raise ConflictError(f"delivery {delivery_id} has ended already: {delivery.state}")
    return delivery


def retry(context: Context, delivery_id: int) -> KeptDelivery:
    """Try the parts of a delivery again that failed or were cancelled.

    Raises NotFoundError, ConflictError when there are none.
    """
    with context.database.transaction() as connection:
        deliveries.get_delivery(connection, delivery_id)
        if not delivery_parts.retry(connection, delivery_id):
            raise ConflictError(f"nothing of delivery {delivery_id} failed")
        webhooks.set_reported(connection, delivery_id, reported=False)
        context.enqueue(connection, delivery_id)
        return deliveries.get_delivery(connection, delivery_id)
