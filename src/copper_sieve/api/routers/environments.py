"""Environments: 360° pictures that light materials."""

from __future__ import annotations

from functools import partial
from typing import Annotated, Literal

from fastapi import APIRouter, Query, Request, Response
from fastapi.concurrency import run_in_threadpool

from copper_sieve.api.deps import IMMUTABLE, ContextDep
from copper_sieve.api.paging import PageDep
from copper_sieve.api.schemas.environments import EnvironmentRead, read_environment
from copper_sieve.api.schemas.jobs import JobRead, read_job
from copper_sieve.api.uploads import RAW_BODY, FileName, receive_upload
from copper_sieve.services import environments
from copper_sieve.services.jobs.requests import ask_import

router = APIRouter(prefix="/api/v1", tags=["environments"])
Kind = Annotated[
    Literal["panorama", "mirror_ball"],
    Query(
        description="a 360° panorama, twice as wide as high, or a photo cropped to a mirror ball"
    ),
]


@router.get("/projects/{project}/environments")
def list_environments(project: str, context: ContextDep, page: PageDep) -> list[EnvironmentRead]:
    """List the environments of a project."""
    found = page.of(environments.of_project(context, project), lambda one: one.id)
    return [read_environment(one) for one in found]


@router.post("/projects/{project}/environments", status_code=202, openapi_extra=RAW_BODY)
async def add_environment(
    project: str, name: FileName, request: Request, context: ContextDep, kind: Kind = "panorama"
) -> JobRead:
    """Import an environment: HDR, EXR or any other picture. Creates a job."""
    async with receive_upload(context, request, name) as path:
        more = {"kind": kind}
        ask = partial(ask_import, context, "environment_import", path, name, project, more)
        return read_job(await run_in_threadpool(ask))


@router.get("/environments/{environment_id}/light.hdr", response_class=Response)
def get_environment_light(environment_id: int, context: ContextDep) -> Response:
    """Return the lighting of an environment as Radiance HDR, 1024 x 512."""
    data = environments.light_of(context, environment_id)
    return Response(data, 200, IMMUTABLE, "image/vnd.radiance")


@router.delete("/environments/{environment_id}", status_code=204)
def delete_environment(environment_id: int, context: ContextDep) -> None:
    """Remove an environment from its project."""
    environments.delete(context, environment_id)
