"""Texture sets: rows of the Tray, reading and changing one."""

from __future__ import annotations

from collections.abc import Callable, Collection
from dataclasses import dataclass

from copper_sieve.core.codecs.encoders.png import encode_png
from copper_sieve.core.errors import ConflictError, SieveError
from copper_sieve.core.graph.evaluate import evaluate
from copper_sieve.core.graph.geometry import Geometry, Sizes, geometry_of
from copper_sieve.core.graph.node import Plan
from copper_sieve.core.graph.plan import plan
from copper_sieve.core.image.map_kind import MapKind
from copper_sieve.core.models.file_facts import LightFacts, TilingFacts
from copper_sieve.core.models.texture_set import SetDefinition
from copper_sieve.services.context import Context
from copper_sieve.services.display import displayed
from copper_sieve.services.readiness import Readiness, readiness_of
from copper_sieve.services.tray.lit import lit_key, lit_plan
from copper_sieve.store import texture_sets
from copper_sieve.store.database import Transaction
from copper_sieve.store.projects import get_project
from copper_sieve.store.sources import SourceMeasurements, source_measures, source_sizes
from copper_sieve.store.texture_sets import StoredSet

THUMBNAIL_SIDE = 128
_WORKING_SIDE = 1024


@dataclass(frozen=True, slots=True)
class SetView:
    """A set for the interface.

    keys : content keys of its maps' thumbnails; lit : of its lit picture
    readiness : by target
    tiling, light : measurements of its reference map, if any: tiling as imported, light as prepared
    """

    id: int
    version: int
    texture_set: SetDefinition
    geometry: Geometry
    keys: dict[MapKind, str]
    lit: str
    readiness: dict[str, Readiness]
    can_undo: bool
    can_redo: bool
    tiling: TilingFacts | None
    light: LightFacts | None


def list_views(
    context: Context,
    project_slug: str,
    ids: Collection[int] | None = None,
    choose: Callable[[list[StoredSet]], list[StoredSet]] = lambda some: some,
) -> list[SetView]:
    """Return the readable sets of a project by name; see `unreadable`.

    ids : only these; choose : filters ids
    """
    with context.database.transaction() as connection:
        project = get_project(connection, project_slug)
        kept = texture_sets.list_sets(connection, project.id, ids)
        readable = [one for one in kept if _problem(context, one) is None]
        return _views(context, connection, choose(readable))


def unreadable(context: Context, project_slug: str) -> dict[int, str]:
    """Return the unreadable sets of a project, each with the reason."""
    with context.database.transaction() as connection:
        project = get_project(connection, project_slug)
        kept = texture_sets.list_sets(connection, project.id)
    return {one.id: text for one in kept if (text := _problem(context, one)) is not None}


def _problem(context: Context, kept: StoredSet) -> str | None:
    """Return why a set can't be read or planned; cached per version."""
    version, text = context.problems.get(kept.id, (0, None))
    if version != kept.version:
        text = None
        try:
            definition = kept.definition()
            plan(definition, dict.fromkeys(definition.sources(), (1, 1)))
        except SieveError as error:
            text = error.message
        context.problems[kept.id] = kept.version, text
    return text


def get_view(context: Context, set_id: int) -> SetView:
    """Return a set. Raises NotFoundError."""
    with context.database.transaction() as connection:
        return _view(context, connection, texture_sets.get_set(connection, set_id))


def change(
    context: Context,
    set_id: int,
    version: int,
    texture_set: SetDefinition,
    *,
    amends: bool = False,
) -> SetView:
    """Replace a set's definition.

    amends : the change is merged with the previous one, and both are undone together
    Raises ConflictError if it was changed since `version`, PlanError or ParameterError if it can't
    be computed; then nothing is changed.
    """
    texture_set.checked()
    with context.database.transaction() as connection:
        sizes = source_sizes(connection, texture_set.sources())
        if missing := texture_set.sources() - set(sizes):
            raise ConflictError(f"the source {min(missing)[:12]} doesn't exist. Import it first")
        plan(texture_set, sizes)
        kept = texture_sets.update_set(connection, set_id, version, texture_set, amends=amends)
        return _view(context, connection, kept)


