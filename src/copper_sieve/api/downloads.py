"""File downloads, streamed under their own names."""

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
    """Return the headers of a download; the size lets clients detect truncated downloads."""
    held = {
        **(headers or {}),
        "Content-Length": str(size),
        "Content-Disposition": f"attachment; filename*=UTF-8''{quote(name)}",
    }
    return StreamingResponse(pieces, 200, held, media_type)
