"""Texture sets: read, change, preview."""

from __future__ import annotations

from fastapi import APIRouter, Response

from copper_sieve.api.deps import IMMUTABLE, ContextDep, PreviewerDep
from copper_sieve.api.schemas.bench import (
    DoubtAsk,
    DoubtRead,
    EveningAsk,
    EveningRead,
    PreviewCreate,
    PreviewRead,
    ReadingRead,
    ReadingsAsk,
    SeamsMeasure,
    SeamWaysRead,
    UnderWayRead,
    read_doubt,
    read_evening,
    read_preview,
    read_readings,
    read_ways,
)
from copper_sieve.api.schemas.common import framed
from copper_sieve.api.schemas.sets import SetRead, SetStep, SetUpdate, draft_set, read_set
from copper_sieve.core.image.map_kind import MapKind
from copper_sieve.services import interpretations, removed_lighting, seams, sets

router = APIRouter(prefix="/api/v1", tags=["sets"])


@router.get("/sets/{set_id}")
def one_set(set_id: int, context: ContextDep) -> SetRead:
    """One texture set."""
    return read_set(sets.get_view(context, set_id))


@router.put("/sets/{set_id}")
def change_set(set_id: int, body: SetUpdate, context: ContextDep) -> SetRead:
    """Change a set; 409 when somebody else was faster."""
    kept = sets.get_view(context, set_id).texture_set
    changed = draft_set(kept.name, body).model_copy(
        update={"origin": kept.origin, "parts": kept.parts}
    )
    if "model" not in body.model_fields_set:
        changed = changed.model_copy(update={"model": kept.model})
    if changed.shots is None:
        changed = changed.model_copy(update={"shots": kept.shots})
    return read_set(sets.change(context, set_id, body.version, changed, amends=body.amends))


@router.post("/sets/{set_id}/undo")
def undo_set(set_id: int, body: SetStep, context: ContextDep) -> SetRead:
    """Back to the state before the last change."""
    return read_set(sets.step(context, set_id, body.version, -1))


@router.post("/sets/{set_id}/redo")
def redo_set(set_id: int, body: SetStep, context: ContextDep) -> SetRead:
    """Forward to what was undone last."""
    return read_set(sets.step(context, set_id, body.version, 1))


@router.get("/sets/{set_id}/maps/{kind}/thumbnail.png", response_class=Response)
def map_thumbnail(set_id: int, kind: MapKind, context: ContextDep, key: str = "") -> Response:
    """A small picture of one map; kept by the browser as long as its content key is the same."""
    found, data = sets.map_thumbnail(context, set_id, kind)
    headers = IMMUTABLE if key == found else {"Cache-Control": "no-cache"}
    return Response(data, 200, headers, "image/png")


@router.post(
    "/sets/{set_id}/previews",
    response_class=Response,
    responses={200: {"content": {"application/octet-stream": {}}, "model": PreviewRead}},
)
def preview(
    set_id: int, body: PreviewCreate, context: ContextDep, previewer: PreviewerDep
) -> Response:
    """Compute maps of a set, or of a draft of it; 409 when a newer request of the window came.

    The answer is the length of a JSON text (four bytes, little endian), that text (`PreviewRead`),
    and the 8-bit codes of the maps one after the other, all in one, since a hand is waiting.
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
def preview_under_way(window: str, previewer: PreviewerDep) -> UnderWayRead | None:
    """What the preview of a window is doing, and how long yet; null where none is computed."""
    found = previewer.under_way(window)
    return None if found is None else UnderWayRead.model_validate(found)


@router.post("/previews/{window}/stop", status_code=204)
def stop_preview(window: str, previewer: PreviewerDep) -> None:
    """Give up the preview of a window, after the step that it is at."""
    previewer.stop(window)


@router.post("/sets/{set_id}/seam-measures")
def measure_seams(set_id: int, body: SeamsMeasure, context: ContextDep) -> SeamWaysRead:
    """Each way to close the seams of a set, or of a draft of it, with its figures."""
    draft = draft_set("draft", body.draft) if body.draft else None
    return read_ways(seams.measure_seams(context, set_id, draft))


@router.post("/sets/{set_id}/readings")
def read_photo(set_id: int, body: ReadingsAsk, context: ContextDep) -> list[ReadingRead]:
    """A few ways to take a photo, lit beside each other; what one makes of the set is given."""
    draft = draft_set("draft", body.draft) if body.draft else None
    return read_readings(interpretations.readings(context, set_id, body.about, draft))


@router.post("/sets/{set_id}/key-doubts")
def measure_doubt(set_id: int, body: DoubtAsk, context: ContextDep) -> DoubtRead:
    """How sure the color key of a map is, and which color to click next."""
    draft = draft_set("draft", body.draft) if body.draft else None
    return read_doubt(interpretations.doubt(context, set_id, body.kind, draft))


@router.post("/sets/{set_id}/light-measures")
def measure_light(set_id: int, body: EveningAsk, context: ContextDep) -> EveningRead:
    """What evening the light takes out of a set's color, and the dark places that are left."""
    draft = draft_set("draft", body.draft) if body.draft else None
    return read_evening(removed_lighting.evening(context, set_id, body.by, draft))
