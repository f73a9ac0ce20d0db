"""The Tray: the light list of a project, and changes of many of its sets at once."""

from __future__ import annotations

from fastapi import APIRouter, Response

from copper_sieve.api.deps import IMMUTABLE, ContextDep
from copper_sieve.api.schemas.tray import (
    BlendAsk,
    BlendedRead,
    ChangeAsk,
    ChangedRead,
    LitChangeAsk,
    TrayRead,
)
from copper_sieve.services import blending
from copper_sieve.services.tray import apply, listing, lit

router = APIRouter(prefix="/api/v1", tags=["tray"])


@router.get("/projects/{project}/tray")
def tray(project: str, context: ContextDep, deleted: bool = False) -> TrayRead:
    """Every set of a project in a light list; else those that were thrown away."""
    return TrayRead.model_validate(listing.tray(context, project, deleted=deleted))


@router.post("/projects/{project}/changes")
def change_sets(project: str, body: ChangeAsk, context: ContextDep) -> ChangedRead:
    """Change sets as one, or say what that would do; 409 where names would collide."""
    done = apply.change(context, project, body.set_ids, body.change, dry=body.dry)
    return ChangedRead.model_validate(done)


@router.post("/projects/{project}/blends", status_code=201)
def blend_sets(project: str, body: BlendAsk, context: ContextDep) -> BlendedRead:
    """Make a new set of two, whose every map follows where the upper one lies."""
    number, name = blending.blend(context, project, body.below, body.above, body.name)
    return BlendedRead(id=number, name=name)


@router.post("/projects/{project}/changes/undo")
def undo_change(project: str, context: ContextDep) -> ChangedRead:
    """Take back the last change of many sets; what was changed since is left and told."""
    return ChangedRead.model_validate(apply.undo(context, project, again=False))


@router.post("/projects/{project}/changes/redo")
def redo_change(project: str, context: ContextDep) -> ChangedRead:
    """Do again what was taken back last."""
    return ChangedRead.model_validate(apply.undo(context, project, again=True))


@router.post("/sets/{set_id}/lit-changes", response_class=Response)
def lit_change(set_id: int, body: LitChangeAsk, context: ContextDep) -> Response:
    """PNG of a set as it is, or as a change would make it, under the reference light."""
    data = apply.lit_change(context, set_id, body.change)
    return Response(data, 200, {"Cache-Control": "no-cache"}, "image/png")


@router.get("/sets/{set_id}/lit.png", response_class=Response)
def lit_picture(set_id: int, context: ContextDep, key: str = "") -> Response:
    """A set under the reference light, small; kept by the browser while its key is the same."""
    found, data = lit.lit_picture(context, set_id)
    headers = IMMUTABLE if key == found else {"Cache-Control": "no-cache"}
    return Response(data, 200, headers, "image/png")
