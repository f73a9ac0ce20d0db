"""Deliveries and their parts, from asked-for to proven."""

from __future__ import annotations

from collections.abc import Collection, Sequence
from dataclasses import dataclass, fields
from datetime import datetime
from pathlib import Path
from typing import Any, Literal

from psycopg.types.json import Json

from copper_sieve.core.errors import NotFoundError
from copper_sieve.store.database import Row, Transaction, statements

_SQL = statements("deliveries")
Document = dict[str, Any]
State = Literal["queued", "running", "done", "failed", "cancelled"]


@dataclass(frozen=True, slots=True)
class NewPart:
    """One set for one target that is asked for; set and preset as JSON has them.

    set_id : None where the set is gone and only its definition is left
    """

    set_id: int | None
    target_id: str
    definition: Document
    preset: Document
    longer_side: int | None
    folder: Path


@dataclass(frozen=True, slots=True)
class KeptPart:
    """One set for one target.

    definition, preset : as they were when the delivery was asked for, as JSON has them
    manifest, assay : what was written and its proof, as JSON has them; None until it is delivered
    set_id : None when the set is gone
    """

    delivery_id: int
    n: int
    set_id: int | None
    target_id: str
    definition: Document
    preset: Document
    longer_side: int | None
    folder: Path
    manifest: Document | None
    assay: Document | None

    @classmethod
    def from_row(cls, row: Row) -> KeptPart:
        """As a statement gives it."""
        return cls(**{**row, "folder": Path(row["folder"])})

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
class KeptDelivery:
    """A delivery as it is kept, with its parts in order.

    progress : 0 to 1; step : what is done, in words
    attempts : how often a worker began it
    """

    id: int
    state: State
    progress: float
    step: str
    error: str | None
    cancel_requested: bool
    attempts: int
    created_at: datetime
    started_at: datetime | None
    finished_at: datetime | None
    parts: tuple[KeptPart, ...] = ()

    @classmethod
    def from_row(cls, row: Row, parts: Sequence[KeptPart]) -> KeptDelivery:
        """As a statement gives it, with its parts."""
        own = {one.name: row[one.name] for one in fields(cls) if one.name != "parts"}
        return cls(**own, parts=tuple(parts))


@dataclass(frozen=True, slots=True)
class LatestPart:
    """The newest part of a set for a target that was delivered whole.

    same_set : the set reads as it did then
    preset_key : the same for presets that read the same; see `part_preset`
    """

    set_id: int
    target_id: str
    same_set: bool
    preset_key: str
    delivery_id: int
    n: int

    @classmethod
    def from_row(cls, row: Row) -> LatestPart:
        """As a statement gives it."""
        return cls(**{one.name: row[one.name] for one in fields(cls)})


@dataclass(frozen=True, slots=True)
class WrittenPart:
    """What a delivery wrote into a folder."""

    delivery_id: int
    folder: Path
    manifest: Document

    @classmethod
    def from_row(cls, row: Row) -> WrittenPart:
        """As a statement gives it."""
        return cls(row["delivery_id"], Path(row["folder"]), row["manifest"])


@dataclass(frozen=True, slots=True)
class Unfinished:
    """A delivery that waits or runs.

    has_job : a job waits for it in the queue
    """

    id: int
    state: State
    has_job: bool


def add_delivery(connection: Transaction, project_id: int, parts: Sequence[NewPart]) -> int:
    """Store a delivery that waits, with its parts; returns its id."""
    row = connection.execute(_SQL["insert_delivery"], {"project_id": project_id}).fetchone()
    assert row is not None
    for n, part in enumerate(parts):
        connection.execute(
            _SQL["insert_part"],
            {
                "delivery_id": row["id"],
                "n": n,
                "set_id": part.set_id,
                "target_id": part.target_id,
                "definition": Json(part.definition),
                "preset": Json(part.preset),
                "longer_side": part.longer_side,
                "folder": str(part.folder),
            },
        )
    return int(row["id"])


def list_deliveries(connection: Transaction, project_id: int) -> list[KeptDelivery]:
    """The newest deliveries of a project with their parts."""
    rows = connection.execute(_SQL["list_deliveries"], {"project_id": project_id}).fetchall()
    return _with_parts(connection, rows)


def under_way(connection: Transaction, project_id: int) -> list[KeptDelivery]:
    """The deliveries of a project that wait or run, the newest first; without their parts."""
    rows = connection.execute(_SQL["under_way"], {"project_id": project_id})
    return [KeptDelivery.from_row(row, ()) for row in rows]


def get_delivery(connection: Transaction, delivery_id: int) -> KeptDelivery:
    """One delivery with its parts. Raises NotFoundError."""
    row = connection.execute(_SQL["get_delivery"], {"id": delivery_id}).fetchone()
    if row is None:
        raise NotFoundError(f"there is no delivery {delivery_id}")
    return _with_parts(connection, [row])[0]


def _with_parts(connection: Transaction, rows: list[Row]) -> list[KeptDelivery]:
    found = connection.execute(_SQL["list_parts"], {"ids": [row["id"] for row in rows]})
    parts: dict[int, list[KeptPart]] = {}
    for part in map(KeptPart.from_row, found):
        parts.setdefault(part.delivery_id, []).append(part)
    return [KeptDelivery.from_row(row, parts.get(row["id"], ())) for row in rows]


def begin(connection: Transaction, delivery_id: int) -> int | None:
    """From waiting to running; the number of the attempt, None when it does not wait (any more)."""
    row = connection.execute(_SQL["begin"], {"id": delivery_id}).fetchone()
    return None if row is None else int(row["attempts"])


