"""The lights of a measured set: estimated from a ball or the pictures, and compared with them."""

from __future__ import annotations

from fastapi import APIRouter

from copper_sieve.api.deps import ContextDep
from copper_sieve.api.schemas.jobs import JobRead, read_job
from copper_sieve.api.schemas.light_captures import (
    CaptureComparisonQuery,
    CaptureComparisonRead,
    GrayCardQuery,
    LightsQuery,
    read_capture_comparison,
)
from copper_sieve.api.schemas.sets import draft_set
from copper_sieve.core.models.light_captures import CapturesSpec
from copper_sieve.services import light_captures

router = APIRouter(prefix="/api/v1", tags=["sets"])


@router.post("/sets/{set_id}/lights", status_code=202)
def estimate_lights(set_id: int, body: LightsQuery, context: ContextDep) -> JobRead:
    """Estimate the light direction of each picture from a ball or the pictures, or refine it.

    The result of the job contains the pictures with their new lights; the set isn't changed.
    """
    draft = draft_set("draft", body.draft) if body.draft else None
    job = light_captures.ask_lights(context, set_id, body.how, body.ball, body.elevation, draft)
    return read_job(job)


@router.post("/sets/{set_id}/gray-cards")
def measure_gray_card(set_id: int, body: GrayCardQuery, context: ContextDep) -> CapturesSpec:
    """Measure strength and tint of the light from a gray card; the set isn't changed."""
    draft = draft_set("draft", body.draft) if body.draft else None
    return light_captures.white_by(context, set_id, body.card, draft)


@router.post("/sets/{set_id}/capture-comparisons")
def compare_capture(
    set_id: int, body: CaptureComparisonQuery, context: ContextDep
) -> CaptureComparisonRead:
    """Compare a picture of a measured set with the measured surface under the same light."""
    draft = draft_set("draft", body.draft) if body.draft else None
    return read_capture_comparison(
        light_captures.compare_capture(context, set_id, body.source, draft)
    )
