"""Origin of a set's pictures, as stated."""

from __future__ import annotations

from copper_sieve.core.models.base import Model


class Origin(Model):
    """The part of a source card that a set stores; written to manifests."""

    card: str
    licence: str = ""
    where: str = ""
