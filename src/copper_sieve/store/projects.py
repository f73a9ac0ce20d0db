"""Projects."""

from __future__ import annotations

from dataclasses import dataclass

from copper_sieve.core.errors import NotFoundError
from copper_sieve.store.database import Row, Transaction, statements

_SQL = statements("projects")


@dataclass(frozen=True, slots=True)
class Project:
    """A project; `sets` is how many it holds, where that was asked for."""

    id: int
    slug: str
    title: str
    sets: int = 0

    @classmethod
    def from_row(cls, row: Row) -> Project:
        """As a statement gives it."""
        return cls(row["id"], row["slug"], row["title"], row.get("sets", 0))


def answer(connection: Transaction) -> None:
    """The least that a database can be asked."""
    connection.execute(_SQL["answer"])


def ensure_project(connection: Transaction, slug: str, title: str) -> Project:
    """The project of that slug, made if it is not there."""
    connection.execute(_SQL["insert_project"], {"slug": slug, "title": title})
    return get_project(connection, slug)


def list_projects(connection: Transaction) -> list[Project]:
    """All projects with their number of sets, oldest first."""
    return [Project.from_row(row) for row in connection.execute(_SQL["list_projects"])]


def get_project(connection: Transaction, slug: str) -> Project:
    """One project. Raises NotFoundError."""
    row = connection.execute(_SQL["get_project"], {"slug": slug}).fetchone()
    if row is None:
        raise NotFoundError(f"there is no project {slug}")
    return Project.from_row(row)
