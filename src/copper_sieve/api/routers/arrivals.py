"""Intake: files come in, are looked at in the background, corrected, accepted into sets."""

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
from copper_sieve.api.uploads import RAW_BODY, FileName, received
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
    """Take in a picture, a zip archive or a glTF file, sent as the raw body, to be sorted.

    `name` may have folders before it, as a dropped folder's files do.
    """
    async with received(context, request, name) as path:
        added = await run_in_threadpool(arrivals.add, context, project, path, name, batch)
    return AddedRead(
        batch=added.batch,
        ids=list(added.ids),
        refused=[RefusalRead(name=one.name, message=one.message) for one in added.refused],
    )


@router.get("/projects/{project}/arrivals")
def intake_table(project: str, context: ContextDep, accepted: bool = False) -> IntakeRead:
    """The sorting table; with those that are in a set already, if wanted."""
    return read_table(arrivals.table(context, project, accepted=accepted))


@router.patch("/arrivals", status_code=204)
def change_arrivals(body: ArrivalChange, context: ContextDep) -> None:
    """Say of some files where they belong."""
    arrivals.change(context, body.ids, body.change)


@router.post("/arrivals/acceptances")
def accept_arrivals(body: ArrivalChoice, context: ContextDep) -> AcceptedRead:
    """Put files into their sets, all or none; 409 names what is in the way."""
    return AcceptedRead(sets=arrivals.accept(context, body.ids))


@router.post("/arrivals/dismissals", status_code=204)
def dismiss_arrivals(body: ArrivalChoice, context: ContextDep) -> None:
    """Take files off the table; they can be brought back for 30 days."""
    arrivals.dismiss(context, body.ids)


@router.post("/arrivals/returns", status_code=204)
def bring_back_arrivals(body: ArrivalChoice, context: ContextDep) -> None:
    """Put files on the table again that were taken off in the last 30 days."""
    arrivals.bring_back(context, body.ids)


@router.post("/arrivals/cards", status_code=204)
def use_card(body: CardChoice, context: ContextDep) -> None:
    """Apply a source card to files, or take theirs off."""
    arrivals.apply_card(context, body.ids, body.card)


@router.post("/surfaces/{surface_id}/acceptances")
def accept_surface(surface_id: int, body: SurfaceAccept, context: ContextDep) -> AcceptedRead:
    """Make a measured set of pictures of one surface."""
    made = capture_groups.accept(context, surface_id, body.name)
    return AcceptedRead(sets={made.name: made.id})


@router.post("/surfaces/{surface_id}/declined", status_code=204)
def decline_surface(surface_id: int, context: ContextDep) -> None:
    """They are different things: each picture is sorted by itself."""
    capture_groups.decline(context, surface_id)


@router.get("/arrivals/{arrival_id}/lit-{y}.png", response_class=Response)
def lit_arrival(arrival_id: int, y: NormalY, context: ContextDep) -> Response:
    """A normal map lit from above, if its green grows this way."""
    picture = arrivals.picture_of(context, arrival_id)
    return Response(encode_png(lit_from_above(picture, y)), 200, IMMUTABLE, "image/png")


@router.get("/arrivals/{arrival_id}/channel-{channel}.png", response_class=Response)
def arrival_channel(arrival_id: int, channel: str, context: ContextDep) -> Response:
    """One channel of a packed file."""
    picture = arrivals.picture_of(context, arrival_id)
    return Response(encode_png(one_channel(picture, channel)), 200, IMMUTABLE, "image/png")


@router.get("/source-cards")
def source_cards(context: ContextDep, page: PageDep) -> list[SourceCard]:
    """All source cards by name."""
    return page.of(arrivals.list_cards(context), lambda one: one.name)


@router.post("/source-cards", status_code=201)
def make_source_card(body: CardCreate, context: ContextDep) -> SourceCard:
    """Keep what is known of the files' origin, under a new name or added to a card."""
    return arrivals.make_card(context, body.ids, body.name.strip(), body.licence, body.where)


@router.delete("/source-cards/{name}", status_code=204)
def delete_source_card(name: str, context: ContextDep) -> None:
    """Forget a card; the sets taken in with it keep what they know."""
    arrivals.delete_card(context, name)
