"""UV coverage of a set's pictures on the linked model."""

from __future__ import annotations

from collections.abc import Iterable

from copper_sieve.core.mesh.coverage import Coverage
from copper_sieve.core.models.texture_set import SetDefinition
from copper_sieve.services.context import Context
from copper_sieve.store import models
from copper_sieve.store.database import Transaction
from copper_sieve.store.models import StoredModel

Known = dict[str, StoredModel]


def known_models(connection: Transaction, sets: Iterable[SetDefinition]) -> Known:
    """Return facts about the models linked to sets, by the SHA-256 of their files."""
    return models.of_sources(connection, {one.model.source for one in sets if one.model})


def coverage_of(context: Context, texture_set: SetDefinition, known: Known) -> Coverage | None:
    """Return the UV coverage for padding; None for a set without a model or usable UVs.

    The model is only read when something is padded.
    """
    link = texture_set.model
    model = known.get(link.source) if link else None
    if link is None or model is None or link.uv_set >= model.facts.uv_sets:
        return None
    label = model.name + (f", {link.material}" if link.material else "")
    return Coverage.later(
        lambda: context.load_model(link.source), link.source, label, link.material, link.uv_set,
        texture_set.sheet,
    )  # fmt: skip
