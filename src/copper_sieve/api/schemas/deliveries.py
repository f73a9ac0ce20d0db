"""Dry runs, deliveries, targets."""

from __future__ import annotations

from collections.abc import Mapping
from datetime import datetime
from typing import Any, Literal

from pydantic import Field, model_validator

from copper_sieve.api.schemas.common import Answer, Request, png_url
from copper_sieve.core.export.export_plan import PackedFile
from copper_sieve.core.models.assay import Assay
from copper_sieve.core.models.manifest import Manifest
from copper_sieve.services.channel_view import AMPLIFIED, ChannelView
from copper_sieve.services.delivered import Lies, Standing
from copper_sieve.services.deliveries import Cell, DryRunPart, Look, each_to_each
from copper_sieve.services.history import ComparedChannel
from copper_sieve.store.deliveries import KeptDelivery, KeptPart


class CellAsk(Request):
    """One set for one target."""

    set_id: int
    target_id: str


class DeliveryCreate(Request):
    """Which sets go to which targets: each of `set_ids` to each of `target_ids`, and `cells`."""

    set_ids: list[int] = Field(default_factory=list)
    target_ids: list[str] = Field(default_factory=list)
    cells: list[CellAsk] = Field(default_factory=list, max_length=100_000)
    longer_side: int | None = Field(default=None, ge=1, le=16384)

    @model_validator(mode="after")
    def _something(self) -> DeliveryCreate:
        if bool(self.set_ids) != bool(self.target_ids) or not (self.set_ids or self.cells):
            raise ValueError("choose at least one set and one target")
        return self

    def pairs(self) -> list[Cell]:
        """Set and target of every part."""
        return [
            *each_to_each(self.set_ids, self.target_ids),
            *((one.set_id, one.target_id) for one in self.cells),
        ]


class DryChannelRead(Answer):
    """What a channel will hold: a map's component, a constant, or segments; `holds` in words."""

    channel: str
    map: str | None
    component: str
    constant: float | None
    changes: list[str]
    holds: str


class DryFileRead(Answer):
    """A file that will be written."""

    name: str
    state: Literal["new", "replaces", "foreign"]
    format: str
    width: int
    height: int
    bits: int
    encoding: str
    tiles: bool
    mips: bool
    channels: list[DryChannelRead]


class RemarkRead(Answer):
    """Something to know before delivering."""

    weight: Literal["info", "warning", "error"]
    text: str


class DryRunPartRead(Answer):
    """One set for one target."""

    set_id: int
    set_name: str
    target_id: str
    folder: str
    normal_y: str | None
    files: list[DryFileRead]
    other_files: dict[str, str]
    remarks: list[RemarkRead]
    error: str | None


class CauseRead(Answer):
    """Something to know of some parts, told once; blocked ones cannot be delivered."""

    weight: Literal["blocked", "error", "warning", "info"]
    text: str
    cells: int
    set_ids: list[int] = Field(description="of up to twenty of them")


class LookRead(Answer):
    """What a delivery of many parts would be: figures, each cause once, and the first parts."""

    shown: list[DryRunPartRead]
    parts: int
    files: int
    replaced: int
    blocked: int
    causes: list[CauseRead]


class BoardCellRead(Answer):
    """One set for one target, where it was ever asked for."""

    set_id: int
    target_id: str
    state: Literal["delivered", "stale", "waiting", "running", "failed"]
    delivery_id: int | None
    progress: float
    error: str | None


class LyingRead(Answer):
    """A cell whose files do not lie there any more as they were delivered."""

    set_id: int
    target_id: str
    lies: Lies
    text: str


class DeliveryPartRead(Answer):
    """One set for one target, with its proof when it is done.

    lies : if its files lie in the folder as it wrote them, and in words where they do not
    replaced_by : the delivery whose files lie there now
    """

    n: int
    set_id: int | None
    set_name: str
    target_id: str
    folder: str
    manifest: Manifest | None
    assay: Assay | None
    lies: Lies
    lies_text: str
    replaced_by: int | None


class WorkRead(Answer):
    """A delivery that waits or runs, in short."""

    id: int
    state: Literal["queued", "running"]
    progress: float
    step: str
    cancel_requested: bool


class DeliveryRead(Answer):
    """A delivery and how far it is."""

    id: int
    state: Literal["queued", "running", "done", "failed", "cancelled"]
    progress: float
    step: str
    error: str | None
    cancel_requested: bool
    created_at: datetime
    started_at: datetime | None
    finished_at: datetime | None
    parts: list[DeliveryPartRead]


