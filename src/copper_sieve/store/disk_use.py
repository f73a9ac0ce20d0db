"""Disk use of projects, and deletion of unreferenced data."""

from __future__ import annotations

from collections.abc import Collection
from dataclasses import dataclass

from copper_sieve.store.database import Transaction, statements

_SQL = statements("disk_use")


@dataclass(frozen=True, slots=True)
class ProjectUse:
    """Disk use of a project, in bytes.

    Attributes
    ----------
    originals, original_bytes : int
        Imported files that it refers to.
    shared_bytes : int
        Of these, files that other projects or recipes also use.
    trash_sets, trash_imports : int
        Deleted sets and dismissed files of Intake.
    trash_files, trash_bytes : int
        Originals that only these refer to.
    delivered_files, delivered_bytes : int
        Files of the latest delivery into each folder.
    """

    originals: int
    original_bytes: int
    shared_bytes: int
    trash_sets: int
    trash_imports: int
    trash_files: int
    trash_bytes: int
    delivered_files: int
    delivered_bytes: int


def of_project(connection: Transaction, project_id: int) -> ProjectUse:
    """Return the disk use of a project."""
    parameters = {"project_id": project_id}
    one = connection.execute(_SQL["originals"], parameters).fetchone()
    trash = connection.execute(_SQL["trash"], parameters).fetchone()
    delivered = connection.execute(_SQL["delivered"], parameters).fetchone()
    assert one and trash and delivered
    return ProjectUse(
        originals=one["files"], original_bytes=one["bytes"], shared_bytes=one["shared_bytes"],
        trash_sets=trash["trash_sets"], trash_imports=trash["trash_arrivals"],
        trash_files=one["trash_files"], trash_bytes=one["trash_bytes"],
        delivered_files=delivered["files"], delivered_bytes=delivered["bytes"],
    )  # fmt: skip


def delete_unused(
    connection: Transaction, *, seconds: float, only: Collection[str] | None = None
) -> int:
    """Delete originals that nothing refers to; return their total bytes.

    seconds : minimum age of the import
    only : SHA-256 of the originals to consider
    """
    parameters = {"seconds": seconds, "only": None if only is None else list(only)}
    return sum(int(row["bytes"]) for row in connection.execute(_SQL["delete_unused"], parameters))


def purge_accepted(connection: Transaction) -> None:
    """Delete the files of Intake whose set was purged."""
    connection.execute(_SQL["purge_accepted"])


def empty_trash(connection: Transaction, project_id: int) -> None:
    """Delete a project's sets in the trash and its dismissed files for good.

    Their originals are deleted with them, unless something else refers to them.
    """
    parameters = {"project_id": project_id}
    originals = [row["sha256"] for row in connection.execute(_SQL["trash_originals"], parameters)]
    connection.execute(_SQL["purge_sets"], parameters)
    connection.execute(_SQL["purge_dismissed"], parameters)
    connection.execute(_SQL["purge_accepted"])
    delete_unused(connection, seconds=0, only=originals)
