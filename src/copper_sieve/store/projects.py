"""Projects."""

from __future__ import annotations

from dataclasses import dataclass
from datetime import datetime

from copper_sieve.core.errors import NotFoundError
from copper_sieve.store.database import Row, Transaction, statements

_SQL = statements("projects")


@dataclass(frozen=True, slots=True)
class Project:
    """A project.

    sets, changed_at, latest : number of sets, time of the last change, and up to five sets that
        were changed last; only if requested
    deleted_at : time of deletion; None while in use
    """

    id: int
    slug: str
    title: str
    created_at: datetime
    deleted_at: datetime | None = None
    sets: int = 0
    changed_at: datetime | None = None
    latest: tuple[int, ...] = ()

    @classmethod
    def from_row(cls, row: Row) -> Project:
        """Build from a row of a statement."""
        return cls(**{**row, "latest": tuple(row.get("latest", ()))})


def answer(connection: Transaction) -> None:
    """Run a trivial statement, to check that the database works."""
    connection.execute(_SQL["answer"])


def ensure_project(connection: Transaction, slug: str, title: str) -> Project:
    """Return the project with that slug, created if it doesn't exist; also if deleted."""
    connection.execute(_SQL["insert_project"], {"slug": slug, "title": title})
    return get_project(connection, slug, deleted=True)


def list_projects(connection: Transaction, *, deleted: bool = False) -> list[Project]:
    """Return all projects with their number of sets, oldest first, or the deleted ones."""
    rows = connection.execute(_SQL["list_projects"], {"deleted": deleted})
    return [Project.from_row(row) for row in rows]


def get_project(connection: Transaction, slug: str, *, deleted: bool = False) -> Project:
    """Return a project. Raises NotFoundError, also for a deleted one unless `deleted`."""
    row = connection.execute(_SQL["get_project"], {"slug": slug}).fetchone()
    if row is None:
        raise NotFoundError(f"there is no project {slug}")
    project = Project.from_row(row)
    if project.deleted_at and not deleted:
        raise NotFoundError(f"{project.title} was deleted. Restore it on the Projects page")
    return project


def slug_of(connection: Transaction, project_id: int) -> str:
    """Return the slug of a project. Raises NotFoundError."""
    row = connection.execute(_SQL["slug_of"], {"id": project_id}).fetchone()
    if row is None:
        raise NotFoundError(f"there is no project {project_id}")
    return str(row["slug"])


def add_project(connection: Transaction, slug: str, title: str) -> Project | None:
    """Add a project; None if its slug is taken, also by a deleted project."""
    row = connection.execute(_SQL["add_project"], {"slug": slug, "title": title}).fetchone()
    return Project.from_row(row) if row else None


def change_project(connection: Transaction, slug: str, title: str, *, deleted: bool) -> Project:
    """Rename, delete or restore a project. Raises NotFoundError."""
    parameters = {"slug": slug, "title": title, "deleted": deleted}
    row = connection.execute(_SQL["change_project"], parameters).fetchone()
    if row is None:
        raise NotFoundError(f"there is no project {slug}")
    return Project.from_row(row)


def purge(connection: Transaction, days: int) -> int:
    """Purge projects deleted more than this many days ago; returns their number."""
    return connection.execute(_SQL["purge"], {"days": days}).rowcount
