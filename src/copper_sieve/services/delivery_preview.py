"""The files that a delivery would write, before anything is computed."""

from __future__ import annotations

from collections.abc import Iterable
from contextlib import suppress
from dataclasses import dataclass, field, replace
from pathlib import Path
from typing import Literal

from copper_sieve.core.errors import NotFoundError, SieveError, UnreadableError
from copper_sieve.core.export.export_plan import ExportPlan
from copper_sieve.core.export.file_maps import graph_of
from copper_sieve.core.export.planning import plan_export
from copper_sieve.core.export.reuse import manifest_in, replaced_files, unchanged_names
from copper_sieve.core.graph.geometry import Geometry, Sizes, geometry_of
from copper_sieve.core.image.map_kind import MapKind
from copper_sieve.core.mesh.coverage import Coverage
from copper_sieve.core.models.texture_set import SetDefinition
from copper_sieve.core.targets.target_preset import TargetPreset
from copper_sieve.services import destinations
from copper_sieve.services.context import Context
from copper_sieve.services.islands import coverage_of, known_models
from copper_sieve.services.targets import find_target
from copper_sieve.store import deliveries, texture_sets
from copper_sieve.store.checklist import suppressed
from copper_sieve.store.projects import get_project
from copper_sieve.store.sources import source_sizes
from copper_sieve.store.texture_sets import StoredSet

Cell = tuple[int, str]  # a set and a target, by their ids
Heavy = Literal["blocked", "error", "warning", "info"]


@dataclass(frozen=True, slots=True)
class DryRunPart:
    """Files that one set for one target would write, and the state of each name in its folder.

    copies : the files are also copied to a second destination
    switched_off : maps whose files the project excludes from the target
    dismissed : causes of dismissed warnings of the set
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
    switched_off: frozenset[MapKind] = frozenset()
    dismissed: frozenset[str] = frozenset()

    @property
    def target_id(self) -> str:
        """Return the id of its target."""
        return self.preset.id


def cells_of(set_ids: Iterable[int], target_ids: Iterable[str]) -> list[Cell]:
    """Return every pair of a set and a target."""
    targets = list(dict.fromkeys(target_ids))
    return [(set_id, target_id) for set_id in dict.fromkeys(set_ids) for target_id in targets]


def preview_files(
    context: Context, project_slug: str, cells: Iterable[Cell], longer_side: int | None = None
) -> list[DryRunPart]:
    """Return every file that a delivery would write, without computing or writing any.

    A part that can't be delivered has an `error` instead of an export. Raises NotFoundError,
    UnknownTargetError.
    """
    wanted = list(dict.fromkeys(cells))
    ids = list(dict.fromkeys(set_id for set_id, _ in wanted))
    with context.database.transaction() as connection:
        project = get_project(connection, project_slug)
        places = destinations.of_project(context.settings, connection, project.id, project_slug)
        targets = {name: find_target(connection, name) for _, name in wanted}
        kept = {one.id: one for one in texture_sets.list_sets(connection, project.id, ids)}
        if missing := set(ids) - set(kept):
            raise NotFoundError(f"there is no texture set {min(missing)} in {project_slug}")
        readable = _readable(kept.values())
        sources = {s for one in readable.values() for s in one.sources()}
        sizes = source_sizes(connection, sources)
        earlier = deliveries.requested_parts(connection, ids)
        models = known_models(connection, readable.values())
        dismissed = suppressed(connection, ids)
    geometries: dict[int, Geometry] = {}  # worked out once for all targets of a set
    parts = []
    for set_id, target_id in wanted:
        place = places[target_id]
        folder, manifest = place.place(project_slug, kept[set_id].name)
        part = DryRunPart(
            set_id, None, place.preset, kept[set_id].name, folder, manifest, {}, None, sizes,
            copies=place.options.copy_to is not None,
            switched_off=frozenset(place.options.switched_off(targets[target_id])),
            dismissed=frozenset(dismissed.get(set_id, ())),
        )  # fmt: skip
        if error := destinations.not_allowed(context.settings, place, folder):
            part = replace(part, error=error)
        elif definition := readable.get(set_id):
            number = 1 + earlier.get((set_id, target_id), 0)
            coverage = coverage_of(context, definition, models)
            part = _planned(
                part, definition, sizes, geometries, project_slug, longer_side, number, coverage
            )
        else:
            part = replace(part, error="the set can't be read. See the Tray")
        parts.append(part)
    return _apart(parts)


def _apart(parts: list[DryRunPart]) -> list[DryRunPart]:
    """Mark parts that would write files of the same name into a shared folder."""
    writes: dict[tuple[Path, str], DryRunPart] = {}
    found = []
    for part in parts:
        for name in part.states if part.error is None else ():
            where = part.folder, name.lower()
            if (other := writes.setdefault(where, part)) is not part:
                error = (
                    f"{other.set_name} for {other.target_id} would also write {name} to "
                    f"{part.folder}. Use separate folders or different file names"
                )
                found.append(replace(part, error=error))
                break
        else:
            found.append(part)
    return found


def _readable(kept: Iterable[StoredSet]) -> dict[int, SetDefinition]:
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
    """Add the planned files to a part, or the reason why it can't be delivered."""
    try:
        if part.set_id not in geometries:
            geometries[part.set_id] = geometry_of(texture_set, sizes)
        export = plan_export(
            part.preset, texture_set, sizes, longer_side=longer_side, project=project_slug,
            delivery=number, geometry=geometries[part.set_id], coverage=coverage,
            switched_off=part.switched_off,
        )  # fmt: skip
        states = replaced_files(part.folder, export, part.manifest_name)
    except SieveError as problem:
        return replace(part, error=problem.message)
    error = None
    if foreign := [name for name, state in states.items() if state == "foreign"]:
        error = (
            f"{foreign[0]} already exists in {part.folder} and wasn't written by a delivery. "
            "Move it"
        )
    return replace(part, export=export, states=states, error=error)


