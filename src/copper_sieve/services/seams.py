"""Preparation of a set: its result, and the methods of making it tileable."""

from __future__ import annotations

from copper_sieve.core.errors import PlanError
from copper_sieve.core.graph.evaluate import evaluate
from copper_sieve.core.graph.fair_lock import computing
from copper_sieve.core.graph.geometry import reference_map_of
from copper_sieve.core.graph.plan import plan
from copper_sieve.core.graph.preparing import PLANNED_SIDE
from copper_sieve.core.models.texture_set import SetDefinition
from copper_sieve.core.operations.prepare.compare_ways import SeamMethods, compare_ways
from copper_sieve.services.context import Context
from copper_sieve.services.drafts import draft_for_preview


def measure_seams(context: Context, set_id: int, draft: SetDefinition | None = None) -> SeamMethods:
    """Measure every method of making a set tileable, on its prepared reference map.

    draft : replaces the stored definition
    Raises NotFoundError, PlanError for a set without pictures, ShapeError if it is too small.
    """
    texture_set, sizes = draft_for_preview(context, set_id, draft)
    guide = reference_map_of(texture_set, sizes)
    if guide is None:
        raise PlanError(
            f"{texture_set.name} has no picture that could be made tileable. Import one"
        )
    kind, picture = guide
    alone = texture_set.model_copy(
        update={
            "maps": {kind: picture},
            "shelf": {},
            "prepare": texture_set.prepare.model_copy(update={"seams": None, "size": None}),
        }
    )
    graph = plan(alone, sizes, longer_side=PLANNED_SIDE, compute_side=PLANNED_SIDE)
    raster = evaluate(graph, context.load_source, context.load_model, cache=context.memory)[kind]
    return compare_ways(raster.pixels, computing)
