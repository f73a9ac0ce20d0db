"""Folders on the server that a project imports from."""

from __future__ import annotations

from datetime import datetime

from pydantic import Field

from copper_sieve.api.schemas.common import RequestModel, ResponseModel
from copper_sieve.store.watched_folders import WatchedFolder


class WatchedFolderRead(ResponseModel):
    """A folder on the server.

    `read_at` is null before it was first read; `problem` is the reason if it can't be read.
    """

    id: int
    path: str
    watching: bool = Field(description="the folder is watched for changes")
    read_at: datetime | None
    problem: str | None
    files: int
    deleted: int = Field(description="files that were imported and are now deleted")
    refused: list[str] = Field(description="files that couldn't be read, with the reason")


class WatchedFolderCreate(RequestModel):
    """A folder to import; `watching` also imports later changes."""

    path: str = Field(min_length=1, max_length=4096)
    watching: bool = True


def watched_folder_read(kept: WatchedFolder) -> WatchedFolderRead:
    """Return the response for one folder."""
    return WatchedFolderRead(
        id=kept.id, path=str(kept.path), watching=kept.watching, read_at=kept.read_at,
        problem=kept.problem, files=kept.files, deleted=kept.deleted, refused=list(kept.refused),
    )  # fmt: skip