def step(context: Context, set_id: int, version: int, by: int) -> SetView:
    """Undo (-1) or redo (+1) the last change. Raises ConflictError, NotFoundError."""
    with context.database.transaction() as connection:
        kept = texture_sets.step_history(connection, set_id, version, by)
        return _view(context, connection, kept)


def _view(context: Context, connection: Transaction, kept: StoredSet) -> SetView:
    return _views(context, connection, [kept])[0]


def _views(context: Context, connection: Transaction, kept: list[StoredSet]) -> list[SetView]:
    """Return the views of sets of one project."""
    sets = {one.id: one.definition() for one in kept}
    sizes = source_sizes(connection, {s for one in sets.values() for s in one.sources()})
    measures = source_measures(connection, sizes)
    history = texture_sets.history_positions(connection, list(sets))
    readiness = readiness_of(context, connection, kept[0].project_id, list(sets)) if kept else {}
    views = []
    for one in kept:
        texture_set = sets[one.id]
        geometry = geometry_of(texture_set, sizes)
        can_undo, can_redo = history[one.id]
        source = geometry.photo.source if geometry.photo else ""
        measured = measures.get(source, SourceMeasurements())
        views.append(
            SetView(
                id=one.id,
                version=one.version,
                texture_set=texture_set,
                geometry=geometry,
                keys=_thumbnail_plan(texture_set, sizes, geometry).outputs,
                lit=lit_key(lit_plan(texture_set, sizes, geometry), texture_set.model),
                readiness=readiness[one.id],
                can_undo=can_undo,
                can_redo=can_redo,
                tiling=measured.tiling,
                light=_turned(measured.light, geometry) if measured.light else None,
            )
        )
    return views


def _turned(light: LightFacts, geometry: Geometry) -> LightFacts:
    azimuth = round(geometry.azimuth(light.azimuth)) % 180
    return light.model_copy(update={"azimuth": azimuth})


def _thumbnail_plan(
    texture_set: SetDefinition,
    sizes: Sizes,
    geometry: Geometry,
    wanted: list[MapKind] | None = None,
) -> Plan:
    """Plan thumbnails, never enlarged, from maps large enough to keep fine relief."""
    return plan(
        texture_set, sizes, wanted=wanted, longer_side=min(THUMBNAIL_SIDE, max(geometry.size)),
        compute_side=_WORKING_SIDE, geometry=geometry,
    )  # fmt: skip


def map_pictures(
    context: Context, texture_set: SetDefinition, sizes: Sizes
) -> dict[MapKind, bytes]:
    """Return a small PNG of every map of a set. Raises PlanError, NotFoundError."""
    graph = _thumbnail_plan(texture_set, sizes, geometry_of(texture_set, sizes))
    rasters = evaluate(
        graph, context.load_source, context.load_model, cache=context.cache,
        is_cancelled=context.closing.is_set,
    )  # fmt: skip
    return {kind: encode_png(displayed(rasters[kind])) for kind in texture_set.maps}


def map_thumbnail(context: Context, set_id: int, kind: MapKind) -> tuple[str, bytes]:
    """Return content key and PNG of a map's thumbnail. Raises NotFoundError, MissingMapError."""
    with context.database.transaction() as connection:
        texture_set = texture_sets.get_set(connection, set_id).definition()
        sizes = source_sizes(connection, texture_set.sources())
    graph = _thumbnail_plan(texture_set, sizes, geometry_of(texture_set, sizes), [kind])
    rasters = evaluate(
        graph, context.load_source, context.load_model, cache=context.cache,
        is_cancelled=context.closing.is_set,
    )  # fmt: skip
    return graph.outputs[kind], encode_png(displayed(rasters[kind]))
