"""Files in Intake that were recognized as pictures of one surface under several lights."""

from __future__ import annotations

from collections.abc import Sequence
from dataclasses import dataclass
from typing import Literal

from psycopg.types.json import Json

from copper_sieve.core.errors import NotFoundError
from copper_sieve.core.models.light_captures import CapturesSpec
from copper_sieve.store.database import Row, Transaction, statements

_SQL = statements("capture_groups")
NoticedState = Literal["looking", "found", "refused", "declined", "taken"]


@dataclass(frozen=True, slots=True)
class StoredCaptureGroup:
    """A stored group of pictures of one surface.

    arrivals : ids of the files in Intake; sha256s : their bytes, in the same order
    captures : the result of the analysis; error : why it failed
    """

    id: int
    project_id: int
    batch: str
    arrivals: tuple[int, ...]
    sha256s: tuple[str, ...]
    name: str
    state: NoticedState
    captures: CapturesSpec | None
    error: str | None

    @classmethod
    def from_row(cls, row: Row) -> StoredCaptureGroup:
        """Build from a row of a statement."""
        captures = CapturesSpec.model_validate(row["captures"]) if row["captures"] else None
        held = {"arrivals": tuple(row["arrivals"]), "sha256s": tuple(row["sha256s"])}
        return cls(**{**row, **held, "captures": captures})


def add_capture_group(
    connection: Transaction, project_id: int, batch: str, arrivals: Sequence[tuple[int, str]],
    name: str,
) -> int:  # fmt: skip
    """Add a capture group that waits for its analysis; return its id.

    arrivals : id and SHA-256 of each picture
    """
    row = connection.execute(
        _SQL["add_capture_group"],
        {"project_id": project_id, "batch": batch, "arrivals": [n for n, _ in arrivals],
         "sha256s": [sha for _, sha in arrivals], "name": name},
    ).fetchone()  # fmt: skip
    assert row is not None
    return int(row["id"])


def list_capture_groups(connection: Transaction, project_id: int) -> list[StoredCaptureGroup]:
    """Return all groups of a project in any state."""
    rows = connection.execute(_SQL["list_capture_groups"], {"project_id": project_id})
    return [StoredCaptureGroup.from_row(row) for row in rows]


def get_capture_group(connection: Transaction, noticed_id: int) -> StoredCaptureGroup:
    """Return a capture group and lock its row until the transaction ends. Raises NotFoundError."""
    row = connection.execute(_SQL["get_capture_group"], {"id": noticed_id}).fetchone()
    if row is None:
        raise NotFoundError("these pictures of one surface no longer exist. Reload the page")
    return StoredCaptureGroup.from_row(row)


def known_captures(connection: Transaction, sha256s: Sequence[str]) -> CapturesSpec | None:
    """Return the earlier result for identical pictures, or None."""
    row = connection.execute(_SQL["known_captures"], {"sha256s": list(sha256s)}).fetchone()
    return None if row is None else CapturesSpec.model_validate(row["captures"])


def set_capture_group(
    connection: Transaction, noticed_id: int, captures: CapturesSpec | None, error: str | None
) -> None:
    """Store the result of the analysis, or the reason why it failed."""
    kept = Json(captures.model_dump(mode="json")) if captures else None
    state = "found" if captures else "refused"
    parameters = {"id": noticed_id, "state": state, "captures": kept, "error": error}
    connection.execute(_SQL["set_capture_group"], parameters)


def decide_capture_group(connection: Transaction, noticed_id: int, state: NoticedState) -> None:
    """Mark a group as accepted, or as separate files."""
    connection.execute(_SQL["decide_capture_group"], {"id": noticed_id, "state": state})
