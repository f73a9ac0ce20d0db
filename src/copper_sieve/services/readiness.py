"""How a set stands with each target: not delivered, delivered as it is, or changed since."""

from __future__ import annotations

from typing import Literal

from pydantic import ValidationError

from copper_sieve.core.targets.target_preset import TargetPreset
from copper_sieve.services.context import Context
from copper_sieve.services.targets import Target, all_targets
from copper_sieve.store import deliveries
from copper_sieve.store.database import Transaction
from copper_sieve.store.deliveries import LatestPart
from copper_sieve.store.texture_sets import KeptSet

Readiness = Literal["ready", "delivered", "stale"]
_MOST_KEPT = 50_000


def readiness_of(
    context: Context, connection: Transaction, sets: list[KeptSet]
) -> dict[int, dict[str, Readiness]]:
    """For each set, by target. What was compared once is not compared again."""
    targets = all_targets(connection)
    delivered = {
        (part.set_id, part.target_id): part
        for project_id in {one.project_id for one in sets}
        for part in deliveries.latest_parts(connection, project_id)
    }
    return {
        one.id: {
            target_id: _readiness(context, one, target, delivered.get((one.id, target_id)))
            for target_id, target in targets.items()
        }
        for one in sets
    }


def _readiness(
    context: Context, kept: KeptSet, target: Target, part: LatestPart | None
) -> Readiness:
    if part is None:
        return "ready"
    if part.definition != kept.stored:
        return "stale"
    key = part.delivery_id, target.preset.id  # what was delivered does not change
    known = context.compared.get(key)
    if known is None or known[0] != target.preset:
        if len(context.compared) >= _MOST_KEPT:
            context.compared.clear()
        known = context.compared[key] = target.preset, _is(part.preset, target.preset)
    return "delivered" if known[1] else "stale"


def _is(stored: dict[str, object], preset: TargetPreset) -> bool:
    """The same preset, whatever its fields were called when it was stored."""
    try:
        return TargetPreset.model_validate(stored) == preset
    except ValidationError:
        return False
