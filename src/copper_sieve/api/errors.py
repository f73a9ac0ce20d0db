"""The one place where errors become answers."""

from __future__ import annotations

import errno
import logging
from collections.abc import Mapping

import psycopg
from fastapi import FastAPI, Request
from fastapi.exceptions import RequestValidationError
from fastapi.responses import JSONResponse
from starlette.exceptions import HTTPException

from copper_sieve.core.errors import (
    CancelledError,
    ConflictError,
    DatabaseAwayError,
    DeliveryError,
    MeasureError,
    MeshError,
    ModelTooLargeError,
    NoRoomError,
    NotFoundError,
    ParameterError,
    PictureError,
    PictureTooLargeError,
    PlanError,
    PresetError,
    RecipeError,
    ShapeError,
    SieveError,
    UnkeepableError,
    UnknownTargetError,
    UnreadableError,
)
from copper_sieve.store.database import in_our_words

_log = logging.getLogger(__name__)
_STATUS: tuple[tuple[type[SieveError], int], ...] = (
    (DatabaseAwayError, 503),
    (NoRoomError, 507),
    (UnkeepableError, 422),
    (UnreadableError, 409),
    (NotFoundError, 404),
    (UnknownTargetError, 404),
    (ConflictError, 409),
    (CancelledError, 409),
    (DeliveryError, 409),
    (PictureTooLargeError, 413),
    (PictureError, 422),
    (ModelTooLargeError, 413),
    (MeasureError, 422),
    (MeshError, 422),
    (ParameterError, 422),
    (PlanError, 422),
    (PresetError, 422),
    (RecipeError, 422),
    (ShapeError, 422),
)


def _answer(
    status: int, code: str, message: str, headers: Mapping[str, str] | None = None
) -> JSONResponse:
    if status == 503:
        headers = {"Retry-After": "1"}
    elif status == 408:
        headers = {"Connection": "close"}  # what was left of the body is not wanted any more
    return JSONResponse({"code": code, "message": message}, status, headers)


def add_error_answers(app: FastAPI) -> None:
    """Map our errors, refused input and everything unexpected to {code, message}."""

    @app.exception_handler(SieveError)
    async def known(_: Request, error: SieveError) -> JSONResponse:
        status = next((status for kind, status in _STATUS if isinstance(error, kind)), 500)
        return _answer(status, error.code, error.message)

    @app.exception_handler(RequestValidationError)
    async def refused(_: Request, error: RequestValidationError) -> JSONResponse:
        first = error.errors()[0]
        place = ".".join(str(part) for part in first["loc"][1:])
        return _answer(422, "refused", f"{place or 'the request'}: {first['msg']}")

    @app.exception_handler(HTTPException)
    async def plain(_: Request, error: HTTPException) -> JSONResponse:
        code = {404: "not_found", 405: "not_allowed", 408: "stalled"}.get(error.status_code)
        return _answer(error.status_code, code or "refused", str(error.detail), error.headers)

    @app.exception_handler(RecursionError)
    async def deep(_: Request, __: RecursionError) -> JSONResponse:
        return _answer(422, "refused", "The request body is nested too deeply.")

    @app.exception_handler(psycopg.Error)
    async def database(request: Request, error: psycopg.Error) -> JSONResponse:
        try:
            with in_our_words():
                raise error
        except SieveError as ours:
            return await known(request, ours)
        except psycopg.Error:
            return await unexpected(request, error)

    @app.exception_handler(OSError)
    async def disk(request: Request, error: OSError) -> JSONResponse:
        if error.errno in (errno.ENOSPC, errno.EDQUOT):
            return await known(request, NoRoomError())
        return await unexpected(request, error)

    @app.exception_handler(MemoryError)
    async def memory(_: Request, __: MemoryError) -> JSONResponse:
        return _answer(507, "memory", "Not enough memory for this size. Choose a smaller size.")

    @app.exception_handler(Exception)
    async def unexpected(request: Request, error: Exception) -> JSONResponse:
        _log.error("%s %s failed", request.method, request.url.path[:200], exc_info=error)
        return _answer(
            500, "unexpected", "An unexpected error occurred. The server's log contains details."
        )
