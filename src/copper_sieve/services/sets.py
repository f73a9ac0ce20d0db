"""Texture sets: the Tray's rows, reading and changing one."""

from __future__ import annotations

from dataclasses import dataclass, field
from typing import Any, Literal

from pydantic import ValidationError

from copper_sieve.core.codecs.encoders.png import encode_png
from copper_sieve.core.errors import ConflictError, SieveError
from copper_sieve.core.graph.evaluate import evaluate
from copper_sieve.core.graph.plan import Plan, plan
from copper_sieve.core.graph.preparing import (
    guide_of,
    native_size,
    settled_azimuth,
    settled_surface,
)
from copper_sieve.core.image.map_kind import MapKind
from copper_sieve.core.models.texture_set import SetDefinition, SurfaceSpec
from copper_sieve.core.targets.target_preset import TargetPreset
from copper_sieve.services.context import Context
from copper_sieve.services.display import displayed
from copper_sieve.services.targets import all_targets
from copper_sieve.store import deliveries, texture_sets
from copper_sieve.store.database import Row, Transaction
from copper_sieve.store.projects import get_project
from copper_sieve.store.sources import source_measures, source_sizes

THUMBNAIL_SIDE = 128
_WORKING_SIDE = 1024
Readiness = Literal["ready", "delivered", "stale"]


@dataclass(frozen=True, slots=True)
class SetView:
    """A set as the interface shows it: definition, size, content keys of its thumbnails.

    surface : as it is once the set is prepared
    measures : of its guide, where they were measured: `tiling` as it came in, `light` as the
        preparation turns it
    """

    id: int
    version: int
    texture_set: SetDefinition
    size: tuple[int, int]
    surface: SurfaceSpec
    keys: dict[MapKind, str]
    readiness: dict[str, Readiness]
    can_undo: bool
    can_redo: bool
    measures: dict[str, Any] = field(default_factory=dict)


def list_views(context: Context, project_slug: str) -> list[SetView]:
    """All sets of a project by name, but those that cannot be read; see `unreadable`."""
    with context.database.transaction() as connection:
        project = get_project(connection, project_slug)
        rows = texture_sets.list_sets(connection, project.id)
        return _views(connection, project.id, [row for row in rows if _problem(row) is None])


def unreadable(context: Context, project_slug: str) -> dict[int, str]:
    """The sets of a project that are left out everywhere, each with the reason."""
    with context.database.transaction() as connection:
        project = get_project(connection, project_slug)
        rows = texture_sets.list_sets(connection, project.id)
    return {row["id"]: text for row in rows if (text := _problem(row)) is not None}


def _problem(row: Row) -> str | None:
    try:
        definition = texture_sets.definition_of(row)
        plan(definition, dict.fromkeys(definition.sources(), (1, 1)))
    except SieveError as error:
        return error.message
    return None


def get_view(context: Context, set_id: int) -> SetView:
    """One set. Raises NotFoundError."""
    with context.database.transaction() as connection:
        row = texture_sets.get_set(connection, set_id)
        return _views(connection, row["project_id"], [row])[0]


def change(
    context: Context,
    set_id: int,
    version: int,
    texture_set: SetDefinition,
    *,
    amends: bool = False,
) -> SetView:
    """Replace a set's definition.

    amends : it belongs to the change before, both are undone in one
    Raises ConflictError when it was changed since `version`, PlanError or ParameterError when it
    cannot be computed; then nothing is changed.
    """
    texture_set.checked()
    with context.database.transaction() as connection:
        sizes = source_sizes(connection, texture_set.sources())
        if missing := texture_set.sources() - set(sizes):
            raise ConflictError(f"the source {min(missing)[:12]} is not there: take it in first")
        plan(texture_set, sizes)
        row = texture_sets.update_set(connection, set_id, version, texture_set, amends=amends)
        return _views(connection, row["project_id"], [row])[0]


def step(context: Context, set_id: int, version: int, by: int) -> SetView:
    """Undo (-1) or redo (+1) the last change. Raises ConflictError, NotFoundError."""
    with context.database.transaction() as connection:
        row = texture_sets.step_history(connection, set_id, version, by)
        return _views(connection, row["project_id"], [row])[0]


def _views(connection: Transaction, project_id: int, rows: list[Row]) -> list[SetView]:
    sets = {row["id"]: texture_sets.definition_of(row) for row in rows}
    sizes = source_sizes(connection, {s for one in sets.values() for s in one.sources()})
    measures = source_measures(connection, sizes)
    delivered = {
        (part["set_id"], part["target_id"]): part
        for part in deliveries.latest_parts(connection, project_id)
    }
    history = texture_sets.history_positions(connection, [row["id"] for row in rows])
    presets = {id: target.preset for id, target in all_targets(connection).items()}
    views = []
    for row in rows:
        one = sets[row["id"]]
        readiness: dict[str, Readiness] = {}
        for target_id, preset in presets.items():
            part = delivered.get((row["id"], target_id))
            if part is None:
                readiness[target_id] = "ready"
            else:
                same = part["definition"] == row["definition"] and _is(part["preset"], preset)
                readiness[target_id] = "delivered" if same else "stale"
        keys = _thumbnail_plan(one, sizes).outputs
        guide = guide_of(one, sizes)
        can_undo, can_redo = history[row["id"]]
        views.append(
            SetView(
                id=row["id"],
                version=row["version"],
                texture_set=one,
                size=native_size(one, sizes),
                surface=settled_surface(one, sizes),
                keys=keys,
                readiness=readiness,
                can_undo=can_undo,
                can_redo=can_redo,
                measures=_turned(one, sizes, measures.get(guide[1].source, {})) if guide else {},
            )
        )
    return views


def _turned(
    texture_set: SetDefinition, sizes: dict[str, tuple[int, int]], measures: dict[str, Any]
) -> dict[str, Any]:
    light = measures.get("light")
    if not light:
        return measures
    azimuth = round(settled_azimuth(texture_set, sizes, light["azimuth"])) % 180
    return {**measures, "light": {**light, "azimuth": azimuth}}


def _is(stored: dict[str, object], preset: TargetPreset) -> bool:
    """The same preset, whatever its fields were called when it was stored."""
    try:
        return TargetPreset.model_validate(stored) == preset
    except ValidationError:
        return False


def _thumbnail_plan(
    texture_set: SetDefinition,
    sizes: dict[str, tuple[int, int]],
    wanted: list[MapKind] | None = None,
) -> Plan:
    """Thumbnails, never enlarged; computed large enough that fine relief is still there."""
    side = min(THUMBNAIL_SIDE, max(native_size(texture_set, sizes)))
    return plan(texture_set, sizes, wanted=wanted, longer_side=side, compute_side=_WORKING_SIDE)


def map_thumbnail(context: Context, set_id: int, kind: MapKind) -> tuple[str, bytes]:
    """Content key and PNG bytes of one map's thumbnail. Raises NotFoundError, MissingMapError."""
    with context.database.transaction() as connection:
        row = texture_sets.get_set(connection, set_id)
        texture_set = texture_sets.definition_of(row)
        sizes = source_sizes(connection, texture_set.sources())
    graph = _thumbnail_plan(texture_set, sizes, [kind])
    raster = evaluate(graph, context.load_source, cache=context.cache)[kind]
    return graph.outputs[kind], encode_png(displayed(raster))
