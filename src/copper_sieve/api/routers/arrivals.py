"""Import files, run detection in the background, and correct and accept the results."""

from __future__ import annotations

from typing import Annotated

from fastapi import APIRouter, Query, Request, Response
from fastapi.concurrency import run_in_threadpool

from copper_sieve.api.deps import IMMUTABLE, ContextDep
from copper_sieve.api.paging import PageDep
from copper_sieve.api.schemas.arrivals import (
    AcceptedRead,
    AddedRead,
    ArrivalChange,
    ArrivalChoice,
    CardChoice,
    CardCreate,
    IntakeRead,
    RefusalRead,
    SurfaceAccept,
    read_table,
)
from copper_sieve.api.uploads import RAW_BODY, FileName, receive_upload
from copper_sieve.core.codecs.encoders.png import encode_png
from copper_sieve.core.detection.evidence import lit_from_above, one_channel
from copper_sieve.core.image.map_kind import NormalY
from copper_sieve.core.models.source_card import SourceCard
from copper_sieve.services import arrivals, capture_groups

router = APIRouter(prefix="/api/v1", tags=["intake"])
Batch = Annotated[str, Query(max_length=64)]


@router.post("/projects/{project}/arrivals", status_code=201, openapi_extra=RAW_BODY)
async def add_arrival(
    project: str,
    request: Request,
    context: ContextDep,
    name: FileName,
    batch: Batch = "",
) -> AddedRead:
    """Import a picture, a zip archive or a glTF file, sent as the raw body, for sorting.

    `name` may contain folders, like the files of a dropped folder.
    """
    async with receive_upload(context, request, name) as path:
        added = await run_in_threadpool(arrivals.add, context, project, path, name, batch)
    return AddedRead(
        batch=added.batch,
        ids=list(added.ids),
        refused=[RefusalRead(name=one.name, message=one.message) for one in added.refused],
    )


@router.get("/projects/{project}/arrivals")
def get_intake(project: str, context: ContextDep, accepted: bool = False) -> IntakeRead:
    """Return the files in Intake; optionally also files that are in sets already."""
    return read_table(arrivals.table(context, project, accepted=accepted))


@router.patch("/arrivals", status_code=204)
def change_arrivals(body: ArrivalChange, context: ContextDep) -> None:
    """Change the assignment of files."""
    arrivals.change(context, body.ids, body.change)


@router.post("/arrivals/acceptances")
def accept_arrivals(body: ArrivalChoice, context: ContextDep) -> AcceptedRead:
    """Accept files into their sets, all or none; 409 names the files with open questions."""
    return AcceptedRead(sets=arrivals.accept(context, body.ids))


@router.post("/arrivals/dismissals", status_code=204)
def dismiss_arrivals(body: ArrivalChoice, context: ContextDep) -> None:
    """Remove files from Intake; they can be restored for 30 days."""
    arrivals.dismiss(context, body.ids)


@router.post("/arrivals/restorations", status_code=204)
def restore_arrivals(body: ArrivalChoice, context: ContextDep) -> None:
    """Restore files that were removed in the last 30 days."""
    arrivals.undelete(context, body.ids)


@router.post("/arrivals/cards", status_code=204)
def apply_source_card(body: CardChoice, context: ContextDep) -> None:
    """Apply a source card to files, or remove theirs."""
    arrivals.apply_card(context, body.ids, body.card)


@router.post("/capture-groups/{surface_id}/acceptances")
def accept_capture_group(surface_id: int, body: SurfaceAccept, context: ContextDep) -> AcceptedRead:
    """Create a measured set from pictures of one surface."""
    made = capture_groups.accept(context, surface_id, body.name)
    return AcceptedRead(sets={made.name: made.id})


@router.post("/capture-groups/{surface_id}/declines", status_code=204)
def decline_capture_group(surface_id: int, context: ContextDep) -> None:
    """Treat pictures of one surface as separate files."""
    capture_groups.decline(context, surface_id)


@router.get("/arrivals/{arrival_id}/lit-{y}.png", response_class=Response)
def get_arrival_lit(arrival_id: int, y: NormalY, context: ContextDep) -> Response:
    """Return a preview of a normal map lit from above, read with one green direction."""
    picture = arrivals.picture_of(context, arrival_id)
    return Response(encode_png(lit_from_above(picture, y)), 200, IMMUTABLE, "image/png")


@router.get("/arrivals/{arrival_id}/channel-{channel}.png", response_class=Response)
def get_arrival_channel(arrival_id: int, channel: str, context: ContextDep) -> Response:
    """Return a preview of one channel of a packed file."""
    picture = arrivals.picture_of(context, arrival_id)
    return Response(encode_png(one_channel(picture, channel)), 200, IMMUTABLE, "image/png")


@router.get("/source-cards")
def list_source_cards(context: ContextDep, page: PageDep) -> list[SourceCard]:
    """List all source cards by name."""
    return page.of(arrivals.list_cards(context), lambda one: one.name)


@router.post("/source-cards", status_code=201)
def create_source_card(body: CardCreate, context: ContextDep) -> SourceCard:
    """Create a source card from the corrections of files, or extend an existing card."""
    return arrivals.make_card(context, body.ids, body.name.strip(), body.licence, body.where)


@router.delete("/source-cards/{name}", status_code=204)
def delete_source_card(name: str, context: ContextDep) -> None:
    """Delete a source card; sets imported with it keep its values."""
    arrivals.delete_card(context, name)
