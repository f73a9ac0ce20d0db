"""Source card: conventions of one source of pictures, reusable for all its files."""

from __future__ import annotations

from collections.abc import Iterable

from pydantic import Field

from copper_sieve.core.image.map_kind import MapKind, NormalY
from copper_sieve.core.models.base import Model
from copper_sieve.core.models.relief import Relief

_LEAST_SHARED = 0.6  # of a drop's marks must be known to a card for it to be offered


class SourceCard(Model):
    """Conventions of one source.

    marks : meaning of the words at the end of its file names
    packed : channels of packed files by such words
    """

    name: str = Field(min_length=1, max_length=80)
    normal_y: NormalY | None = Field(default=None, description="green direction of its normal maps")
    relief: Relief | None = Field(
        default=None, description="mean slope in degrees for sets from this source"
    )
    marks: dict[str, MapKind] = Field(default_factory=dict)
    packed: dict[str, dict[str, MapKind | None]] = Field(default_factory=dict)
    licence: str = Field(default="", max_length=200)
    where: str = Field(default="", max_length=400, description="where its files come from")

    def knows(self, marks: Iterable[str]) -> float:
        """Return the share of the given suffixes that this card contains, 0 to 1."""
        given = set(marks)
        own = set(self.marks) | set(self.packed)
        return len(given & own) / len(given) if given else 0.0


def offered_card(marks: Iterable[str], cards: Iterable[SourceCard]) -> SourceCard | None:
    """Return the card that matches the suffixes best; None if none does or two match equally."""
    given = set(marks)
    scored = sorted(((card.knows(given), card.name, card) for card in cards), reverse=True,
                    key=lambda one: one[:2])  # fmt: skip
    if not scored or scored[0][0] < _LEAST_SHARED:
        return None
    if len(scored) > 1 and scored[1][0] == scored[0][0]:
        return None
    return scored[0][2]
