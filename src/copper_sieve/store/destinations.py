"""Where a project's sets go for each target, where that is not as usual."""

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
        """As a statement gives it."""
        return cls(**row)


def of_project(connection: Transaction, project_id: int) -> dict[str, StoredDestination]:
    """The destinations that a project has chosen, by target."""
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
    """A target's sets go where they usually do."""
    connection.execute(_SQL["remove"], {"project_id": project_id, "target_id": target_id})
