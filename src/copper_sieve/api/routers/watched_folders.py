"""Folders on the server that a project imports pictures from and watches."""

from __future__ import annotations

from pathlib import Path

from fastapi import APIRouter

from copper_sieve.api.deps import ContextDep
from copper_sieve.api.paging import PageDep
from copper_sieve.api.schemas.watched_folders import (
    WatchedFolderCreate,
    WatchedFolderRead,
    watched_folder_read,
)
from copper_sieve.services import watched_folders

router = APIRouter(prefix="/api/v1", tags=["intake"])


@router.get("/projects/{project}/watched-folders")
def list_watched_folders(
    project: str, context: ContextDep, page: PageDep
) -> list[WatchedFolderRead]:
    """List the watched and imported folders of a project."""
    found = page.of(watched_folders.of_project(context, project), lambda one: one.id)
    return [watched_folder_read(one) for one in found]


@router.post("/projects/{project}/watched-folders", status_code=201)
def watch_folder(project: str, body: WatchedFolderCreate, context: ContextDep) -> WatchedFolderRead:
    """Import the pictures of a folder on the server; a known folder is read again."""
    number = watched_folders.watch_folder(context, project, Path(body.path), watching=body.watching)
    found = watched_folders.of_project(context, project)
    return watched_folder_read(next(one for one in found if one.id == number))


@router.delete("/projects/{project}/watched-folders/{folder_id}", status_code=204)
def unwatch_folder(project: str, folder_id: int, context: ContextDep) -> None:
    """Stop watching a folder; imported sets stay."""
    watched_folders.unwatch_folder(context, project, folder_id)
