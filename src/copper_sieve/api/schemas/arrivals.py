"""Imported files, detection results and source cards."""

from __future__ import annotations

from typing import Annotated, Literal

from pydantic import Field, StringConstraints

from copper_sieve.api.schemas.common import RequestModel, ResponseModel
from copper_sieve.api.schemas.sets import SourceFactsRead
from copper_sieve.core.image.map_kind import MapKind, NormalY
from copper_sieve.core.models.assignment import AssignmentChange
from copper_sieve.core.models.light_captures import CapturesSpec
from copper_sieve.core.models.source_card import SourceCard
from copper_sieve.services.arrival_table import Arrival, Offer
from copper_sieve.services.arrivals import ImportTable
from copper_sieve.services.capture_groups import CaptureGroup

Said = Literal["detected", "card", "user"]


class ChannelRead(ResponseModel):
    """One channel of a packed file: its assigned map, and the detected one with the reason."""

    name: str
    kind: MapKind | None
    confidence: float
    reason: str


class NormalRead(ResponseModel):
    """Green direction: current value and measurement."""

    y: NormalY | None
    measured: str
    confidence: float
    reason: str
    decided_by: Said


class ArrivalRead(ResponseModel):
    """A row in Intake."""

    id: int
    sha256: str
    name: str
    inside: str
    batch: str
    state: Literal["waiting", "recognized", "refused", "accepted"]
    error: str | None
    facts: SourceFactsRead
    thumbnail: str | None
    set_name: str
    map: MapKind | Literal["packed", "none"]
    tile: int | None = Field(description="tile of the set (UDIM)")
    number: int | None = Field(description="number in the file name that may be a tile number")
    confidence: float
    reason: str
    decided_by: Said
    channels: list[ChannelRead]
    normal: NormalRead | None
    mark: str
    hint: str
    card: str | None
    relief: float | None = Field(
        description="mean slope of the set's relief in degrees; null: default"
    )
    set_id: int | None
    remarks: list[str]
    problem: str | None


class CardOffer(ResponseModel):
    """A source card that fits the files of a drop; it isn't applied until the user confirms it."""

    card: SourceCard
    ids: list[int]


class SurfaceRead(ResponseModel):
    """Pictures of one surface with different lights, which can be imported as one set.

    captures : placement and light of each picture; null while they are being estimated or if that
    failed
    thumbnails : in the order of the pictures
    """

    id: int
    name: str
    ids: list[int]
    captures: CapturesSpec | None
    error: str | None
    thumbnails: list[str]
    width: int
    height: int


class SurfaceAccept(RequestModel):
    """Create a set from pictures of one surface; null: the name is taken from the file names."""

    name: str | None = Field(default=None, min_length=1, max_length=100)


class IntakeRead(ResponseModel):
    """The files in Intake."""

    rows: list[ArrivalRead]
    waiting: int
    offers: list[CardOffer]
    surfaces: list[SurfaceRead]
    looking: bool = Field(
        description="pictures to compare, or pictures whose light directions are estimated"
    )
    known_sets: dict[str, int]


class RefusalRead(ResponseModel):
    """A file of an archive that wasn't imported."""

    name: str
    message: str


class AddedRead(ResponseModel):
    """Result of one upload."""

    batch: str
    ids: list[int]
    refused: list[RefusalRead]


class ArrivalChoice(RequestModel):
    """Selected rows."""

    ids: list[int] = Field(min_length=1, max_length=5000)


class ArrivalChange(ArrivalChoice):
    """Changed assignment of rows."""

    change: AssignmentChange


class CardChoice(ArrivalChoice):
    """Apply a source card to rows; null removes it."""

    card: str | None


class CardCreate(ArrivalChoice):
    """Create a source card from the corrections of rows, or extend one."""

    name: Annotated[str, StringConstraints(strip_whitespace=True, min_length=1, max_length=80)]
    licence: str = Field(default="", max_length=200)
    where: str = Field(default="", max_length=400)


class AcceptedRead(ResponseModel):
    """The sets that files were added to, by name."""

    sets: dict[str, int]


def read_arrival(one: Arrival) -> ArrivalRead:
    """Return the response for one row."""
    found = one.found
    guesses = {guess.name: guess for guess in found.channels} if found else {}
    names = [name for name in one.facts.channels if name != "Y"]
    packed = one.assignment.map == "packed"
    channels = [
        ChannelRead(
            name=name,
            kind=one.assignment.channels.get(name),
            confidence=guesses[name].confidence if name in guesses else 0.0,
            reason=guesses[name].reason if name in guesses else "",
        )
        for name in (names if packed else ())
    ]
    normal = None
    if found and one.assignment.map is MapKind.NORMAL:
        normal = NormalRead(
            y=one.assignment.normal_y,
            measured=found.normal_y,
            confidence=found.normal_confidence,
            reason=found.normal_reason,
            decided_by=one.by["normal_y"],
        )
    return ArrivalRead(
        id=one.id,
        sha256=one.sha256,
        name=one.name,
        inside=one.inside,
        batch=one.batch,
        state=one.state,
        error=one.error,
        facts=SourceFactsRead.model_validate(one.facts),
        thumbnail=f"/api/v1/sources/{one.sha256}/thumbnail.png" if one.has_thumbnail else None,
        set_name=one.assignment.set_name,
        map=one.assignment.map,
        tile=one.assignment.tile,
        number=one.number,
        confidence=found.confidence if found else 0.0,
        reason=found.reason if found else "",
        decided_by=one.by["map"],
        channels=channels,
        normal=normal,
        mark=one.mark,
        hint=one.hint,
        card=one.card,
        relief=one.assignment.relief,
        set_id=one.set_id,
        remarks=list(one.remarks),
        problem=one.problem,
    )


def read_table(table: ImportTable) -> IntakeRead:
    """Return the response for all rows."""
    return IntakeRead(
        rows=[read_arrival(one) for one in table.rows],
        waiting=table.waiting,
        offers=[_offer(one) for one in table.offers],
        surfaces=[_surface(one) for one in table.surfaces],
        looking=table.is_comparing or any(one.is_looked_at for one in table.surfaces),
        known_sets=table.known_sets,
    )


def _surface(one: CaptureGroup) -> SurfaceRead:
    first = one.files[0].facts
    return SurfaceRead(
        id=one.id, name=one.name, ids=[file.id for file in one.files], captures=one.captures,
        error=one.error, width=first.width, height=first.height,
        thumbnails=[f"/api/v1/sources/{file.sha256}/thumbnail.png" for file in one.files],
    )  # fmt: skip


def _offer(one: Offer) -> CardOffer:
    return CardOffer(card=one.card, ids=list(one.ids))
