"""Models linked to texture sets: import, inspect, link."""

from __future__ import annotations

from functools import partial
from typing import Annotated

import numpy as np
from fastapi import APIRouter, Query, Request, Response
from fastapi.concurrency import run_in_threadpool
from fastapi.responses import JSONResponse, StreamingResponse
from pydantic import Field

from copper_sieve.api.deps import IMMUTABLE, NO_STORE, ContextDep
from copper_sieve.api.downloads import attachment
from copper_sieve.api.paging import PageDep
from copper_sieve.api.schemas.common import framed
from copper_sieve.api.schemas.jobs import JobRead, read_job
from copper_sieve.api.schemas.models import (
    CreatedSetsRead,
    CreateSets,
    MaterialGroupRead,
    MeshRead,
    ModelLinkWrite,
    ModelRead,
    RayMissesQuery,
    RayMissesRead,
    TexturedModelRead,
    UvRead,
    UvShows,
    read_model_view,
    read_ray_misses,
    read_textured_model,
    read_uv,
)
from copper_sieve.api.schemas.sets import SetRead, draft_set, read_set
from copper_sieve.api.uploads import RAW_BODY, FileName, receive_upload
from copper_sieve.core.image.tile_layout import FIRST_TILE, LAST_TILE, MOST_PLACES
from copper_sieve.services import delivered_models as dressing
from copper_sieve.services import model_display, model_sets, models, ray_misses, sets, uv_view
from copper_sieve.services.jobs.requests import ask_import
from copper_sieve.store.jobs import StoredJob

router = APIRouter(prefix="/api/v1", tags=["models"])
UvSet = Annotated[int, Query(ge=0, le=7)]
Tile = Annotated[int, Field(ge=FIRST_TILE, le=LAST_TILE)]


@router.get("/projects/{project}/models")
def list_models(project: str, context: ContextDep, page: PageDep) -> list[ModelRead]:
    """List the models of a project with the sets that are linked to them."""
    found = page.of(models.list_views(context, project), lambda one: one.model.id)
    return [read_model_view(one) for one in found]


@router.post("/projects/{project}/models", status_code=202, openapi_extra=RAW_BODY)
async def add_model(project: str, name: FileName, request: Request, context: ContextDep) -> JobRead:
    """Import a model: glTF, OBJ, PLY or STL, or a zip archive with all its files. Creates a job,
    whose worker analyzes the model.
    """
    limit = context.settings.max_model_bytes
    async with receive_upload(context, request, name, limit) as path:
        ask = partial(ask_import, context, "model_import", path, name, project)
        return read_job(await run_in_threadpool(ask))


@router.delete("/models/{model_id}", status_code=204)
def delete_model(model_id: int, context: ContextDep) -> None:
    """Remove a model from its project; 409 while sets are linked to it."""
    models.delete(context, model_id)


@router.get("/models/{model_id}/original", response_class=StreamingResponse)
def get_model_original(model_id: int, context: ContextDep) -> StreamingResponse:
    """Return the original file."""
    found = models.get(context, model_id)
    return attachment(found.name, found.bytes, models.original(context, found))


@router.get(
    "/models/{model_id}/mesh",
    response_class=Response,
    responses={
        200: {"content": {"application/octet-stream": {}}, "model": MeshRead},
        202: {"description": "A worker prepares the model. Request it again when the job is done",
              "model": JobRead},
    },
)  # fmt: skip
def mesh(model_id: int, context: ContextDep, uv_set: UvSet = 0) -> Response:
    """Return the mesh for display: the length of the header, the header (`MeshRead`), and the
    values.
    """
    model, found = model_display.mesh_of(context, model_id, uv_set)
    if isinstance(found, StoredJob):
        return JSONResponse(read_job(found).model_dump(mode="json"), 202, NO_STORE)
    head = MeshRead(
        corners=len(found.positions), triangles=len(found.corners), borders=len(found.borders),
        groups=[MaterialGroupRead.model_validate(one) for one in found.groups],
        low=[float(v) for v in found.low], high=[float(v) for v in found.high],
        uv_sets=model.facts.uv_sets,
    )  # fmt: skip
    arrays = (found.positions, found.normals, found.uvs, found.tangents, found.borders,
              found.corners)  # fmt: skip
    body = framed(head, [np.ascontiguousarray(one).tobytes() for one in arrays])
    return Response(body, 200, IMMUTABLE, "application/octet-stream")


