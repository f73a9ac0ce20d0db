"""Health, projects, and import of single pictures."""

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
    ImportedMapRead,
    ImportedSourceRead,
    SetRead,
    SourceFactsRead,
    read_set,
)
from copper_sieve.api.uploads import RAW_BODY, FileName, receive_upload
from copper_sieve.core.image.map_kind import MapKind
from copper_sieve.core.ingest.unpack import MOST_BYTES
from copper_sieve.services import disk_use, project_archive, projects, sets, sources
from copper_sieve.services.jobs.requests import ask_import

router = APIRouter(prefix="/api/v1", tags=["projects"])


@router.get("/health")
def get_health(context: ContextDep, access: AccessDep) -> HealthRead:
    """Return whether the server is running and reaches its database."""
    projects.check_database(context)
    limits = context.settings.limits
    return HealthRead(
        version=__version__,
        limits=LimitsRead(max_side=limits.max_side, max_bytes=limits.max_bytes),
        delivery_root=str(context.settings.delivery_root),
        open=access.is_open,
    )


@router.get("/projects")
def list_projects(context: ContextDep, page: PageDep, deleted: bool = False) -> list[ProjectRead]:
    """List all projects, oldest first, or the deleted ones that can be restored."""
    found = page.of(projects.list_all(context, deleted=deleted), lambda one: one.slug)
    return [ProjectRead.model_validate(one) for one in found]


@router.post("/projects", status_code=201)
def add_project(body: ProjectCreate, context: ContextDep) -> ProjectRead:
    """Create a project, empty or with copies of another project's sets."""
    return ProjectRead.model_validate(projects.create(context, body.title, body.copy_of))


@router.patch("/projects/{project}")
def change_project(project: str, body: ProjectChange, context: ContextDep) -> ProjectRead:
    """Rename, delete or restore a project."""
    changed = projects.change(context, project, title=body.title, deleted=body.deleted)
    return ProjectRead.model_validate(changed)


@router.get("/projects/{project}/archive.zip", response_class=StreamingResponse)
def export_project(project: str, context: ContextDep) -> StreamingResponse:
    """Stream the project as a zip archive with its sets and all originals."""
    name, stream = project_archive.pack(context, project)
    headers = {"Content-Disposition": f'attachment; filename="{name}"'}
    return StreamingResponse(stream, 200, headers, "application/zip")


@router.get("/projects/{project}/disk-use")
def get_disk_use(project: str, context: ContextDep) -> DiskUseRead:
    """Return the disk use of a project, and how much emptying its Trash frees."""
    return DiskUseRead.model_validate(disk_use.use_of(context, project))


@router.delete("/projects/{project}/trash")
def empty_trash(project: str, context: ContextDep) -> DiskUseRead:
    """Permanently delete the sets in a project's Trash and the files dismissed in Intake."""
    return DiskUseRead.model_validate(disk_use.empty_trash(context, project))


@router.post("/project-archives", status_code=202, openapi_extra=RAW_BODY)
async def import_project(request: Request, context: ContextDep, name: FileName) -> JobRead:
    """Create a project from a project file, sent as the raw body. Creates a job.

    The result of the job contains the project's slug and a report of added, existing and skipped
    items.
    """
    async with receive_upload(context, request, name, MOST_BYTES) as path:
        ask = partial(ask_import, context, "project_import", path, name)
        return read_job(await run_in_threadpool(ask))


@router.get("/projects/{project}/sets")
def list_sets(
    project: str,
    context: ContextDep,
    page: PageDep,
    ids: Annotated[list[int] | None, Query(max_length=200)] = None,
) -> list[SetRead]:
    """List the texture sets of a project by name, all or those in `ids`, with all details.

    For long lists, use `/api/v1/projects/{project}/tray` and request the visible sets only.
    """
    found = sets.list_views(context, project, ids, lambda some: page.of(some, lambda one: one.id))
    return [read_set(view) for view in found]


@router.get("/projects/{project}/unreadable-sets")
def list_unreadable_sets(project: str, context: ContextDep, page: PageDep) -> list[UnreadableRead]:
    """List the sets of a project that can't be read, with the reason."""
    found = page.of([*sets.unreadable(context, project).items()], lambda one: one[0])
    return [UnreadableRead(id=number, why=why) for number, why in found]


@router.post("/projects/{project}/sources", status_code=201, openapi_extra=RAW_BODY)
async def import_file(
    project: str,
    request: Request,
    context: ContextDep,
    name: FileName,
    kind: MapKind | None = None,
) -> ImportedSourceRead:
    """Import one picture file, sent as the raw body, and create a set from it.

    Without `kind` the file name determines the map type, or else it is base color. Returns 409 for
    map types that can't start a set, such as opacity; import those with Intake.
    """
    sources.check_beginning(name, kind)
    async with receive_upload(context, request, name) as path:
        taken = await run_in_threadpool(
            sources.import_source, context, project, path, name, kind=kind
        )
    return ImportedSourceRead(
        sha256=taken.sha256,
        facts=SourceFactsRead.model_validate(taken.facts),
        set_id=taken.set_id,
        set_name=taken.set_name,
        known_source=taken.known_source,
        known_set=taken.known_set,
        kind=taken.kind,
    )


@router.post("/maps/{kind}/sources", status_code=201, openapi_extra=RAW_BODY)
async def import_map(
    kind: MapKind, request: Request, context: ContextDep, name: FileName
) -> ImportedMapRead:
    """Import one picture file as a map of an existing set."""
    async with receive_upload(context, request, name) as path:
        facts, definition = await run_in_threadpool(sources.import_map, context, path, name, kind)
    return ImportedMapRead(facts=SourceFactsRead.model_validate(facts), definition=definition)
