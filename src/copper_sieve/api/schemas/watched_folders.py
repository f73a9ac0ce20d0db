"""Folders of the server that a project takes pictures from."""

from __future__ import annotations

from datetime import datetime

from pydantic import Field

from copper_sieve.api.schemas.common import Answer, Request
from copper_sieve.store.watched_folders import FollowedFolder


class FollowedRead(Answer):
    """A folder of the server.

    `looked_at` is null before the first look; `problem` says why it cannot be looked at.
    """

    id: int
    path: str
    keeps: bool = Field(description="the folder is watched for changes")
    looked_at: datetime | None
    problem: str | None
    files: int
    gone: int = Field(description="files that were imported and are now deleted")
    refused: list[str] = Field(description="files that couldn't be read, with the reason")


class FollowedCreate(Request):
    """A folder to take pictures from; `keeps` also what comes and changes later."""

    path: str = Field(min_length=1, max_length=4096)
    keeps: bool = True


def read_followed(kept: FollowedFolder) -> FollowedRead:
    """The answer for one folder."""
    return FollowedRead(
        id=kept.id, path=str(kept.path), keeps=kept.keeps, looked_at=kept.looked_at,
        problem=kept.problem, files=kept.files, gone=kept.gone, refused=list(kept.refused),
    )  # fmt: skip