class ChannelViewRead(Answer):
    """A channel of a delivered file: pictures (data URLs, PNG), and how far it is from what it
    should hold.

    map : what it was made of, before its changes; null for constants and shared channels
    difference : amplified so many times
    largest, mean : in codes
    """

    words: str
    held: str
    expected: str
    map: str | None
    difference: str
    amplified: int
    largest: float
    mean: float


class ComparedFileRead(Answer):
    """A file of two deliveries; of a changed one, the channels whose codes differ."""

    name: str
    kind: Literal["same", "changed", "added", "gone"]
    channels: list[str]
    words: str


class ComparedPartRead(Answer):
    """One set for one target in an earlier and a later delivery; `maps` came out otherwise."""

    set_name: str
    target_id: str
    n: int | None
    other_n: int | None
    maps: list[str]
    files: list[ComparedFileRead]


class ComparedChannelRead(Answer):
    """A channel in two deliveries: data URLs; differences are shares of the stored range."""

    before: str
    after: str
    difference: str
    amplified: int
    largest: float
    mean: float


def read_compared_channel(found: ComparedChannel) -> ComparedChannelRead:
    """The answer for a channel in two deliveries."""
    return ComparedChannelRead(
        before=png_url(found.before),
        after=png_url(found.after),
        difference=png_url(found.difference),
        amplified=found.amplified,
        largest=found.largest,
        mean=found.mean,
    )


def read_dry_run(part: DryRunPart) -> DryRunPartRead:
    """The answer for one part of a dry run."""
    export = part.export
    names = {file.name for file in export.files} if export else set()
    return DryRunPartRead(
        set_id=part.set_id,
        set_name=part.set_name,
        target_id=part.target_id,
        folder=str(part.folder),
        normal_y=export.preset.normal_y if export else None,
        files=[_read_file(f, part.states[f.name]) for f in export.files] if export else [],
        other_files={name: state for name, state in part.states.items() if name not in names},
        remarks=[
            RemarkRead(weight=remark.weight, text=remark.text)
            for remark in (export.remarks if export else ())
        ],
        error=part.error,
    )


def read_look(found: Look) -> LookRead:
    """The answer for a look at many parts."""
    return LookRead(
        shown=[read_dry_run(part) for part in found.shown],
        parts=found.parts,
        files=found.files,
        replaced=found.replaced,
        blocked=found.blocked,
        causes=[
            CauseRead(
                weight=one.weight,
                text=one.text,
                cells=len(one.cells),
                set_ids=[set_id for set_id, _ in one.cells[:20]],
            )
            for one in found.causes
        ],
    )


def _read_file(file: PackedFile, state: Any) -> DryFileRead:
    return DryFileRead(
        name=file.name,
        state=state,
        format=file.spec.format,
        width=file.size[0],
        height=file.size[1],
        bits=file.spec.bits,
        encoding=file.spec.encoding,
        tiles=file.spec.tiles,
        mips=file.spec.mips,
        channels=[
            DryChannelRead(
                channel=letter,
                map=slot.map,
                component=slot.component,
                constant=slot.constant,
                changes=[change.words() for change in slot.changes],
                holds=slot.words(),
            )
            for letter, slot in file.slots.items()
        ],
    )


def read_delivery(one: KeptDelivery, standings: Mapping[tuple[int, int], Standing]) -> DeliveryRead:
    """The answer for one delivery, with how each of its parts lies there now."""
    parts = [_read_part(part, standings[one.id, part.n]) for part in one.parts]
    return DeliveryRead(
        id=one.id,
        state=one.state,
        progress=one.progress,
        step=one.step,
        error=one.error,
        cancel_requested=one.cancel_requested,
        created_at=one.created_at,
        started_at=one.started_at,
        finished_at=one.finished_at,
        parts=parts,
    )


def _read_part(part: KeptPart, standing: Standing) -> DeliveryPartRead:
    return DeliveryPartRead(
        n=part.n,
        set_id=part.set_id,
        set_name=part.set_name,
        target_id=part.target_id,
        folder=str(part.folder),
        manifest=None if part.manifest is None else Manifest.model_validate(part.manifest),
        assay=None if part.assay is None else Assay.model_validate(part.assay),
        lies=standing.lies,
        lies_text=standing.text,
        replaced_by=standing.by,
    )


def read_channel_view(view: ChannelView) -> ChannelViewRead:
    """The answer for one channel of a delivered file."""
    return ChannelViewRead(
        words=view.words,
        held=png_url(view.held),
        expected=png_url(view.expected),
        map=None if view.map is None else png_url(view.map),
        difference=png_url(view.difference),
        amplified=AMPLIFIED,
        largest=view.largest,
        mean=view.mean,
    )
