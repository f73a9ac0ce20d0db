"""Imported files that aren't in a set yet, and source cards."""

from __future__ import annotations

from collections.abc import Iterable
from dataclasses import dataclass
from typing import Literal

from psycopg.types.json import Json

from copper_sieve.core.errors import NotFoundError
from copper_sieve.core.models.assignment import AssignmentChange
from copper_sieve.core.models.file_facts import FileFacts
from copper_sieve.core.models.source_card import SourceCard
from copper_sieve.store.database import Row, Transaction, statements
from copper_sieve.store.disk_use import delete_unused

_SQL = statements("arrivals")
State = Literal["waiting", "recognized", "refused", "accepted"]


@dataclass(frozen=True, slots=True)
class StoredArrival:
    """A stored file in Intake.

    name, inside : its name, and its path in the imported folder or archive
    batch : shared by the files of one drop
    found : detection result as JSON; None until detected
    hint : contradiction with other maps of its set
    change : the user's corrections
    error : why it can't be used
    """

    id: int
    project_id: int
    sha256: str
    name: str
    inside: str
    batch: str
    state: State
    error: str | None
    found: object
    hint: str
    change: AssignmentChange
    card: SourceCard | None
    set_id: int | None
    facts: FileFacts
    has_thumbnail: bool

    @classmethod
    def from_row(cls, row: Row) -> StoredArrival:
        """Build from a row of a statement."""
        return cls(
            **{
                **row,
                "change": AssignmentChange.model_validate(row["change"]),
                "card": SourceCard.model_validate(row["card"]) if row["card"] else None,
                "facts": FileFacts.model_validate(row["facts"]),
            }
        )


@dataclass(frozen=True, slots=True)
class WaitingArrival:
    """A file in Intake that wasn't analyzed yet."""

    id: int
    project_id: int
    sha256: str
    name: str
    batch: str

    @classmethod
    def from_row(cls, row: Row) -> WaitingArrival:
        """Build from a row of a statement."""
        return cls(**row)


def add_arrival(
    connection: Transaction, project_id: int, sha256: str, name: str, *, inside: str, batch: str
) -> int:
    """Add a stored file to Intake, to be recognized; return its id."""
    row = connection.execute(
        _SQL["insert_arrival"],
        {"project_id": project_id, "sha256": sha256, "name": name, "inside": inside,
         "batch": batch},
    ).fetchone()  # fmt: skip
    assert row is not None
    return int(row["id"])


def list_arrivals(connection: Transaction, project_id: int) -> list[StoredArrival]:
    """Return the files in Intake of a project in the order of import."""
    rows = connection.execute(_SQL["list_arrivals"], {"project_id": project_id})
    return [StoredArrival.from_row(row) for row in rows]


def get_arrivals(
    connection: Transaction, ids: Iterable[int], *, lock: bool = False
) -> list[StoredArrival]:
    """Return files in Intake by id. Raises NotFoundError if one of them doesn't exist.

    lock : lock the rows until the transaction ends
    """
    wanted = set(ids)
    if lock:
        connection.execute(_SQL["lock_arrivals"], {"ids": list(wanted)})
    rows = connection.execute(_SQL["get_arrivals"], {"ids": list(wanted)}).fetchall()
    if missing := wanted - {row["id"] for row in rows}:
        raise NotFoundError(f"the file {min(missing)} is no longer in Intake. Reload the page")
    return [StoredArrival.from_row(row) for row in rows]


def get_waiting(connection: Transaction, arrival_id: int) -> WaitingArrival | None:
    """Return a file in Intake that waits to be recognized; None if it doesn't."""
    row = connection.execute(_SQL["get_waiting"], {"id": arrival_id}).fetchone()
    return None if row is None else WaitingArrival.from_row(row)


def known_recognition(connection: Transaction, arrival_id: int) -> object | None:
    """Return the earlier detection result of the same bytes with the same name as JSON, or None."""
    row = connection.execute(_SQL["known_recognition"], {"id": arrival_id}).fetchone()
    return None if row is None else row["found"]


def drop_state(connection: Transaction, project_id: int, batch: str) -> tuple[int, float]:
    """Return how many files of a drop wait to be recognized, and seconds since the last upload."""
    parameters = {"project_id": project_id, "batch": batch}
    row = connection.execute(_SQL["drop_state"], parameters).fetchone()
    assert row is not None
    return int(row["waiting"]), float(row["age"])


