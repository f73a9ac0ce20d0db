"""Sources: thumbnails and the original bytes."""

from __future__ import annotations

from fastapi import APIRouter, Response
from fastapi.responses import StreamingResponse

from copper_sieve.api.deps import IMMUTABLE, ContextDep
from copper_sieve.api.downloads import attachment
from copper_sieve.api.schemas.sets import SourceFactsRead
from copper_sieve.services import sources

router = APIRouter(prefix="/api/v1/sources", tags=["sources"])


@router.get("/{sha256}")
def get_source(sha256: str, context: ContextDep) -> SourceFactsRead:
    """Return facts about an imported file."""
    return SourceFactsRead.model_validate(sources.get(context, sha256).facts)


@router.get("/{sha256}/thumbnail.png", response_class=Response)
def get_source_thumbnail(sha256: str, context: ContextDep) -> Response:
    """Return a thumbnail of an imported file."""
    return Response(sources.thumbnail_of(context, sha256), 200, IMMUTABLE, "image/png")


@router.get("/{sha256}/original", response_class=StreamingResponse)
def get_original(sha256: str, context: ContextDep) -> StreamingResponse:
    """Return the original file."""
    found = sources.get(context, sha256)
    pieces = sources.original(context, sha256)
    return attachment(found.name, found.bytes, pieces, headers=IMMUTABLE)
