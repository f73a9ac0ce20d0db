"""Projects."""

from __future__ import annotations

from copper_sieve.core.errors import NotFoundError
from copper_sieve.store.database import Row, Transaction, statements

_SQL = statements("projects")


def ensure_project(connection: Transaction, slug: str, title: str) -> Row:
    """The project of that slug, made if it is not there."""
    connection.execute(_SQL["insert_project"], {"slug": slug, "title": title})
    return get_project(connection, slug)


def list_projects(connection: Transaction) -> list[Row]:
    """All projects with their number of sets, oldest first."""
    return connection.execute(_SQL["list_projects"]).fetchall()


def get_project(connection: Transaction, slug: str) -> Row:
    """One project. Raises NotFoundError."""
    row = connection.execute(_SQL["get_project"], {"slug": slug}).fetchone()
    if row is None:
        raise NotFoundError(f"there is no project {slug}")
    return row
