"""A file sent as the raw body of a request, written to disk as it arrives."""

from __future__ import annotations

from collections.abc import AsyncIterator
from contextlib import asynccontextmanager
from pathlib import Path
from typing import Annotated

from fastapi import Query, Request

from copper_sieve.core.errors import PictureTooLargeError
from copper_sieve.services.context import Context

RAW_BODY = {
    "requestBody": {
        "required": True,
        "content": {"application/octet-stream": {"schema": {"type": "string"}}},
    }
}
FileName = Annotated[str, Query(min_length=1, max_length=1000)]


@asynccontextmanager
async def receive_upload(
    context: Context, request: Request, name: str, limit: int | None = None
) -> AsyncIterator[Path]:
    """Write the request body to a temporary file, which is deleted at the end of the `async with`
    block.

    limit : bytes; default: the limit of a picture

    Raises PictureTooLargeError as soon as the limit is exceeded.
    """
    with context.incoming() as folder:
        path = folder / "incoming"
        await _write(request, path, name, limit or context.settings.max_bytes)
        yield path


async def _write(request: Request, path: Path, name: str, limit: int) -> None:
    received = 0
    problem: OSError | None = None
    with path.open("wb") as file:
        async for piece in request.stream():
            received += len(piece)
            if received > limit:
                raise PictureTooLargeError(
                    f"{name} is larger than the limit of {limit / 1e6:.0f} MB. Reduce "
                    "it, or raise SIEVE_MAX_BYTES"
                )
            if problem is None:
                try:
                    file.write(piece)
                    file.flush()
                # the rest of the body is read, so that the client reads the response
                except OSError as error:
                    problem = error
                    file.truncate(0)
    if problem is not None:
        raise problem
