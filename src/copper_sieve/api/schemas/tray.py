"""The Tray: short list of sets, and changes of several sets."""

from __future__ import annotations

from datetime import datetime
from typing import Literal

from pydantic import Field

from copper_sieve.api.schemas.common import RequestModel, ResponseModel
from copper_sieve.core.image.map_kind import MapKind
from copper_sieve.core.models.finding import Rule, Weight
from copper_sieve.core.models.texture_set import LONGEST_NAME
from copper_sieve.services.tray.changes import Change


class OpenFindingRead(ResponseModel):
    """A checklist finding in short form."""

    rule: Rule
    kind: MapKind
    weight: Weight


class TrayRowRead(ResponseModel):
    """One set in the list; `/api/v1/projects/{project}/sets` returns all details."""

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
    checked: bool = Field(description="current value")
    findings: list[OpenFindingRead] = Field(
        description="open checklist findings, most severe first"
    )


class TrayRead(ResponseModel):
    """The sets of a project by name; undo and redo are the titles of the next steps."""

    rows: list[TrayRowRead]
    undo: str | None
    redo: str | None
    trash_count: int


class ChangeRequest(RequestModel):
    """A change of several sets; `dry` only reports what would be done."""

    set_ids: list[int] = Field(min_length=1, max_length=10_000)
    change: Change
    dry: bool = False


class BlendCreate(RequestModel):
    """Two sets to blend; the lower one determines width and size."""

    below: int
    above: int
    name: str = Field(default="", max_length=LONGEST_NAME)


class BlendedRead(ResponseModel):
    """The created set."""

    id: int
    name: str


class ChangePreviewRequest(RequestModel):
    """A change to preview; null renders the current set."""

    change: Change | None = None


class MessageRead(ResponseModel):
    """A message about sets."""

    text: str
    set_ids: list[int]


class ChangedRead(ResponseModel):
    """Result of a change, or its preview; `kept` lists the unchanged sets by reason."""

    title: str
    changed: list[int]
    made: list[int]
    kept: list[MessageRead]
    messages: list[MessageRead]
