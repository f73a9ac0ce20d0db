"""Where the pictures of a set come from, as far as it was said."""

from __future__ import annotations

from copper_sieve.core.models.base import Model


class Origin(Model):
    """The part of a source card that a set stores; written to manifests."""

    card: str
    licence: str = ""
    where: str = ""
