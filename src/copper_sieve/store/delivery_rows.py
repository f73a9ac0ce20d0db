"""Stored deliveries and their parts, as returned by statements."""

from __future__ import annotations

from collections.abc import Sequence
from dataclasses import dataclass, fields
from datetime import datetime
from pathlib import Path
from typing import Any, Literal

from copper_sieve.store.database import Row

Document = dict[str, Any]
State = Literal["queued", "running", "done", "failed", "cancelled"]
_SAYS_SOMETHING = 3.0  # seconds


Stamps = dict[str, list[int]]  # of files by their names; see `checksums.file_signature`


@dataclass(frozen=True, slots=True)
class ExistingPart:
    """A part that is already delivered in the same form; manifest and assay as JSON.

    kept : number of files
    """

    manifest: Document
    assay: Document
    kept: int
    stamps: Stamps


@dataclass(frozen=True, slots=True)
class VerifiedPart:
    """Verification results of the latest delivery into a folder.

    checks : as JSON, by the SHA-256 of the file
    digests : SHA-256 by file name
    stamps : file signatures by name, where known
    """

    checks: dict[str, Document]
    digests: dict[str, str]
    stamps: Stamps

    @classmethod
    def from_row(cls, row: Row) -> VerifiedPart:
        """Build from a row of a statement."""
        held = row["manifest"]
        digests = {
            one["name"]: one["sha256"] for one in (*held["files"], *held.get("documents", ()))
        }
        checks = row["assay"]["files"]
        good = {one["name"]: one for one in checks if one["ok"] and one["name"] in digests}
        return cls({digests[name]: one for name, one in good.items()}, digests, row["stamps"] or {})


@dataclass(frozen=True, slots=True)
class NewPart:
    """A requested set and target; definition and preset as JSON.

    set_id : None if the set was purged and only its definition remains
    manifest_name : of the manifest in the folder; several parts may share it
    bytes : estimated memory
    delete_obsolete : delete files of an earlier delivery that this one doesn't have
    rewrite : write every file, also identical ones
    disk_state : the existing files, if nothing has to be written
    """

    set_id: int | None
    target_id: str
    definition: Document
    preset: Document
    longer_side: int | None
    folder: Path
    manifest_name: str
    bytes: int = 0
    delete_obsolete: bool = False
    rewrite: bool = False
    disk_state: ExistingPart | None = None


@dataclass(frozen=True, slots=True)
class StoredPart:
    """One set and target.

    number : of its advisory lock
    definition, preset : at the creation of the delivery, as JSON
    manifest, assay : files and verification as JSON; None until delivered
    set_id : None if the set was purged
    progress : 0 to 1; step : description of the current step
    attempts : number of starts by workers
    written, kept : number of written and unchanged files
    small : part of a small delivery, which has priority
    """

    delivery_id: int
    n: int
    number: int
    set_id: int | None
    target_id: str
    definition: Document
    preset: Document
    longer_side: int | None
    folder: Path
    manifest: Document | None
    assay: Document | None
    state: State
    progress: float
    step: str
    error: str | None
    attempts: int
    delete_obsolete: bool
    rewrite: bool
    written: int
    kept: int
    manifest_name: str
    small: bool
    project: str

    @classmethod
    def from_row(cls, row: Row) -> StoredPart:
        """Build from a row of a statement."""
        return cls(**row)

    @property
    def set_name(self) -> str:
        """Return the name of the set at the creation of the delivery."""
        return str(self.definition["name"])

    @property
    def entries(self) -> list[Document]:
        """Return every file and document of its manifest: `name`, `bytes`, `sha256` …"""
        held = self.manifest or {}
        return [*held.get("files", ()), *held.get("documents", ())]


@dataclass(frozen=True, slots=True)
class LightPart:
    """A part without its large fields (definition, preset, manifest)."""

    delivery_id: int
    n: int
    set_id: int | None
    set_name: str
    target_id: str
    folder: Path
    state: State
    progress: float
    step: str
    error: str | None
    written: int
    kept: int

    @classmethod
    def from_row(cls, row: Row) -> LightPart:
        """Build from a row of a statement."""
        return cls(**row)


@dataclass(frozen=True, slots=True)
class PartCounts:
    """Number of parts of a delivery in each state."""

    parts: int
    queued: int
    running: int
    done: int
    failed: int
    cancelled: int


@dataclass(frozen=True, slots=True)
class StoredDelivery:
    """A stored delivery with its parts in order; its state follows from theirs.

    progress : 0 to 1; step : description of the current step
    """

    id: int
    state: State
    progress: float
    step: str
    created_at: datetime
    started_at: datetime | None
    finished_at: datetime | None
    counts: PartCounts
    parts: tuple[StoredPart, ...] = ()

    @classmethod
    def from_row(cls, row: Row, parts: Sequence[StoredPart]) -> StoredDelivery:
        """Build from a row of a statement and the parts."""
        apart = ("parts", "counts")
        own = {one.name: row[one.name] for one in fields(cls) if one.name not in apart}
        counts = PartCounts(**{one.name: row[one.name] for one in fields(PartCounts)})
        return cls(**own, counts=counts, parts=tuple(parts))

    @property
    def error(self) -> str | None:
        """Return why parts failed, as a sentence; None if none did."""
        return why_failed(self.parts)


def why_failed(parts: Sequence[StoredPart | LightPart]) -> str | None:
    """Return why parts of a delivery failed, as a sentence; None if none did."""
    failed = [part for part in parts if part.state == "failed"]
    if not failed:
        return None
    first = f"{failed[0].error}"
    if len(parts) == 1:
        return first
    rest = "" if len(failed) == 1 else f" (and {len(failed) - 1} more)"
    return (
        f"{len(failed)} of {len(parts)} parts failed: {failed[0].set_name} for "
        f"{failed[0].target_id}: {first}{rest}"
    )


@dataclass(frozen=True, slots=True)
class ActiveDelivery:
    """A delivery that waits or runs.

    recent, span : share of it that was completed in the last `span` seconds
    """

    delivery: StoredDelivery
    recent: float
    span: float

    @property
    def seconds_left(self) -> float | None:
        """Estimate the remaining seconds from the speed of the last minute.

        None if there was no progress.
        """
        if self.span < _SAYS_SOMETHING or self.recent <= 0:
            return None
        return (1 - self.delivery.progress) / self.recent * self.span


@dataclass(frozen=True, slots=True)
class LatestPart:
    """The latest completed part of a set and target.

    same_set : the set is unchanged since; set_name : current name
    preset_key : equal for equal presets; see `part_preset`
    """

    set_id: int
    target_id: str
    same_set: bool
    preset_key: str
    delivery_id: int
    n: int
    folder: Path
    manifest_name: str
    set_name: str

    @classmethod
    def from_row(cls, row: Row) -> LatestPart:
        """Build from a row of a statement."""
        return cls(**{one.name: row[one.name] for one in fields(cls)})


@dataclass(frozen=True, slots=True)
class WrittenPart:
    """Files that a delivery wrote to a folder."""

    delivery_id: int
    folder: Path
    manifest_name: str
    manifest: Document

    @classmethod
    def from_row(cls, row: Row) -> WrittenPart:
        """Build from a row of a statement."""
        return cls(row["delivery_id"], row["folder"], row["manifest_name"], row["manifest"])


@dataclass(frozen=True, slots=True)
class RequestedPart:
    """The latest requested delivery of a set for a target, and its state."""

    set_id: int
    target_id: str
    delivery_id: int
    state: State
    progress: float
    error: str | None
