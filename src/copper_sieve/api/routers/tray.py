"""The Tray: list of sets of a project, and changes of many sets."""

from __future__ import annotations

from fastapi import APIRouter, Response

from copper_sieve.api.deps import IMMUTABLE, ContextDep
from copper_sieve.api.schemas.tray import (
    BlendCreate,
    BlendedRead,
    ChangedRead,
    ChangePreviewRequest,
    ChangeRequest,
    TrayRead,
)
from copper_sieve.services import blending
from copper_sieve.services.tray import apply, listing, lit

router = APIRouter(prefix="/api/v1", tags=["tray"])


@router.get("/projects/{project}/tray")
def get_tray(project: str, context: ContextDep, deleted: bool = False) -> TrayRead:
    """List all sets of a project in short form, or those in the Trash."""
    return TrayRead.model_validate(listing.tray(context, project, deleted=deleted))


@router.post("/projects/{project}/changes")
def change_sets(project: str, body: ChangeRequest, context: ContextDep) -> ChangedRead:
    """Change several sets, or preview the change; 409 if set names collide."""
    done = apply.change(context, project, body.set_ids, body.change, dry=body.dry)
    return ChangedRead.model_validate(done)


@router.post("/projects/{project}/blends", status_code=201)
def blend_sets(project: str, body: BlendCreate, context: ContextDep) -> BlendedRead:
    """Create a set by blending two sets with one mask for all maps."""
    number, name = blending.blend(context, project, body.below, body.above, body.name)
    return BlendedRead(id=number, name=name)


@router.post("/projects/{project}/changes/undo")
def undo_change(project: str, context: ContextDep) -> ChangedRead:
    """Undo the last change of several sets; sets changed since are kept and reported."""
    return ChangedRead.model_validate(apply.undo(context, project, again=False))


@router.post("/projects/{project}/changes/redo")
def redo_change(project: str, context: ContextDep) -> ChangedRead:
    """Redo the last undone change of several sets."""
    return ChangedRead.model_validate(apply.undo(context, project, again=True))


@router.post("/sets/{set_id}/change-previews", response_class=Response)
def preview_change(set_id: int, body: ChangePreviewRequest, context: ContextDep) -> Response:
    """Render a set, currently or after a change, under the reference light (PNG)."""
    data = apply.preview_change(context, set_id, body.change)
    return Response(data, 200, {"Cache-Control": "no-cache"}, "image/png")


@router.get("/sets/{set_id}/lit.png", response_class=Response)
def get_set_picture(set_id: int, context: ContextDep, key: str = "") -> Response:
    """Return a thumbnail of a set under the reference light; browsers cache it by its key."""
    found, data = lit.lit_picture(context, set_id)
    headers = IMMUTABLE if key == found else {"Cache-Control": "no-cache"}
    return Response(data, 200, headers, "image/png")
