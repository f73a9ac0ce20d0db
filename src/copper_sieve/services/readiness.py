"""Delivery states: not delivered, up to date, or changed since."""

from __future__ import annotations

from collections.abc import Collection
from typing import Literal

from pydantic import ValidationError

from copper_sieve.core.targets.target_preset import TargetPreset
from copper_sieve.services import destinations
from copper_sieve.services.context import Context
from copper_sieve.services.targets import all_targets
from copper_sieve.store import deliveries
from copper_sieve.store.database import Transaction
from copper_sieve.store.delivery_rows import LatestPart
from copper_sieve.store.projects import slug_of

Delivered = Literal["delivered", "stale"]
Readiness = Literal["ready", "delivered", "stale"]
_MOST_KEPT = 10_000


def delivered_of(
    context: Context,
    connection: Transaction,
    project_id: int,
    ids: Collection[int] | None = None,
) -> dict[int, dict[str, Delivered]]:
    """Return the delivery states of sets that were delivered, by set and target.

    ids : of these sets only. Compared presets are cached.
    """
    slug = slug_of(connection, project_id)
    places = destinations.of_project(context.settings, connection, project_id, slug)
    found: dict[int, dict[str, Delivered]] = {}
    for part in deliveries.latest_parts(connection, project_id, ids):
        place = places.get(part.target_id)
        if place is not None:
            same = (
                part.same_set
                and place.place(slug, part.set_name) == (part.folder, part.manifest_name)
                and _same_preset(context, connection, part, place.preset)
            )
            found.setdefault(part.set_id, {})[part.target_id] = "delivered" if same else "stale"
    return found


def readiness_of(
    context: Context, connection: Transaction, project_id: int, ids: Collection[int]
) -> dict[int, dict[str, Readiness]]:
    """Return the delivery states of sets for every target."""
    delivered = delivered_of(context, connection, project_id, ids)
    every: dict[str, Readiness] = dict.fromkeys(all_targets(connection), "ready")
    return {one: {**every, **delivered.get(one, {})} for one in ids}


def _same_preset(
    context: Context, connection: Transaction, part: LatestPart, preset: TargetPreset
) -> bool:
    key = part.preset_key, preset.id
    known = context.compared.get(key)
    if known is None or known[0] != preset:
        if len(context.compared) >= _MOST_KEPT:
            context.compared.clear()
        stored = deliveries.part_preset(connection, part)
        known = context.compared[key] = preset, _is(stored, preset)
    return known[1]


def _is(stored: dict[str, object], preset: TargetPreset) -> bool:
    """Return whether two presets are equal, regardless of old field names."""
    try:
        return TargetPreset.model_validate(stored) == preset
    except ValidationError:
        return False
