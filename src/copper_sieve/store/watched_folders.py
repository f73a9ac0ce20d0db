"""Watched and imported folders on the server, and the files that were read."""

from __future__ import annotations

from collections.abc import Collection
from dataclasses import dataclass
from datetime import datetime
from pathlib import Path

from copper_sieve.core.errors import NotFoundError
from copper_sieve.store.database import Row, Transaction, statements

_SQL = statements("watched_folders")


@dataclass(frozen=True, slots=True)
class WatchedFolder:
    """A folder that a project imports pictures from.

    watching : it is read repeatedly
    read_at : time of the last reading; None before the first
    problem : why it couldn't be read
    refused : files that couldn't be read, with reasons
    files, deleted : number of files that exist, and that no longer exist
    """

    id: int
    project_id: int
    slug: str
    path: Path
    watching: bool
    read_at: datetime | None
    problem: str | None
    files: int
    deleted: int
    refused: tuple[str, ...]

    @classmethod
    def from_row(cls, row: Row) -> WatchedFolder:
        """Build from a row of a statement."""
        return cls(**{**row, "refused": tuple(row["refused"])})


@dataclass(frozen=True, slots=True)
class WatchedFile:
    """A file at the time it was read; `sha256` is None for archives and rejected files."""

    name: str
    size: int
    mtime_ns: int
    sha256: str | None = None
    problem: str | None = None
    deleted: bool = False

    @classmethod
    def from_row(cls, row: Row) -> WatchedFile:
        """Build from a row of a statement."""
        return cls(**row)

    @property
    def stamp(self) -> tuple[int, int]:
        """Return the file's signature, which changes whenever the file is written."""
        return self.size, self.mtime_ns


def put_folder(connection: Transaction, project_id: int, path: Path, *, watching: bool) -> int:
    """Watch a folder, or import it once; a known folder is read again."""
    parameters = {"project_id": project_id, "path": path, "watching": watching}
    row = connection.execute(_SQL["put_folder"], parameters).fetchone()
    assert row is not None
    return int(row["id"])


def remove_folder(connection: Transaction, project_id: int, folder_id: int) -> None:
    """Stop watching a folder; imported sets stay. Raises NotFoundError."""
    parameters = {"project_id": project_id, "id": folder_id}
    if connection.execute(_SQL["remove_folder"], parameters).fetchone() is None:
        raise NotFoundError("this folder is no longer watched. Reload the page")


def of_project(connection: Transaction, project_id: int) -> list[WatchedFolder]:
    """Return the folders of a project by path."""
    rows = connection.execute(_SQL["of_project"], {"project_id": project_id})
    return [WatchedFolder.from_row(row) for row in rows]


def due(connection: Transaction) -> list[WatchedFolder]:
    """Return the folders of all projects that are due to be read, without file counts."""
    return [WatchedFolder.from_row(row) for row in connection.execute(_SQL["due"])]


def looked(connection: Transaction, folder_id: int, problem: str | None) -> None:
    """Record that a folder was read, or why it couldn't be."""
    connection.execute(_SQL["looked"], {"id": folder_id, "problem": problem})


def files(connection: Transaction, folder_id: int) -> dict[str, WatchedFile]:
    """Return the files of a folder by name."""
    rows = connection.execute(_SQL["files"], {"id": folder_id})
    return {row["name"]: WatchedFile.from_row(row) for row in rows}


def put_file(connection: Transaction, folder_id: int, file: WatchedFile) -> None:
    """Store how a file was read, unless the folder is no longer watched."""
    row = {"id": folder_id, "name": file.name, "size": file.size, "mtime_ns": file.mtime_ns,
           "sha256": file.sha256, "problem": file.problem}  # fmt: skip
    connection.execute(_SQL["put_file"], row)


def set_deleted(
    connection: Transaction, folder_id: int, names: Collection[str], *, deleted: bool
) -> None:
    """Record that files no longer exist, or exist again."""
    connection.execute(
        _SQL["set_deleted"], {"id": folder_id, "names": list(names), "deleted": deleted}
    )
