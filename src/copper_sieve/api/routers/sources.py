"""Sources: thumbnails and the original bytes."""

from __future__ import annotations

from urllib.parse import quote

from fastapi import APIRouter, Response
from fastapi.responses import StreamingResponse

from copper_sieve.api.deps import IMMUTABLE, ContextDep
from copper_sieve.api.schemas.sets import SourceFactsRead
from copper_sieve.store.sources import get_source, get_thumbnail, read_chunks

router = APIRouter(prefix="/api/sources", tags=["sources"])


@router.get("/{sha256}")
def source(sha256: str, context: ContextDep) -> SourceFactsRead:
    """File facts of a source."""
    with context.database.transaction() as connection:
        return SourceFactsRead.model_validate(get_source(connection, sha256)["facts"])


@router.get("/{sha256}/thumbnail.png", response_class=Response)
def thumbnail(sha256: str, context: ContextDep) -> Response:
    """A small picture of a source."""
    with context.database.transaction() as connection:
        return Response(get_thumbnail(connection, sha256), 200, IMMUTABLE, "image/png")


@router.get("/{sha256}/original", response_class=StreamingResponse)
def original(sha256: str, context: ContextDep) -> StreamingResponse:
    """The file as it came in, byte for byte."""
    with context.database.transaction() as connection:
        row = get_source(connection, sha256)

    headers = {
        **IMMUTABLE,
        "Content-Length": str(row["bytes"]),
        "Content-Disposition": f"attachment; filename*=UTF-8''{quote(row['name'])}",
    }
    return StreamingResponse(
        read_chunks(context.database, sha256), 200, headers, "application/octet-stream"
    )
