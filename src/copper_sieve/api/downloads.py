"""Files as answers: fetched under their own names, in pieces."""

from __future__ import annotations

from collections.abc import Iterable, Mapping
from urllib.parse import quote

from fastapi.responses import StreamingResponse


def attachment(
    name: str,
    size: int,
    pieces: Iterable[bytes],
    media_type: str = "application/octet-stream",
    headers: Mapping[str, str] | None = None,
) -> StreamingResponse:
    """A file to be saved under its name; by its size in bytes a cut one is told."""
    held = {
        **(headers or {}),
        "Content-Length": str(size),
        "Content-Disposition": f"attachment; filename*=UTF-8''{quote(name)}",
    }
    return StreamingResponse(pieces, 200, held, media_type)