def report(
    connection: Transaction, delivery_id: int, attempt: int, progress: float, step: str
) -> bool:
    """Store the progress; True when this attempt is to stop."""
    row = connection.execute(
        _SQL["report"],
        {"id": delivery_id, "attempt": attempt, "progress": progress, "step": step},
    ).fetchone()
    return row is None or bool(row["cancel_requested"])


def finish_part(
    connection: Transaction,
    delivery_id: int,
    n: int,
    *,
    attempt: int,
    manifest: dict[str, Any],
    assay: dict[str, Any],
) -> bool:
    """Store what a part wrote and its proof; False when this attempt was given up."""
    values = {
        "delivery_id": delivery_id,
        "n": n,
        "attempt": attempt,
        "manifest": Json(manifest),
        "assay": Json(assay),
    }
    return connection.execute(_SQL["finish_part"], values).rowcount == 1


def finish(
    connection: Transaction,
    delivery_id: int,
    state: State,
    error: str | None,
    attempt: int,
    *,
    was: State = "running",
) -> None:
    """End a delivery as done, failed or cancelled, if this attempt was not given up.

    was : its state so far; an attempt that was given up meanwhile finds it queued, and ends nothing
    """
    values = {"id": delivery_id, "state": state, "error": error, "attempt": attempt, "was": was}
    connection.execute(_SQL["finish"], values)


def requeue(connection: Transaction, delivery_id: int, attempt: int, *, counts: bool) -> None:
    """Back to waiting, after its worker was stopped or died.

    counts : the attempt counts as one; it does not when the delivery could do nothing about it
    """
    values = {"id": delivery_id, "attempt": attempt, "counts": counts}
    connection.execute(_SQL["requeue"], values)


def close_dead_jobs(connection: Transaction, delivery_id: int) -> None:
    """Mark the jobs of a delivery whose worker is gone as failed."""
    connection.execute(_SQL["close_dead_jobs"], {"id": delivery_id})


def ask_cancel(connection: Transaction, delivery_id: int) -> str | None:
    """Ask for a stop; returns the state it was in, None when it had already ended."""
    row = connection.execute(_SQL["ask_cancel"], {"id": delivery_id}).fetchone()
    return row["state"] if row else None


def unfinished(connection: Transaction) -> list[Unfinished]:
    """Deliveries that wait or run."""
    waiting = {row["id"] for row in connection.execute(_SQL["waiting_jobs"])}
    rows = connection.execute(_SQL["unfinished"])
    return [Unfinished(row["id"], row["state"], row["id"] in waiting) for row in rows]


def latest_parts(
    connection: Transaction, project_id: int, ids: Collection[int] | None = None
) -> list[LatestPart]:
    """For each set and target the newest part that was delivered whole; of `ids` or of all sets."""
    asked = {"project_id": project_id, "ids": None if ids is None else list(ids)}
    return [LatestPart.from_row(row) for row in connection.execute(_SQL["latest_parts"], asked)]


def part_preset(connection: Transaction, part: LatestPart) -> Document:
    """The preset of a part as JSON has it."""
    asked = {"delivery_id": part.delivery_id, "n": part.n}
    row = connection.execute(_SQL["part_preset"], asked).fetchone()
    return dict(row["preset"]) if row else {}


def asked_before(
    connection: Transaction, set_id: int | None, target_id: str, delivery_id: int | None = None
) -> int:
    """How often a set was asked for a target before that delivery; None: in all."""
    row = connection.execute(
        _SQL["asked_before"], {"set_id": set_id, "target_id": target_id, "before": delivery_id}
    ).fetchone()
    return int(row["n"]) if row else 0


def project_of(connection: Transaction, delivery_id: int) -> int:
    """The number of a delivery's project. Raises NotFoundError."""
    row = connection.execute(_SQL["get_delivery"], {"id": delivery_id}).fetchone()
    if row is None:
        raise NotFoundError(f"there is no delivery {delivery_id}")
    return int(row["project_id"])


def asked_for(connection: Transaction, ids: Collection[int]) -> dict[tuple[int, str], int]:
    """How often each of some sets was asked for each target."""
    rows = connection.execute(_SQL["asked_for"], {"ids": list(ids)})
    return {(row["set_id"], row["target_id"]): row["n"] for row in rows}


@dataclass(frozen=True, slots=True)
class AskedPart:
    """The newest delivery that was asked of a set for a target, and how far it is."""

    set_id: int
    target_id: str
    delivery_id: int
    state: State
    progress: float
    error: str | None


def latest_asked(connection: Transaction, project_id: int) -> list[AskedPart]:
    """For each set and target of a project the newest delivery that was not cancelled."""
    rows = connection.execute(_SQL["latest_asked"], {"project_id": project_id})
    return [AskedPart(**row) for row in rows]


def latest_whole(connection: Transaction, project_id: int, ids: Collection[int]) -> list[KeptPart]:
    """For each of some sets and each target the newest part that was delivered whole."""
    rows = connection.execute(_SQL["latest_whole"], {"project_id": project_id, "ids": list(ids)})
    return [KeptPart.from_row(row) for row in rows]


def written_to(connection: Transaction, folders: Collection[Path]) -> list[WrittenPart]:
    """Every part that was delivered into one of these folders, the newest first."""
    names = [str(folder) for folder in folders]
    rows = connection.execute(_SQL["written_to"], {"folders": names})
    return [WrittenPart.from_row(row) for row in rows]
