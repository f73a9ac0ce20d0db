"""Blend two sets: measure their heights, then create a new set."""

from __future__ import annotations

from copper_sieve.core.errors import ConflictError, NotFoundError
from copper_sieve.core.graph.evaluate import evaluate
from copper_sieve.core.graph.geometry import geometry_of
from copper_sieve.core.graph.plan import plan
from copper_sieve.core.image.map_kind import MapKind
from copper_sieve.core.models.blending import BlendInput, blend_definitions, with_height
from copper_sieve.core.models.set_edits import with_name
from copper_sieve.core.models.texture_set import SetDefinition
from copper_sieve.services.context import Context
from copper_sieve.store import texture_sets, tray_changes
from copper_sieve.store.projects import get_project
from copper_sieve.store.sources import source_sizes
from copper_sieve.store.tray_changes import SetChange

_SIDE = 1024  # texels at which the reliefs are measured


def blend(
    context: Context, project_slug: str, below: int, above: int, name: str
) -> tuple[int, str]:
    """Create a set by blending two others, which stay unchanged; return its id and name.

    below, above : set ids; the lower one determines width and size
    Raises NotFoundError, ConflictError, ParameterError, PlanError.
    """
    if below == above:
        raise ConflictError("select exactly two sets to blend")
    with context.database.transaction() as connection:
        project = get_project(connection, project_slug)
        kept = {
            one.id: one for one in texture_sets.list_sets(connection, project.id, [below, above])
        }
        if missing := {below, above} - set(kept):
            raise NotFoundError(f"there is no texture set {min(missing)} in {project.title}")
        sets = {number: one.definition() for number, one in kept.items()}
        sizes = source_sizes(connection, {s for one in sets.values() for s in one.sources()})
    made = blend_definitions(
        "blend", _measured(context, sets[below], sizes), _measured(context, sets[above], sizes)
    )
    named = with_name(made, name or f"{sets[below].name}_{sets[above].name}"[:100])
    with context.database.transaction() as connection:
        texture_sets.lock_project(connection, project.id)
        added = texture_sets.add_set(connection, project.id, named)
        tray_changes.add_change(
            connection,
            project.id,
            f"{added.name} blended",
            [SetChange(added.id, "deleted", True, False)],
        )
    return added.id, added.name


def _measured(
    context: Context, texture_set: SetDefinition, sizes: dict[str, tuple[int, int]]
) -> BlendInput:
    complete = with_height(texture_set)
    geometry = geometry_of(complete, sizes)
    depth = geometry.surface.depth
    if depth is None:
        graph = plan(
            complete, sizes, wanted=[MapKind.HEIGHT], longer_side=min(_SIDE, max(geometry.size)),
            compute_side=_SIDE, geometry=geometry,
        )  # fmt: skip
        depth = evaluate(graph, context.load_source, context.load_model, cache=context.cache).depth
    return BlendInput(texture_set, geometry.surface, depth or 0.0, geometry.size)
