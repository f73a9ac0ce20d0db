"""Targets: list, copy, change, take out, export; a target tried on a set."""

from __future__ import annotations

from fastapi import APIRouter, Response

from copper_sieve.api.deps import ContextDep
from copper_sieve.api.paging import PageDep
from copper_sieve.api.schemas.targets import (
    LitProofRead,
    TargetRead,
    TargetUpdate,
    TrialCreate,
    TrialRead,
    read_lit_proof,
    read_target,
    read_trial,
)
from copper_sieve.core.targets.target_preset import TargetPreset
from copper_sieve.services import targets

router = APIRouter(prefix="/api/v1", tags=["targets"])


@router.get("/targets")
def list_targets(context: ContextDep, page: PageDep) -> list[TargetRead]:
    """All target presets, the built-in ones first."""
    found = page.of(targets.list_all(context), lambda one: one.preset.id)
    return [read_target(one) for one in found]


@router.post("/targets", status_code=201)
def add_target(body: TargetPreset, context: ContextDep) -> TargetRead:
    """Keep a new target: a copy, or a file that was exported."""
    return read_target(targets.add(context, body))


@router.put("/targets/{target_id}")
def change_target(target_id: str, body: TargetUpdate, context: ContextDep) -> TargetRead:
    """Change an own target, or rename it by another id; 409 when somebody else was faster."""
    return read_target(targets.change(context, target_id, body.edition, body.preset))


@router.delete("/targets/{target_id}", status_code=204, response_class=Response)
def forget_target(target_id: str, context: ContextDep) -> None:
    """Take an own target out; what was delivered with it stays."""
    targets.forget(context, target_id)


@router.post("/target-trials")
def try_target(body: TrialCreate, context: ContextDep) -> TrialRead:
    """What a target, kept or not, would write of a set."""
    return read_trial(targets.try_on(context, body.preset, body.set_id, body.surrounding))


@router.post("/target-trials/lit")
def try_target_lit(body: TrialCreate, context: ContextDep) -> LitProofRead:
    """The material before and as the target's files hold it, for two lit windows."""
    return read_lit_proof(targets.lit_proof(context, body.preset, body.set_id))
