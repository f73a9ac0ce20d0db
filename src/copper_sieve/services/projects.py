"""Projects, and whether the database answers."""

from __future__ import annotations

from copper_sieve.services.context import Context
from copper_sieve.store import projects
from copper_sieve.store.projects import Project


def list_all(context: Context) -> list[Project]:
    """All projects with their number of sets, oldest first."""
    with context.database.transaction() as connection:
        return projects.list_projects(connection)


def check_database(context: Context) -> None:
    """Reach the database. Raises DatabaseAwayError."""
    with context.database.transaction() as connection:
        projects.answer(connection)
