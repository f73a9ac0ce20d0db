"""Texture sets: read, change, preview."""

from __future__ import annotations

from fastapi import APIRouter, Response

from copper_sieve.api.deps import IMMUTABLE, ContextDep, PreviewerDep
from copper_sieve.api.schemas.bench import (
    InterpretationRead,
    InterpretationsQuery,
    KeyUncertaintyQuery,
    KeyUncertaintyRead,
    PreviewCreate,
    PreviewRead,
    ProgressRead,
    RemovedLightingQuery,
    RemovedLightingRead,
    SeamMethodsRead,
    SeamsMeasure,
    read_interpretations,
    read_key_uncertainty,
    read_preview,
    read_removed_lighting,
    read_seam_methods,
)
from copper_sieve.api.schemas.common import framed
from copper_sieve.api.schemas.sets import SetRead, SetStep, SetUpdate, draft_set, read_set
from copper_sieve.core.image.map_kind import MapKind
from copper_sieve.services import interpretations, removed_lighting, seams, sets

router = APIRouter(prefix="/api/v1", tags=["sets"])


@router.get("/sets/{set_id}")
def get_set(set_id: int, context: ContextDep) -> SetRead:
    """Return a texture set."""
    return read_set(sets.get_view(context, set_id))


@router.put("/sets/{set_id}")
def change_set(set_id: int, body: SetUpdate, context: ContextDep) -> SetRead:
    """Change a set; 409 if another client changed it since `version`."""
    kept = sets.get_view(context, set_id).texture_set
    changed = draft_set(kept.name, body).model_copy(
        update={"origin": kept.origin, "parts": kept.parts}
    )
    if "model" not in body.model_fields_set:
        changed = changed.model_copy(update={"model": kept.model})
    if changed.captures is None:
        changed = changed.model_copy(update={"captures": kept.captures})
    return read_set(sets.change(context, set_id, body.version, changed, amends=body.amends))


@router.post("/sets/{set_id}/undo")
def undo_set(set_id: int, body: SetStep, context: ContextDep) -> SetRead:
    """Undo the last change of a set."""
    return read_set(sets.step(context, set_id, body.version, -1))


@router.post("/sets/{set_id}/redo")
def redo_set(set_id: int, body: SetStep, context: ContextDep) -> SetRead:
    """Redo the last undone change of a set."""
    return read_set(sets.step(context, set_id, body.version, 1))


@router.get("/sets/{set_id}/maps/{kind}/thumbnail.png", response_class=Response)
def get_map_thumbnail(set_id: int, kind: MapKind, context: ContextDep, key: str = "") -> Response:
    """Return a thumbnail of a map; the browser caches it by its content key."""
    found, data = sets.map_thumbnail(context, set_id, kind)
    headers = IMMUTABLE if key == found else {"Cache-Control": "no-cache"}
    return Response(data, 200, headers, "image/png")


@router.post(
    "/sets/{set_id}/previews",
    response_class=Response,
    responses={200: {"content": {"application/octet-stream": {}}, "model": PreviewRead}},
)
def create_preview(
    set_id: int, body: PreviewCreate, context: ContextDep, previewer: PreviewerDep
) -> Response:
    """Compute maps of a set or of a draft; 409 if the window requested a newer preview.

    The response contains the length of a JSON text (four bytes, little endian), the text
    (`PreviewRead`), and the 8-bit codes of all maps.
    """
    found = previewer.preview(
        set_id,
        draft_set("draft", body.draft) if body.draft else None,
        kinds=body.kinds,
        longer_side=body.longer_side,
        compute_side=body.compute_side,
        window=body.window,
        sequence=body.sequence,
        known=body.known,
    )
    codes = (one.codes.data for one in found.maps.values() if one.codes is not None)
    content = framed(read_preview(found), codes)
    return Response(content, 200, media_type="application/octet-stream")


@router.get("/previews/{window}")
def get_preview_progress(window: str, previewer: PreviewerDep) -> ProgressRead | None:
    """Return the current step and remaining time of a window's preview; null if none is running."""
    found = previewer.under_way(window)
    return None if found is None else ProgressRead.model_validate(found)


@router.post("/previews/{window}/stop", status_code=204)
def stop_preview(window: str, previewer: PreviewerDep) -> None:
    """Stop the preview of a window after its current step."""
    previewer.stop(window)


@router.post("/sets/{set_id}/seam-measures")
def measure_seams(set_id: int, body: SeamsMeasure, context: ContextDep) -> SeamMethodsRead:
    """Measure each method of making a set, or a draft, tileable."""
    draft = draft_set("draft", body.draft) if body.draft else None
    return read_seam_methods(seams.measure_seams(context, set_id, draft))


@router.post("/sets/{set_id}/interpretations")
def list_interpretations(
    set_id: int, body: InterpretationsQuery, context: ContextDep
) -> list[InterpretationRead]:
    """List interpretations of a photo, each with its settings and a lit picture."""
    draft = draft_set("draft", body.draft) if body.draft else None
    return read_interpretations(interpretations.interpretations(context, set_id, body.about, draft))


@router.post("/sets/{set_id}/key-uncertainties")
def measure_key_uncertainty(
    set_id: int, body: KeyUncertaintyQuery, context: ContextDep
) -> KeyUncertaintyRead:
    """Return how certain a color key is, and a color to decide next."""
    draft = draft_set("draft", body.draft) if body.draft else None
    return read_key_uncertainty(interpretations.key_uncertainty(context, set_id, body.kind, draft))


@router.post("/sets/{set_id}/removed-lighting")
def measure_removed_lighting(
    set_id: int, body: RemovedLightingQuery, context: ContextDep
) -> RemovedLightingRead:
    """Return the lighting that delighting removes from color, and the dark blotches left."""
    draft = draft_set("draft", body.draft) if body.draft else None
    return read_removed_lighting(
        removed_lighting.measure_removed_lighting(context, set_id, body.by, draft)
    )