def set_found(connection: Transaction, arrival_id: int, found: object) -> None:
    """Store the detection result of a file."""
    connection.execute(_SQL["set_found"], {"id": arrival_id, "found": Json(found)})


def set_refused(connection: Transaction, arrival_id: int, error: str) -> None:
    """Store the reason why a file can't be used."""
    connection.execute(_SQL["set_refused"], {"id": arrival_id, "error": error})


def set_hint(connection: Transaction, arrival_id: int, hint: str) -> None:
    """Store a contradiction with other maps of its set."""
    connection.execute(_SQL["set_hint"], {"id": arrival_id, "hint": hint})


def set_change(connection: Transaction, arrival_id: int, change: AssignmentChange) -> None:
    """Store the user's corrections."""
    text = Json(change.model_dump(mode="json", exclude_none=True))
    connection.execute(_SQL["set_change"], {"id": arrival_id, "change": text})


def set_card(connection: Transaction, ids: Iterable[int], card: SourceCard | None) -> None:
    """Set or remove the source card."""
    text = Json(card.model_dump(mode="json")) if card else None
    connection.execute(_SQL["set_card"], {"ids": list(ids), "card": text})


def set_accepted(connection: Transaction, ids: Iterable[int], set_id: int | None) -> None:
    """Mark files as accepted: in a set, or skipped by the user."""
    connection.execute(_SQL["set_accepted"], {"ids": list(ids), "set_id": set_id})


def dismiss_arrivals(connection: Transaction, ids: Iterable[int]) -> None:
    """Remove files from Intake; they can be restored until they are purged."""
    connection.execute(_SQL["dismiss_arrivals"], {"ids": list(ids)})


def restore_arrivals(connection: Transaction, ids: Iterable[int]) -> None:
    """Restore removed files to Intake. Raises NotFoundError for purged ones."""
    wanted = set(ids)
    rows = connection.execute(_SQL["restore_arrivals"], {"ids": list(wanted)})
    if wanted - {row["id"] for row in rows}:
        raise NotFoundError("the files were removed too long ago. Import them again")


def purge_dismissed(connection: Transaction, days: int) -> None:
    """Purge files removed more than this many days ago, and originals that nothing else uses."""
    rows = connection.execute(_SQL["purge_dismissed"], {"days": days}).fetchall()
    delete_unused(connection, seconds=0, only=[row["sha256"] for row in rows])


@dataclass(frozen=True, slots=True)
class ArrivalOrigin:
    """Origin of an imported file: its drop or folder, and its path and name there."""

    project_id: int
    batch: str
    inside: str
    name: str


def replace_source(
    connection: Transaction, origin: ArrivalOrigin, before: str, sha256: str
) -> list[int] | None:
    """Record that a file has other bytes now; return the ids of the sets that use it.

    The result is None if the file was never imported.
    """
    parameters = {"project_id": origin.project_id, "batch": origin.batch, "inside": origin.inside,
             "name": origin.name, "before": before, "sha256": sha256}  # fmt: skip
    rows = connection.execute(_SQL["replace_source"], parameters).fetchall()
    return [row["set_id"] for row in rows if row["set_id"] is not None] if rows else None


def arrived_since(connection: Transaction, project_id: int, batch: str) -> set[str]:
    """Return the SHA-256 of all files of a drop."""
    rows = connection.execute(_SQL["arrived_since"], {"project_id": project_id, "batch": batch})
    return {row["sha256"] for row in rows}


def list_cards(connection: Transaction) -> list[SourceCard]:
    """Return all source cards by name."""
    rows = connection.execute(_SQL["list_cards"])
    return [SourceCard.model_validate(row["definition"]) for row in rows]


def get_card(connection: Transaction, name: str) -> SourceCard | None:
    """Return a source card, or None."""
    row = connection.execute(_SQL["get_card"], {"name": name}).fetchone()
    return SourceCard.model_validate(row["definition"]) if row else None


def put_card(connection: Transaction, card: SourceCard) -> None:
    """Store a source card under its name, replacing one of the same name."""
    text = Json(card.model_dump(mode="json"))
    connection.execute(_SQL["put_card"], {"name": card.name, "definition": text})


def delete_card(connection: Transaction, name: str) -> None:
    """Delete a source card; sets imported with it keep its values. Raises NotFoundError."""
    if connection.execute(_SQL["delete_card"], {"name": name}).fetchone() is None:
        raise NotFoundError(f"there is no source card {name}")
