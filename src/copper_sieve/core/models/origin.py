"""Where the pictures of a set come from, as far as it was said."""

from __future__ import annotations

from copper_sieve.core.models.base import Model


class Origin(Model):
    """What a set keeps of the card it was taken in with; goes into manifests."""

    card: str
    licence: str = ""
    where: str = ""
