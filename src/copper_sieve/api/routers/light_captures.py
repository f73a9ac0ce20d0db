"""The lights of a measured set: told anew by a ball, and held against the pictures."""

from __future__ import annotations

from fastapi import APIRouter

from copper_sieve.api.deps import ContextDep
from copper_sieve.api.schemas.jobs import JobRead, read_job
from copper_sieve.api.schemas.light_captures import (
    GreyAsk,
    LightsAsk,
    ShotLookAsk,
    ShotLookRead,
    read_look,
)
from copper_sieve.api.schemas.sets import draft_set
from copper_sieve.core.models.light_captures import ShotsSpec
from copper_sieve.services import light_captures

router = APIRouter(prefix="/api/v1", tags=["sets"])


@router.post("/sets/{set_id}/lights", status_code=202)
def tell_lights(set_id: int, body: LightsAsk, context: ContextDep) -> JobRead:
    """Ask where the light of each picture came from, by a ball, a guess or a fit.

    The job's result has the pictures with their new lights; the set isn't changed.
    """
    draft = draft_set("draft", body.draft) if body.draft else None
    asked = light_captures.ask_lights(context, set_id, body.how, body.ball, body.up, draft)
    return read_job(asked)


@router.post("/sets/{set_id}/grey-cards")
def tell_white(set_id: int, body: GreyAsk, context: ContextDep) -> ShotsSpec:
    """How strong and of what tint the light was, by a grey card; changes nothing."""
    draft = draft_set("draft", body.draft) if body.draft else None
    return light_captures.white_by(context, set_id, body.card, draft)


@router.post("/sets/{set_id}/shot-looks")
def look_at_shot(set_id: int, body: ShotLookAsk, context: ContextDep) -> ShotLookRead:
    """A picture of a measured set beside what was measured, lit by the same lamp."""
    draft = draft_set("draft", body.draft) if body.draft else None
    return read_look(light_captures.look_at_shot(context, set_id, body.source, draft))
