"""Webhooks: addresses that are told, signed, when a delivery of a project has ended."""

from __future__ import annotations

from fastapi import APIRouter, Response

from copper_sieve.api.deps import ContextDep
from copper_sieve.api.schemas.hooks import HookCreate, HookRead, NewHookRead
from copper_sieve.services import hooks

router = APIRouter(prefix="/api", tags=["hooks"])


@router.get("/projects/{project}/hooks")
def project_hooks(project: str, context: ContextDep) -> list[HookRead]:
    """The addresses that are told of a project's deliveries."""
    return [HookRead.model_validate(one) for one in hooks.list_all(context, project)]


@router.post("/projects/{project}/hooks", status_code=201)
def add_hook(project: str, body: HookCreate, context: ContextDep) -> NewHookRead:
    """Tell an address of a project's deliveries. Its secret is told only now."""
    return NewHookRead.model_validate(hooks.add(context, project, body.url, body.secret))


@router.post("/hooks/{hook_id}/tries")
def try_hook(hook_id: int, context: ContextDep) -> HookRead:
    """Call an address now, with nothing to tell, and say how that went."""
    return HookRead.model_validate(hooks.try_it(context, hook_id))


@router.delete("/hooks/{hook_id}", status_code=204, response_class=Response)
def forget_hook(hook_id: int, context: ContextDep) -> None:
    """Tell an address no more."""
    hooks.forget(context, hook_id)
