"""The one place where errors become answers."""

from __future__ import annotations

import logging

from fastapi import FastAPI, Request
from fastapi.exceptions import RequestValidationError
from fastapi.responses import JSONResponse

from copper_sieve.core.errors import (
    CancelledError,
    ConflictError,
    DatabaseAwayError,
    DeliveryError,
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
)

_log = logging.getLogger(__name__)
_STATUS: tuple[tuple[type[SieveError], int], ...] = (
    (DatabaseAwayError, 503),
    (NoRoomError, 507),
    (UnkeepableError, 422),
    (NotFoundError, 404),
    (UnknownTargetError, 404),
    (ConflictError, 409),
    (CancelledError, 409),
    (DeliveryError, 409),
    (PictureTooLargeError, 413),
    (PictureError, 422),
    (ParameterError, 422),
    (PlanError, 422),
    (PresetError, 422),
    (RecipeError, 422),
    (ShapeError, 422),
)


def _answer(status: int, code: str, message: str) -> JSONResponse:
    headers = {"Retry-After": "1"} if status == 503 else None
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

    @app.exception_handler(MemoryError)
    async def memory(_: Request, __: MemoryError) -> JSONResponse:
        return _answer(507, "memory", "Not enough memory for this size: choose a smaller one.")

    @app.exception_handler(Exception)
    async def unexpected(request: Request, error: Exception) -> JSONResponse:
        _log.error("%s %s failed", request.method, request.url.path, exc_info=error)
        return _answer(500, "unexpected", "Something unexpected failed; the server's log has more.")
