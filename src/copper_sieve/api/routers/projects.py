"""Health, projects, and pictures taken into one."""

from __future__ import annotations

from functools import partial
from typing import Annotated

from fastapi import APIRouter, Query, Request
from fastapi.concurrency import run_in_threadpool
from fastapi.responses import StreamingResponse

from copper_sieve import __version__
from copper_sieve.api.deps import AccessDep, ContextDep
from copper_sieve.api.paging import PageDep
from copper_sieve.api.schemas.jobs import JobRead, read_job
from copper_sieve.api.schemas.projects import (
    DiskUseRead,
    HealthRead,
    LimitsRead,
    ProjectChange,
    ProjectCreate,
    ProjectRead,
    UnreadableRead,
)
from copper_sieve.api.schemas.sets import (
    MapTakenInRead,
    SetRead,
    SourceFactsRead,
    TakenInRead,
    read_set,
)
from copper_sieve.api.uploads import RAW_BODY, FileName, received
from copper_sieve.core.image.map_kind import MapKind
from copper_sieve.core.ingest.unpack import MOST_BYTES
from copper_sieve.services import disk_use, project_archive, projects, sets, sources
from copper_sieve.services.jobs.requests import ask_import

router = APIRouter(prefix="/api/v1", tags=["projects"])


@router.get("/health")
def health(context: ContextDep, access: AccessDep) -> HealthRead:
    """The server is up and reaches its database."""
    projects.check_database(context)
    limits = context.settings.limits
    return HealthRead(
        version=__version__,
        limits=LimitsRead(max_side=limits.max_side, max_bytes=limits.max_bytes),
        delivery_root=str(context.settings.delivery_root),
        open=access.is_open,
    )


@router.get("/projects")
def all_projects(context: ContextDep, page: PageDep, deleted: bool = False) -> list[ProjectRead]:
    """All projects, oldest first; else those that were thrown away and can be brought back."""
    found = page.of(projects.list_all(context, deleted=deleted), lambda one: one.slug)
    return [ProjectRead.model_validate(one) for one in found]


@router.post("/projects", status_code=201)
def add_project(body: ProjectCreate, context: ContextDep) -> ProjectRead:
    """A new project, empty or with copies of the sets of another."""
    return ProjectRead.model_validate(projects.create(context, body.title, body.copy_of))


@router.patch("/projects/{project}")
def change_project(project: str, body: ProjectChange, context: ContextDep) -> ProjectRead:
    """Rename a project, throw it away, or bring it back."""
    changed = projects.change(context, project, title=body.title, deleted=body.deleted)
    return ProjectRead.model_validate(changed)


@router.get("/projects/{project}/archive.zip", response_class=StreamingResponse)
def pack_project(project: str, context: ContextDep) -> StreamingResponse:
    """The whole project as a zip that is made while it is sent: its sets, and every original."""
    name, stream = project_archive.pack(context, project)
    headers = {"Content-Disposition": f'attachment; filename="{name}"'}
    return StreamingResponse(stream, 200, headers, "application/zip")


@router.get("/projects/{project}/disk-use")
def project_disk_use(project: str, context: ContextDep) -> DiskUseRead:
    """Space that a project takes, and what emptying its trash frees."""
    return DiskUseRead.model_validate(disk_use.use_of(context, project))


@router.delete("/projects/{project}/trash")
def empty_trash(project: str, context: ContextDep) -> DiskUseRead:
    """Delete the sets in a project's trash and the files dismissed in Intake for good."""
    return DiskUseRead.model_validate(disk_use.empty_trash(context, project))


@router.post("/project-archives", status_code=202, openapi_extra=RAW_BODY)
async def unpack_project(request: Request, context: ContextDep, name: FileName) -> JobRead:
    """Ask for a project to be made of such an archive, sent as the raw body.

    The job's result has the project's address and a report of what else the archive held.
    """
    async with received(context, request, name, MOST_BYTES) as path:
        ask = partial(ask_import, context, "project_import", path, name)
        return read_job(await run_in_threadpool(ask))


@router.get("/projects/{project}/sets")
def project_sets(
    project: str,
    context: ContextDep,
    page: PageDep,
    ids: Annotated[list[int] | None, Query(max_length=200)] = None,
) -> list[SetRead]:
    """The texture sets of a project by name, with everything about them; those of `ids`, or all.

    Of hundreds ask for the ones that are in view: `/api/v1/projects/{project}/tray` lists them all.
    """
    found = sets.list_views(context, project, ids, lambda some: page.of(some, lambda one: one.id))
    return [read_set(view) for view in found]


@router.get("/projects/{project}/unreadable-sets")
def unreadable_sets(project: str, context: ContextDep, page: PageDep) -> list[UnreadableRead]:
    """The sets of a project that are left out because they cannot be read, with the reason."""
    found = page.of([*sets.unreadable(context, project).items()], lambda one: one[0])
    return [UnreadableRead(id=number, why=why) for number, why in found]


@router.post("/projects/{project}/sources", status_code=201, openapi_extra=RAW_BODY)
async def take_in(
    project: str,
    request: Request,
    context: ContextDep,
    name: FileName,
    kind: MapKind | None = None,
) -> TakenInRead:
    """Take in one picture file, sent as the raw body; makes a set of it.

    Without a `kind` the file's name says which map it is; else it is the base color. 409 where
    that map begins no set (an opacity, an occlusion): it is for Intake.
    """
    sources.check_beginning(name, kind)
    async with received(context, request, name) as path:
        taken = await run_in_threadpool(sources.take_in, context, project, path, name, kind=kind)
    return TakenInRead(
        sha256=taken.sha256,
        facts=SourceFactsRead.model_validate(taken.facts),
        set_id=taken.set_id,
        set_name=taken.set_name,
        known_source=taken.known_source,
        known_set=taken.known_set,
        kind=taken.kind,
    )


@router.post("/maps/{kind}/sources", status_code=201, openapi_extra=RAW_BODY)
async def take_in_map(
    kind: MapKind, request: Request, context: ContextDep, name: FileName
) -> MapTakenInRead:
    """Take in one picture file to be a map of a set that is there."""
    async with received(context, request, name) as path:
        facts, definition = await run_in_threadpool(sources.take_in_map, context, path, name, kind)
    return MapTakenInRead(facts=SourceFactsRead.model_validate(facts), definition=definition)