@dataclass(frozen=True, slots=True)
class GroupedRemark:
    """A message about several parts.

    weight : blocked if they can't be delivered, else that of the remark
    cause : identifies a warning that can be dismissed; dismissed : for all these sets
    """

    weight: Heavy
    text: str
    cause: str
    dismissed: bool
    cells: tuple[Cell, ...]


@dataclass(frozen=True, slots=True)
class DeliveryPreview:
    """Summary of a delivery of many parts.

    shown : the first parts with their files
    files, replaced, unchanged : number of files, of those that replace one, and of unchanged ones.
    Files beyond the first 200 parts aren't read; existing ones count as replaced.
    copies : number of parts that are also copied elsewhere
    left : number of files of earlier deliveries that this one no longer contains
    blocked : number of parts that can't be delivered
    """

    shown: tuple[DryRunPart, ...]
    parts: int
    files: int
    replaced: int
    unchanged: int
    copies: int
    left: int
    blocked: int
    causes: tuple[GroupedRemark, ...]


_SHOWN = 12
_COMPARED = 200  # parts
_RANK: tuple[Heavy, ...] = ("blocked", "error", "warning", "info")


def preview_delivery(
    context: Context, project_slug: str, cells: Iterable[Cell], longer_side: int | None = None
) -> DeliveryPreview:
    """Return a summary of `preview_files` for any number of parts; raises the same errors."""
    parts = preview_files(context, project_slug, cells, longer_side)
    parts = [*map(_compared, parts[:_COMPARED]), *parts[_COMPARED:]]
    causes: dict[tuple[Heavy, str, str, bool], list[Cell]] = {}
    for part in parts:
        cell = part.set_id, part.target_id
        if part.error:
            causes.setdefault(("blocked", part.error, "", False), []).append(cell)
        for one in part.export.remarks if part.export else ():
            key = one.weight, one.text, one.cause, one.cause in part.dismissed
            causes.setdefault(key, []).append(cell)
    states = [state for part in parts if not part.error for state in part.states.values()]
    order = sorted(causes.items(), key=lambda one: (_RANK.index(one[0][0]), -len(one[1])))
    shown = sorted(parts[:_COMPARED], key=lambda part: part.error is None)
    return DeliveryPreview(
        tuple(shown[:_SHOWN]),
        len(parts),
        len(states) - states.count("left"),
        states.count("replaces"),
        states.count("unchanged"),
        sum(1 for part in parts if part.copies and not part.error),
        states.count("left"),
        sum(1 for part in parts if part.error),
        tuple(GroupedRemark(*key, tuple(some)) for key, some in order),
    )


def _compared(part: DryRunPart) -> DryRunPart:
    """Mark the files of a part that wouldn't change as "unchanged"."""
    if part.export is None or part.error or "replaces" not in part.states.values():
        return part
    manifest = manifest_in(part.folder, part.manifest_name)
    if manifest is None:
        return part
    with suppress(SieveError):
        graph = graph_of(part.export, part.sizes)
        same = unchanged_names(part.folder, manifest, part.export, graph, part.manifest_name)
        new = {name: "unchanged" if name in same else state for name, state in part.states.items()}
        return replace(part, states=new)
    return part
