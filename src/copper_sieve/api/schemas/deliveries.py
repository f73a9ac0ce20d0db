"""Delivery previews, deliveries, the board."""

from __future__ import annotations

from datetime import datetime
from typing import Any, Literal

from pydantic import Field, model_validator

from copper_sieve.api.schemas.common import RequestModel, ResponseModel
from copper_sieve.core.export.export_plan import PackedFile
from copper_sieve.core.models.assay import Assay
from copper_sieve.core.models.manifest import Manifest
from copper_sieve.services.delivered import DeliverySummary, DiskStateName, PartDiskState
from copper_sieve.services.deliveries import DeliveryRequest
from copper_sieve.services.delivery_preview import Cell, DeliveryPreview, DryRunPart, cells_of
from copper_sieve.store.delivery_rows import LightPart, StoredPart

_MOST_SETS = 1000


class CellChoice(RequestModel):
    """One set and one target."""

    set_id: int
    target_id: str


class DeliveryCreate(RequestModel):
    """Sets and targets of a delivery: each of `set_ids` to each of `target_ids`, and `cells`."""

    set_ids: list[int] = Field(default_factory=list)
    target_ids: list[str] = Field(default_factory=list)
    cells: list[CellChoice] = Field(default_factory=list, max_length=100_000)
    longer_side: int | None = Field(default=None, ge=1, le=16384)
    delete_obsolete: bool = Field(
        default=False,
        description="delete files of earlier deliveries that this one no longer contains",
    )
    rewrite: bool = Field(default=False, description="rewrite unchanged files")

    @model_validator(mode="after")
    def _something(self) -> DeliveryCreate:
        if bool(self.set_ids) != bool(self.target_ids) or not (self.set_ids or self.cells):
            raise ValueError("select at least one set and one target")
        return self

    def pairs(self) -> list[Cell]:
        """Return the set and target of every part."""
        return [
            *cells_of(self.set_ids, self.target_ids),
            *((one.set_id, one.target_id) for one in self.cells),
        ]

    def options(self) -> DeliveryRequest:
        """Return the options of the delivery."""
        return DeliveryRequest(self.longer_side, self.delete_obsolete, self.rewrite)


class DryChannelRead(ResponseModel):
    """Content of a channel: a component of a map, a constant, or segments; `holds` describes it."""

    channel: str
    map: str | None
    component: str
    constant: float | None
    changes: list[str]
    holds: str


class DryFileRead(ResponseModel):
    """A file that will be written."""

    name: str
    state: Literal["new", "replaces", "unchanged", "foreign"]
    format: str
    width: int
    height: int
    bits: int
    encoding: str
    tiles: bool
    mips: bool
    channels: list[DryChannelRead]


class RemarkRead(ResponseModel):
    """A message about a delivery."""

    weight: Literal["info", "warning", "error"]
    text: str
    cause: str = Field(description="identifies a warning that can be dismissed; else empty")


class DryRunPartRead(ResponseModel):
    """One set and one target."""

    set_id: int
    set_name: str
    target_id: str
    folder: str
    normal_y: str | None
    files: list[DryFileRead]
    other_files: dict[str, str]
    remarks: list[RemarkRead]
    error: str | None


class CauseRead(ResponseModel):
    """A message about several parts; blocked parts can't be delivered."""

    weight: Literal["blocked", "error", "warning", "info"]
    text: str
    cause: str = Field(description="identifies a warning that can be dismissed; else empty")
    dismissed: bool
    cells: int
    set_ids: list[int] = Field(description="up to 1000 sets")


class DeliveryPreviewRead(ResponseModel):
    """Summary of a delivery of many parts: counts, each message once, and the first parts."""

    shown: list[DryRunPartRead]
    parts: int
    files: int
    replaced: int
    unchanged: int = Field(description="files whose bytes wouldn't change")
    copies: int = Field(description="parts that are also copied to a second destination")
    left: int = Field(
        description="files there from earlier deliveries that this one no longer contains"
    )
    blocked: int
    causes: list[CauseRead]


class BoardCellRead(ResponseModel):
    """One set and one target with a delivery."""

    set_id: int
    target_id: str
    state: Literal["delivered", "stale", "waiting", "running", "failed"]
    delivery_id: int | None
    progress: float
    error: str | None


class DiskStateRead(ResponseModel):
    """A cell whose files were changed since the delivery."""

    set_id: int
    target_id: str
    disk_state: DiskStateName
    text: str


