"""Where deliveries go: folders of the server, and each project's choice for each target."""

from __future__ import annotations

from pathlib import Path
from typing import Annotated

from fastapi import APIRouter, Query

from copper_sieve.api.deps import ContextDep
from copper_sieve.api.paging import PageDep
from copper_sieve.api.schemas.destinations import (
    DestinationRead,
    DestinationWrite,
    FolderCreate,
    FolderRead,
    KeptUpRead,
    KeptUpWrite,
    read_destination,
    read_folder,
)
from copper_sieve.services import auto_deliver, destinations
from copper_sieve.store.auto_deliver import KeptUp

router = APIRouter(prefix="/api/v1", tags=["destinations"])
_EXAMPLE = "old_brick"


@router.get("/folders")
def folders(
    context: ContextDep, path: Annotated[str | None, Query(max_length=4096)] = None
) -> FolderRead:
    """The folders in a folder that deliveries may go to; in the usual one without `path`."""
    return read_folder(destinations.browse(context, Path(path) if path else None))


@router.get("/folders/roots")
def roots(context: ContextDep) -> list[str]:
    """The folders under which deliveries may go."""
    return [str(one) for one in destinations.roots(context.settings)]


@router.get("/folders/copies")
def copy_places(context: ContextDep) -> list[str]:
    """The places, by URL, to which deliveries may be copied."""
    return destinations.copy_places(context.settings)


@router.post("/folders", status_code=201)
def make_folder(body: FolderCreate, context: ContextDep) -> FolderRead:
    """Make a folder where deliveries may go."""
    return read_folder(destinations.make_folder(context, Path(body.folder), body.name))


@router.get("/projects/{project}/destinations")
def project_destinations(
    project: str,
    context: ContextDep,
    page: PageDep,
    example: Annotated[str, Query(max_length=100)] = _EXAMPLE,
) -> list[DestinationRead]:
    """Where the sets of a project go, for every target; `example` is the name of a set."""
    found = page.of(destinations.all_of(context, project), lambda one: one.target_id)
    return [read_destination(one, project, example) for one in found]


@router.put("/projects/{project}/destinations/{target_id}")
def choose(
    project: str, target_id: str, body: DestinationWrite, context: ContextDep,
    example: Annotated[str, Query(max_length=100)] = _EXAMPLE,
) -> DestinationRead:  # fmt: skip
    """Choose where the sets of a project go for a target, and what is wanted otherwise of it."""
    chosen = destinations.choose(
        context, project, target_id, Path(body.folder), body.pattern, body.options, dry=body.dry
    )
    return read_destination(chosen, project, example)


@router.delete("/projects/{project}/destinations/{target_id}")
def as_usual(project: str, target_id: str, context: ContextDep) -> DestinationRead:
    """The sets of a project go for a target where they usually do."""
    return read_destination(destinations.as_usual(context, project, target_id), project, _EXAMPLE)


@router.get("/projects/{project}/kept-up")
def kept_up(project: str, context: ContextDep, page: PageDep) -> list[KeptUpRead]:
    """What a project delivers by itself as soon as it changed."""
    found = page.of(
        auto_deliver.kept_of(context, project),
        lambda one: f"{one.set_id or ''} {one.target_id or ''}",
    )
    return [KeptUpRead.model_validate(one) for one in found]


@router.put("/projects/{project}/kept-up")
def keep_up(project: str, body: KeptUpWrite, context: ContextDep) -> list[KeptUpRead]:
    """Deliver these by themselves from now on, or no longer; answers with all that is."""
    some = [KeptUp(one.set_id, one.target_id) for one in body.cells]
    found = auto_deliver.keep(context, project, some, kept=body.kept)
    return [KeptUpRead.model_validate(one) for one in found]
