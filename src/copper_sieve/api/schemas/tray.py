"""The Tray's light list, and changes of many sets at once."""

from __future__ import annotations

from datetime import datetime
from typing import Literal

from pydantic import Field

from copper_sieve.api.schemas.common import Answer, Request
from copper_sieve.core.image.map_kind import MapKind
from copper_sieve.core.models.finding import Rule, Weight
from copper_sieve.core.models.texture_set import LONGEST_NAME
from copper_sieve.services.tray.changes import Change


class ToldFindingRead(Answer):
    """A finding of the checklist in few words."""

    rule: Rule
    kind: MapKind
    weight: Weight


class TrayRowRead(Answer):
    """One set in the list; everything else of it is told by `/api/v1/projects/{project}/sets`."""

    id: int
    version: int
    name: str
    tags: list[str]
    notes: str
    maps: dict[MapKind, Literal["imported", "derived", "constant"]]
    card: str | None = Field(description="the source card of its import")
    updated_at: datetime
    deleted_at: datetime | None
    delivered: dict[str, Literal["delivered", "stale"]] = Field(
        description="delivery state by target"
    )
    looked_over: bool = Field(description="current value")
    findings: list[ToldFindingRead] = Field(
        description="open checklist findings, most severe first"
    )


class TrayRead(Answer):
    """The sets of a project by name; undo and redo are the titles of what would be done."""

    rows: list[TrayRowRead]
    undo: str | None
    redo: str | None
    thrown_away: int


class ChangeAsk(Request):
    """A change of some sets; `dry` only says what would be done."""

    set_ids: list[int] = Field(min_length=1, max_length=10_000)
    change: Change
    dry: bool = False


class BlendAsk(Request):
    """Two sets to blend: the upper one lies over the lower one, which gives width and size."""

    below: int
    above: int
    name: str = Field(default="", max_length=LONGEST_NAME)


class BlendedRead(Answer):
    """The set that was made."""

    id: int
    name: str


class LitChangeAsk(Request):
    """A change that is only looked at; null shows the set as it is."""

    change: Change | None = None


class ToldRead(Answer):
    """A sentence about some sets."""

    text: str
    set_ids: list[int]


class ChangedRead(Answer):
    """What was done, or would be; `kept` are the sets that stay as they are, by reason."""

    title: str
    changed: list[int]
    made: list[int]
    kept: list[ToldRead]
    told: list[ToldRead]
