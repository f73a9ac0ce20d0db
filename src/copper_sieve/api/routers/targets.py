"""Targets: list, duplicate, change, delete, export, preview with a set."""

from __future__ import annotations

from fastapi import APIRouter, Response

from copper_sieve.api.deps import ContextDep
from copper_sieve.api.paging import PageDep
from copper_sieve.api.schemas.targets import (
    LitProofRead,
    TargetPreviewCreate,
    TargetPreviewRead,
    TargetRead,
    TargetUpdate,
    read_lit_proof,
    read_target,
    read_target_preview,
)
from copper_sieve.core.targets.target_preset import TargetPreset
from copper_sieve.services import targets

router = APIRouter(prefix="/api/v1", tags=["targets"])


@router.get("/targets")
def list_targets(context: ContextDep, page: PageDep) -> list[TargetRead]:
    """List all targets, built-in ones first."""
    found = page.of(targets.list_all(context), lambda one: one.preset.id)
    return [read_target(one) for one in found]


@router.post("/targets", status_code=201)
def add_target(body: TargetPreset, context: ContextDep) -> TargetRead:
    """Create a target from a copy or an exported file."""
    return read_target(targets.add(context, body))


@router.put("/targets/{target_id}")
def change_target(target_id: str, body: TargetUpdate, context: ContextDep) -> TargetRead:
    """Change a custom target, or its id; 409 if another client changed it."""
    return read_target(targets.change(context, target_id, body.edition, body.preset))


@router.delete("/targets/{target_id}", status_code=204, response_class=Response)
def delete_target(target_id: str, context: ContextDep) -> None:
    """Delete a custom target; delivered files stay."""
    targets.delete_target(context, target_id)


@router.post("/target-previews")
def preview_target(body: TargetPreviewCreate, context: ContextDep) -> TargetPreviewRead:
    """Preview the files that a target, stored or not, would write for a set."""
    return read_target_preview(
        targets.preview_target(context, body.preset, body.set_id, body.environment)
    )


@router.post("/target-previews/renderings")
def render_target(body: TargetPreviewCreate, context: ContextDep) -> LitProofRead:
    """Return the material before and after conversion to the target's files, for two lit views."""
    return read_lit_proof(targets.lit_proof(context, body.preset, body.set_id))