@router.get("/models/{model_id}/uv")
def get_uv(
    model_id: int, context: ContextDep, material: str | None = None, uv_set: UvSet = 0
) -> UvRead:
    """Return the UV problems of a material and its UV islands."""
    return read_uv(uv_view.uv_view(context, model_id, material, uv_set))


@router.get("/models/{model_id}/uv.png", response_class=Response)
def get_uv_picture(  # noqa: PLR0917
    model_id: int,
    shows: UvShows,
    context: ContextDep,
    material: str | None = None,
    uv_set: UvSet = 0,
    side: Annotated[int, Query(ge=64, le=4096)] = 512,
    tile: Annotated[list[Tile], Query(max_length=MOST_PLACES)] = [],  # noqa: B006
) -> Response:
    """Return a picture of UV islands with alpha: texel density, or the location of a problem.

    tile : numbers of a set's UV tiles; the picture then shows all of them in a square layout
    """
    data = uv_view.uv_picture(context, model_id, material, uv_set, shows, side, tuple(tile))
    return Response(data, 200, IMMUTABLE, "image/png")


@router.post("/models/{model_id}/sets", status_code=201)
def create_sets(model_id: int, body: CreateSets, context: ContextDep) -> CreatedSetsRead:
    """Create a set for each of the given materials, with the maps that the model file contains."""
    made, remarks = model_sets.create_sets(context, model_id, body.materials)
    return CreatedSetsRead(sets=made, remarks=remarks)


@router.get("/deliveries/{delivery_id}/models")
def list_textured_models(
    delivery_id: int, context: ContextDep, page: PageDep
) -> list[TexturedModelRead]:
    """List the models for which a delivery has glTF or USD textures."""
    found = page.of(
        dressing.textured_models(context, delivery_id),
        lambda one: f"{one.model.id} {one.target_id}",
    )
    return [read_textured_model(delivery_id, one) for one in found]


@router.get(
    "/deliveries/{delivery_id}/models/{model_id}/{target_id}.glb", response_class=StreamingResponse
)
def get_textured_model(
    delivery_id: int, model_id: int, target_id: str, context: ContextDep, tangents: bool = False
) -> StreamingResponse:
    """Return a model with the delivered textures embedded; everything else is unchanged."""
    found = dressing.find_textured_model(context, delivery_id, model_id, target_id, "glb")
    written = dressing.textured_model(context, found, tangents=tangents)
    return attachment(*written, "model/gltf-binary")


@router.get(
    "/deliveries/{delivery_id}/models/{model_id}/{target_id}.usdz", response_class=StreamingResponse
)
def get_textured_stage(
    delivery_id: int, model_id: int, target_id: str, context: ContextDep
) -> StreamingResponse:
    """Return a model as USD with the delivered materials and textures embedded."""
    found = dressing.find_textured_model(context, delivery_id, model_id, target_id, "usdz")
    return attachment(*dressing.textured_model(context, found), "model/vnd.usdz+zip")


@router.post("/sets/{set_id}/ray-misses")
def measure_ray_misses(set_id: int, body: RayMissesQuery, context: ContextDep) -> RayMissesRead:
    """Return how many rays from a set's model miss the high-poly model, and where."""
    draft = draft_set("draft", body.draft) if body.draft else None
    return read_ray_misses(ray_misses.measure_ray_misses(context, set_id, draft))


@router.put("/sets/{set_id}/model")
def link_model(set_id: int, body: ModelLinkWrite, context: ContextDep) -> SetRead:
    """Link a set to a model, or remove the link; the change can be undone."""
    models.link_model(context, set_id, body.link)
    return read_set(sets.get_view(context, set_id))
