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
    """What was proven of the files that were delivered into a folder last.

    checks : by the SHA-256 of their bytes, as JSON has them
    digests : SHA-256 by name; stamps : by name, where they are known
    """

    checks: dict[str, Document]
    digests: dict[str, str]
    stamps: Stamps

    @classmethod
    def from_row(cls, row: Row) -> VerifiedPart:
        """As a statement gives it."""
        held = row["manifest"]
        digests = {
            one["name"]: one["sha256"] for one in (*held["files"], *held.get("documents", ()))
        }
        checks = row["assay"]["files"]
        good = {one["name"]: one for one in checks if one["ok"] and one["name"] in digests}
        return cls({digests[name]: one for name, one in good.items()}, digests, row["stamps"] or {})


@dataclass(frozen=True, slots=True)
class NewPart:
    """One set for one target that is asked for; set and preset as JSON has them.

    set_id : None where the set is gone and only its definition is left
    manifest_name : of the manifest in the folder, which several parts may share
    bytes : of memory that carrying it out is expected to take
    delete_obsolete : files of an earlier delivery that this one does not have are removed
    rewrite : every file is made, also one that would come out the same
    disk_state : what lies there already, where that is all of it
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
        """As a statement gives it."""
        return cls(**row)

    @property
    def set_name(self) -> str:
        """The name that the set had."""
        return str(self.definition["name"])

    @property
    def entries(self) -> list[Document]:
        """Every file and document of its manifest: `name`, `bytes`, `sha256` …"""
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
        """As a statement gives it."""
        return cls(**row)


@dataclass(frozen=True, slots=True)
class PartCounts:
    """How many parts of a delivery are how far."""

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
        """As a statement gives it, with its parts."""
        apart = ("parts", "counts")
        own = {one.name: row[one.name] for one in fields(cls) if one.name not in apart}
        counts = PartCounts(**{one.name: row[one.name] for one in fields(PartCounts)})
        return cls(**own, counts=counts, parts=tuple(parts))

    @property
    def error(self) -> str | None:
        """Why parts of it failed, in words; None where none did."""
        return why_failed(self.parts)


def why_failed(parts: Sequence[StoredPart | LightPart]) -> str | None:
    """Why some of a delivery's parts failed, in words; None where none did."""
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

    recent, span : the share of it that was done in the last seconds, and in how many
    """

    delivery: StoredDelivery
    recent: float
    span: float

    @property
    def seconds_left(self) -> float | None:
        """How long it goes on, as fast as it went in the last minute; None where that says
        nothing yet."""
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
        """As a statement gives it."""
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
        """As a statement gives it."""
        return cls(row["delivery_id"], row["folder"], row["manifest_name"], row["manifest"])


@dataclass(frozen=True, slots=True)
class RequestedPart:
    """The newest delivery that was asked of a set for a target, and how far it is."""

    set_id: int
    target_id: str
    delivery_id: int
    state: State
    progress: float
    error: str | None
