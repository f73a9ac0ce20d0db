"""Projects, and the database check."""

from __future__ import annotations

from copper_sieve.core.errors import ConflictError
from copper_sieve.core.models.naming import slug
from copper_sieve.services.context import Context
from copper_sieve.services.tray.set_operations import copy_into
from copper_sieve.store import models, projects, texture_sets
from copper_sieve.store.database import Transaction
from copper_sieve.store.projects import Project

_LONGEST_SLUG = 56  # with a number after it within the rule of the table


def list_all(context: Context, *, deleted: bool = False) -> list[Project]:
    """Return all projects with their number of sets, oldest first, or the deleted ones."""
    with context.database.transaction() as connection:
        return projects.list_projects(connection, deleted=deleted)


def create(context: Context, title: str, copy_of: str | None = None) -> Project:
    """Create a project, empty or with copies of all sets of another.

    Its slug is made from its title.

    Raises NotFoundError if the other one doesn't exist.
    """
    with context.database.transaction() as connection:
        other = projects.get_project(connection, copy_of) if copy_of else None
        project = add_titled(connection, title)
        if other:
            held = [one.sha256 for one in models.list_models(connection, other.id)]
            models.copy_models(connection, project.id, held)
            for kept in texture_sets.list_sets(connection, other.id):
                copy_into(connection, kept, project.id)
        return project


def add_titled(connection: Transaction, title: str) -> Project:
    """Create an empty project whose slug is made from its title. Raises ConflictError."""
    base = slug(title).lower().replace("_", "-").replace(".", "-")[:_LONGEST_SLUG].strip("-")
    base = base or "project"
    for n in range(1, 1000):
        name = base if n == 1 else f"{base}-{n}"
        if name not in _TAKEN and (made := projects.add_project(connection, name, title)):
            return made
    raise ConflictError(f"there are too many projects named {title}. Choose another title")


_TAKEN = {"api", "assets", "help", "docs", "projects"}  # addresses of other things


def change(
    context: Context, project_slug: str, *, title: str | None = None, deleted: bool | None = None
) -> Project:
    """Rename, delete or restore a project. Raises NotFoundError."""
    with context.database.transaction() as connection:
        project = projects.get_project(connection, project_slug, deleted=deleted is not None)
        was_deleted = project.deleted_at is not None
        return projects.change_project(
            connection, project_slug, title or project.title,
            deleted=was_deleted if deleted is None else deleted,
        )  # fmt: skip


def check_database(context: Context) -> None:
    """Run a trivial statement. Raises DatabaseUnavailableError."""
    with context.database.transaction() as connection:
        projects.answer(connection)
