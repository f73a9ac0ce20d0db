"""Dry runs, deliveries, targets."""

from __future__ import annotations

from collections.abc import Mapping
from datetime import datetime
from typing import Any, Literal

from pydantic import Field

from copper_sieve.api.schemas.common import Answer, Request, png_url
from copper_sieve.core.export.export_plan import PackedFile
from copper_sieve.core.models.assay import Assay
from copper_sieve.core.models.manifest import Manifest
from copper_sieve.services.channel_view import AMPLIFIED, ChannelView
from copper_sieve.services.delivered import Lies, Standing
from copper_sieve.services.deliveries import DryRunPart
from copper_sieve.store.deliveries import KeptDelivery, KeptPart


class DeliveryCreate(Request):
    """Which sets go to which targets; each to each."""

    set_ids: list[int] = Field(min_length=1)
    target_ids: list[str] = Field(min_length=1)
    longer_side: int | None = Field(default=None, ge=1, le=16384)


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
