"""Checklists: detected problems of sets, and findings that are ignored."""

from __future__ import annotations

from fastapi import APIRouter

from copper_sieve.api.deps import ContextDep
from copper_sieve.api.schemas.checklist import (
    ChecklistRead,
    ChecklistsQuery,
    DismissWarning,
    IgnoreFinding,
    read_checklist,
)
from copper_sieve.services import checklist

router = APIRouter(prefix="/api/v1", tags=["checklist"])


@router.post("/projects/{project}/checklists")
def get_checklists(project: str, body: ChecklistsQuery, context: ContextDep) -> list[ChecklistRead]:
    """Return the checklists of sets; fixes are applied by the change `fix`."""
    return [read_checklist(one) for one in checklist.of_project(context, project, body.set_ids)]


@router.put("/sets/{set_id}/ignored-findings")
def set_ignored(set_id: int, body: IgnoreFinding, context: ContextDep) -> ChecklistRead:
    """Ignore a finding of a set, or stop ignoring it."""
    kept = checklist.set_ignored(context, set_id, body.finding, purpose=body.ignored)
    return read_checklist(kept)


@router.put("/projects/{project}/dismissed-warnings", status_code=204)
def set_dismissed(project: str, body: DismissWarning, context: ContextDep) -> None:
    """Dismiss a warning about deliveries of sets, or show it again."""
    checklist.set_dismissed(context, project, body.set_ids, body.cause, dismissed=body.dismissed)
