"""Folders of the server that a project takes pictures from and is kept in step with."""

from __future__ import annotations

from pathlib import Path

from fastapi import APIRouter

from copper_sieve.api.deps import ContextDep
from copper_sieve.api.paging import PageDep
from copper_sieve.api.schemas.watched_folders import FollowedCreate, FollowedRead, read_followed
from copper_sieve.services import watched_folders

router = APIRouter(prefix="/api/v1", tags=["intake"])


@router.get("/projects/{project}/followed-folders")
def followed_folders(project: str, context: ContextDep, page: PageDep) -> list[FollowedRead]:
    """The folders that a project takes pictures from."""
    found = page.of(watched_folders.of_project(context, project), lambda one: one.id)
    return [read_followed(one) for one in found]


@router.post("/projects/{project}/followed-folders", status_code=201)
def follow_folder(project: str, body: FollowedCreate, context: ContextDep) -> FollowedRead:
    """Take in the pictures of a folder of the server; a known one is looked at anew."""
    number = watched_folders.follow(context, project, Path(body.path), keeps=body.keeps)
    found = watched_folders.of_project(context, project)
    return read_followed(next(one for one in found if one.id == number))


@router.delete("/projects/{project}/followed-folders/{folder_id}", status_code=204)
def unfollow_folder(project: str, folder_id: int, context: ContextDep) -> None:
    """Follow a folder no longer; what came in stays."""
    watched_folders.forget(context, project, folder_id)
