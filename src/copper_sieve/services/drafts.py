"""A stored set, or a draft of it."""

from __future__ import annotations

from copper_sieve.core.errors import NotFoundError
from copper_sieve.core.graph.evaluate import evaluate
from copper_sieve.core.graph.geometry import Sizes, geometry_of
from copper_sieve.core.graph.plan import plan
from copper_sieve.core.image.map_kind import MapKind
from copper_sieve.core.image.raster import Float
from copper_sieve.core.models.texture_set import (
    Derived,
    FromBlendedSet,
    SetDefinition,
    is_measured,
)
from copper_sieve.services.context import Context
from copper_sieve.store.sources import source_sizes
from copper_sieve.store.texture_sets import StoredSet, get_set

_SIDE = 512  # texels of the longer side, sufficient for color measurements


def draft_for_preview(
    context: Context, set_id: int, draft: SetDefinition | None
) -> tuple[SetDefinition, Sizes]:
    """Return the validated definition and the sizes of its sources.

    draft : replaces the stored definition
    Raises NotFoundError for an unknown set or source, PlanError, ParameterError.
    """
    with context.database.transaction() as connection:
        kept = get_set(connection, set_id)
        texture_set = (kept.definition() if draft is None else _whole(draft, kept)).checked()
        sizes = source_sizes(connection, texture_set.sources())
    if missing := texture_set.sources() - set(sizes):
        raise NotFoundError(f"there is no source {min(missing)[:12]}")
    return texture_set, sizes


def blends(texture_set: SetDefinition) -> bool:
    """Return whether maps of a set are computed from maps of the sets that it blends."""
    return any(
        isinstance(filling, FromBlendedSet)
        for way in texture_set.maps.values() if isinstance(way, Derived)
        for filling in way.slots.values()
    )  # fmt: skip


def uses_stored_maps(draft: SetDefinition) -> bool:
    """Return whether a draft omits blended sets or pictures, which the stored set has."""
    measured = draft.captures is None and any(is_measured(way) for way in draft.maps.values())
    return measured or blends(draft)


def _whole(draft: SetDefinition, kept: StoredSet) -> SetDefinition:
    """Complete a draft from the stored set.

    A client sends the edited parts: blended sets are omitted, and so are captures unless they are
    changed.
    """
    keeps = [name for name in ("parts", "captures") if kept.stored.get(name)]
    if draft.captures is not None and "captures" in keeps:
        keeps.remove("captures")
    if not keeps:
        return draft
    own = kept.definition()
    return draft.model_copy(update={name: getattr(own, name) for name in keeps})


def small_color(context: Context, texture_set: SetDefinition, sizes: Sizes) -> Float:
    """Return the base color at 512 texels or less: (H, W, 3) float32, linear light."""
    geometry = geometry_of(texture_set, sizes)
    graph = plan(
        texture_set, sizes, wanted=[MapKind.BASE_COLOR],
        longer_side=min(_SIDE, max(geometry.size)), geometry=geometry,
    )  # fmt: skip
    rasters = evaluate(graph, context.load_source, context.load_model, cache=context.memory)
    return rasters[MapKind.BASE_COLOR].pixels
