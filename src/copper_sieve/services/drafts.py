"""A set as it is kept, or as a window would have it."""

from __future__ import annotations

from copper_sieve.core.errors import NotFoundError
from copper_sieve.core.graph.evaluate import evaluate
from copper_sieve.core.graph.geometry import Sizes, geometry_of
from copper_sieve.core.graph.plan import plan
from copper_sieve.core.image.map_kind import MapKind
from copper_sieve.core.image.raster import Float
from copper_sieve.core.models.texture_set import SetDefinition
from copper_sieve.services.context import Context
from copper_sieve.store.sources import source_sizes
from copper_sieve.store.texture_sets import get_set

_SIDE = 512  # texels of the longer side that tell enough of a color


def looked_at(
    context: Context, set_id: int, draft: SetDefinition | None
) -> tuple[SetDefinition, Sizes]:
    """What to look at, checked, and the sizes of its sources.

    draft : looked at instead of the set as it is kept
    Raises NotFoundError for an unknown set or source, PlanError, ParameterError.
    """
    with context.database.transaction() as connection:
        kept = get_set(connection, set_id)
        texture_set = (draft or kept.definition()).checked()
        sizes = source_sizes(connection, texture_set.sources())
    if missing := texture_set.sources() - set(sizes):
        raise NotFoundError(f"there is no source {min(missing)[:12]}")
    return texture_set, sizes


def small_color(context: Context, texture_set: SetDefinition, sizes: Sizes) -> Float:
    """The base color at 512 texels at most: (H, W, 3) float32, linear light."""
    geometry = geometry_of(texture_set, sizes)
    graph = plan(
        texture_set, sizes, wanted=[MapKind.BASE_COLOR],
        longer_side=min(_SIDE, max(geometry.size)), geometry=geometry,
    )  # fmt: skip
    rasters = evaluate(graph, context.load_source, cache=context.memory)
    return rasters[MapKind.BASE_COLOR].pixels
