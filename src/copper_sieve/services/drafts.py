"""A set as it is kept, or as a window would have it."""

from __future__ import annotations

from copper_sieve.core.errors import NotFoundError
from copper_sieve.core.presets.texture_set import SetDefinition
from copper_sieve.services.context import Context
from copper_sieve.store.sources import source_sizes
from copper_sieve.store.texture_sets import definition_of, get_set


def looked_at(
    context: Context, set_id: int, draft: SetDefinition | None
) -> tuple[SetDefinition, dict[str, tuple[int, int]]]:
    """What to look at, checked, and the sizes of its sources.

    draft : looked at instead of the set as it is kept
    Raises NotFoundError for an unknown set or source, PlanError, ParameterError.
    """
    with context.database.transaction() as connection:
        row = get_set(connection, set_id)
        texture_set = (draft or definition_of(row)).checked()
        sizes = source_sizes(connection, texture_set.sources())
    if missing := texture_set.sources() - set(sizes):
        raise NotFoundError(f"there is no source {min(missing)[:12]}")
    return texture_set, sizes
