"""Destinations of deliveries: folders on the server, and the choice of each project and target."""

from __future__ import annotations

from pathlib import Path
from typing import Annotated

from fastapi import APIRouter, Query

from copper_sieve.api.deps import ContextDep
from copper_sieve.api.paging import PageDep
from copper_sieve.api.schemas.destinations import (
    AutoDeliverRead,
    AutoDeliverWrite,
    DestinationRead,
    DestinationWrite,
    FolderCreate,
    FolderRead,
    read_destination,
    read_folder,
)
from copper_sieve.services import auto_deliver, destinations
from copper_sieve.store.auto_deliver import AutoDeliverRule

router = APIRouter(prefix="/api/v1", tags=["destinations"])
_EXAMPLE = "old_brick"


@router.get("/folders", responses={409: {"description": "The folder can't be listed"}})
def list_folders(
    context: ContextDep, path: Annotated[str | None, Query(max_length=4096)] = None
) -> FolderRead:
    """List the subfolders of an allowed folder; of the default folder without `path`."""
    return read_folder(destinations.browse(context, Path(path) if path else None))


@router.get("/folders/roots")
def list_roots(context: ContextDep) -> list[str]:
    """List the allowed root folders of deliveries."""
    return [str(one) for one in destinations.roots(context.settings)]


@router.get("/folders/copy-destinations")
def list_copy_destinations(context: ContextDep) -> list[str]:
    """List the URLs that deliveries may be copied to."""
    return destinations.copy_destinations(context.settings)


@router.post("/folders", status_code=201)
def create_folder(body: FolderCreate, context: ContextDep) -> FolderRead:
    """Create a folder inside an allowed root."""
    return read_folder(destinations.create_folder(context, Path(body.folder), body.name))


@router.get("/projects/{project}/destinations")
def list_destinations(
    project: str,
    context: ContextDep,
    page: PageDep,
    example: Annotated[str, Query(max_length=100)] = _EXAMPLE,
) -> list[DestinationRead]:
    """List the destination of every target in a project; `example` is the name of a set."""
    found = page.of(destinations.all_of(context, project), lambda one: one.target_id)
    return [read_destination(one, project, example) for one in found]


@router.put("/projects/{project}/destinations/{target_id}")
def set_destination(
    project: str, target_id: str, body: DestinationWrite, context: ContextDep,
    example: Annotated[str, Query(max_length=100)] = _EXAMPLE,
) -> DestinationRead:  # fmt: skip
    """Set the destination and the overrides of a target in a project."""
    chosen = destinations.choose(
        context, project, target_id, Path(body.folder), body.pattern, body.options, dry=body.dry
    )
    return read_destination(chosen, project, example)


@router.delete("/projects/{project}/destinations/{target_id}")
def reset_destination(project: str, target_id: str, context: ContextDep) -> DestinationRead:
    """Reset the destination of a target in a project to the default."""
    return read_destination(
        destinations.reset_destination(context, project, target_id), project, _EXAMPLE
    )


@router.get("/projects/{project}/auto-deliver")
def list_auto_deliver_rules(
    project: str, context: ContextDep, page: PageDep
) -> list[AutoDeliverRead]:
    """List the sets and targets that a project delivers automatically on change."""
    found = page.of(
        auto_deliver.rules_of_project(context, project),
        lambda one: f"{one.set_id or ''} {one.target_id or ''}",
    )
    return [AutoDeliverRead.model_validate(one) for one in found]


@router.put("/projects/{project}/auto-deliver")
def set_auto_deliver(
    project: str, body: AutoDeliverWrite, context: ContextDep
) -> list[AutoDeliverRead]:
    """Enable or disable auto-deliver for sets and targets; returns all rules."""
    some = [AutoDeliverRule(one.set_id, one.target_id) for one in body.cells]
    found = auto_deliver.set_rules(context, project, some, kept=body.kept)
    return [AutoDeliverRead.model_validate(one) for one in found]
