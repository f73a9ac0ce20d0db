"""Destinations of a project's deliveries by target, where they differ from the default."""

from __future__ import annotations

from dataclasses import dataclass
from pathlib import Path

from psycopg.types.json import Json

from copper_sieve.store.database import Row, Transaction, statements
from copper_sieve.store.delivery_rows import Document

_SQL = statements("destinations")


@dataclass(frozen=True, slots=True)
class StoredDestination:
    """A stored destination.

    pattern : subfolders of `folder`
    options : overrides of the target, as JSON
    """

    target_id: str
    folder: Path
    pattern: str
    options: Document

    @classmethod
    def from_row(cls, row: Row) -> StoredDestination:
        """Build from a row of a statement."""
        return cls(**row)


def of_project(connection: Transaction, project_id: int) -> dict[str, StoredDestination]:
    """Return the destinations of a project by target."""
    rows = connection.execute(_SQL["of_project"], {"project_id": project_id})
    return {row["target_id"]: StoredDestination.from_row(row) for row in rows}


def put(connection: Transaction, project_id: int, one: StoredDestination) -> None:
    """Store a destination, replacing the current one."""
    connection.execute(
        _SQL["put"],
        {
            "project_id": project_id,
            "target_id": one.target_id,
            "folder": one.folder,
            "pattern": one.pattern,
            "options": Json(one.options),
        },
    )


def remove(connection: Transaction, project_id: int, target_id: str) -> None:
    """Remove a destination; the default applies again."""
    connection.execute(_SQL["remove"], {"project_id": project_id, "target_id": target_id})