class StaleFilesRead(ResponseModel):
    """A stale cell, with the number of files that would change, out of all its files."""

    set_id: int
    target_id: str
    differ: int
    of: int


class DeliveryPartRead(ResponseModel):
    """One set and target of a delivery, in short form.

    written, kept : number of files written, and of unchanged files
    disk_state : state of the files on disk, with a description if they changed; null while unknown
    replaced_by : the delivery that overwrote the files
    bytes_kept : the delivered files can still be downloaded
    """

    n: int
    set_id: int | None
    set_name: str
    target_id: str
    folder: str
    state: Literal["queued", "running", "done", "failed", "cancelled"]
    progress: float
    step: str
    error: str | None
    written: int
    kept: int
    disk_state: DiskStateName | None
    disk_state_text: str
    replaced_by: int | None
    bytes_kept: bool


class DeliveredPartRead(ResponseModel):
    """Files and verification report of a part, and the state of its files on disk."""

    manifest: Manifest | None
    assay: Assay | None
    disk_state: DiskStateName
    disk_state_text: str
    replaced_by: int | None


class CountsRead(ResponseModel):
    """Number of parts by state."""

    parts: int
    queued: int
    running: int
    done: int
    failed: int
    cancelled: int


class DeliveryRead(ResponseModel):
    """A delivery with its progress."""

    id: int
    state: Literal["queued", "running", "done", "failed", "cancelled"]
    progress: float
    step: str
    error: str | None
    counts: CountsRead
    created_at: datetime
    started_at: datetime | None
    finished_at: datetime | None
    parts: list[DeliveryPartRead]


def read_dry_run(part: DryRunPart) -> DryRunPartRead:
    """Return the response for one part of a delivery preview."""
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
            RemarkRead(weight=remark.weight, text=remark.text, cause=remark.cause)
            for remark in (export.remarks if export else ())
            if remark.cause not in part.dismissed
        ],
        error=part.error,
    )


def read_delivery_preview(found: DeliveryPreview) -> DeliveryPreviewRead:
    """Return the response for the summary of a delivery."""
    return DeliveryPreviewRead(
        shown=[read_dry_run(part) for part in found.shown],
        parts=found.parts,
        files=found.files,
        replaced=found.replaced,
        unchanged=found.unchanged,
        copies=found.copies,
        left=found.left,
        blocked=found.blocked,
        causes=[
            CauseRead(
                weight=one.weight,
                text=one.text,
                cause=one.cause,
                dismissed=one.dismissed,
                cells=len(one.cells),
                set_ids=list(dict.fromkeys(set_id for set_id, _ in one.cells))[:_MOST_SETS],
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


def read_delivery(found: DeliverySummary) -> DeliveryRead:
    """Return the response for one delivery with the disk states of its parts."""
    one = found.delivery
    return DeliveryRead(
        id=one.id,
        state=one.state,
        progress=one.progress,
        step=one.step,
        error=found.error,
        counts=CountsRead.model_validate(one.counts),
        created_at=one.created_at,
        started_at=one.started_at,
        finished_at=one.finished_at,
        parts=[_read_part(part, found.disk_states.get(part.n)) for part in found.parts],
    )


def _read_part(part: LightPart, standing: PartDiskState | None) -> DeliveryPartRead:
    return DeliveryPartRead(
        n=part.n,
        set_id=part.set_id,
        set_name=part.set_name,
        target_id=part.target_id,
        folder=str(part.folder),
        state=part.state,
        progress=part.progress,
        step=part.step,
        error=part.error,
        written=part.written,
        kept=part.kept,
        disk_state=standing.disk_state if standing else None,
        disk_state_text=standing.text if standing else "",
        replaced_by=standing.by if standing else None,
        bytes_kept=bool(standing and standing.kept),
    )


class SkippedRead(ResponseModel):
    """A skipped cell, and why it can't be delivered."""

    set_id: int
    set_name: str
    target_id: str
    reason: str


class CreatedDeliveryRead(DeliveryRead):
    """A created delivery, and its skipped cells."""

    skipped: list[SkippedRead]


def read_delivered_part(part: StoredPart, standing: PartDiskState) -> DeliveredPartRead:
    """Return the response for one part with all details."""
    return DeliveredPartRead(
        manifest=None if part.manifest is None else Manifest.model_validate(part.manifest),
        assay=None if part.assay is None else Assay.model_validate(part.assay),
        disk_state=standing.disk_state,
        disk_state_text=standing.text,
        replaced_by=standing.by,
    )
