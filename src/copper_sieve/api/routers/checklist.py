"""The checklists of sets: what seems wrong, and what is so on purpose."""

from __future__ import annotations

from fastapi import APIRouter

from copper_sieve.api.deps import ContextDep
from copper_sieve.api.schemas.checklist import (
    ChecklistRead,
    ChecklistsAsk,
    PurposeAsk,
    read_checklist,
)
from copper_sieve.services import checklist

router = APIRouter(prefix="/api/v1", tags=["checklist"])


@router.post("/projects/{project}/checklists")
def checklists(project: str, body: ChecklistsAsk, context: ContextDep) -> list[ChecklistRead]:
    """The checklists of some sets; mends are done by a change `mend` of the Tray."""
    return [read_checklist(one) for one in checklist.of_project(context, project, body.set_ids)]


@router.put("/sets/{set_id}/purposes")
def say_purpose(set_id: int, body: PurposeAsk, context: ContextDep) -> ChecklistRead:
    """Say that a finding is so on purpose, so that it is told no more; or that it is not."""
    kept = checklist.say(context, set_id, body.finding, purpose=body.on_purpose)
    return read_checklist(kept)
