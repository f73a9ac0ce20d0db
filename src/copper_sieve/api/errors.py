"""Map exceptions to error responses."""

from __future__ import annotations

import errno
import logging

import psycopg
from fastapi import FastAPI, Request
from fastapi.exceptions import RequestValidationError
from fastapi.responses import JSONResponse
from starlette.exceptions import HTTPException

from copper_sieve.api.problems import problem
from copper_sieve.core.errors import (
    CancelledError,
    ConflictError,
    DatabaseUnavailableError,
    DeliveryError,
    DiskFullError,
    MeasureError,
    MeshError,
    ModelTooLargeError,
    NotFoundError,
    NotStorableError,
    ParameterError,
    PictureError,
    PictureTooLargeError,
    PlanError,
    PresetError,
    RecipeError,
    ShapeError,
    SieveError,
    UnknownTargetError,
    UnreadableError,
)
from copper_sieve.store.database import translated_errors

_log = logging.getLogger(__name__)
_STATUS: tuple[tuple[type[SieveError], int], ...] = (
    (DatabaseUnavailableError, 503),
    (DiskFullError, 507),
    (NotStorableError, 422),
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


def add_error_responses(app: FastAPI) -> None:
    """Register handlers that map exceptions to problem details."""

    @app.exception_handler(SieveError)
    async def known(_: Request, error: SieveError) -> JSONResponse:
        status = next((status for kind, status in _STATUS if isinstance(error, kind)), 500)
        return problem(status, error.code, error.message)

    @app.exception_handler(RequestValidationError)
    async def refused(_: Request, error: RequestValidationError) -> JSONResponse:
        first = error.errors()[0]
        place = ".".join(str(part) for part in first["loc"][1:])
        return problem(422, "invalid", f"{place or 'request'}: {first['msg']}")

    @app.exception_handler(HTTPException)
    async def plain(_: Request, error: HTTPException) -> JSONResponse:
        code = {404: "not_found", 405: "method_not_allowed", 408: "timeout"}.get(error.status_code)
        return problem(error.status_code, code or "invalid", str(error.detail), error.headers)

    @app.exception_handler(RecursionError)
    async def deep(_: Request, __: RecursionError) -> JSONResponse:
        return problem(422, "invalid", "The request body is nested too deeply.")

    @app.exception_handler(psycopg.Error)
    async def database(request: Request, error: psycopg.Error) -> JSONResponse:
        try:
            with translated_errors():
                raise error
        except SieveError as ours:
            return await known(request, ours)
        except psycopg.Error:
            return await unexpected(request, error)

    @app.exception_handler(OSError)
    async def disk(request: Request, error: OSError) -> JSONResponse:
        if error.errno in (errno.ENOSPC, errno.EDQUOT):
            return await known(request, DiskFullError())
        return await unexpected(request, error)

    @app.exception_handler(MemoryError)
    async def memory(_: Request, __: MemoryError) -> JSONResponse:
        return problem(507, "memory", "Not enough memory for this size. Choose a smaller size.")

    @app.exception_handler(Exception)
    async def unexpected(request: Request, error: Exception) -> JSONResponse:
        _log.error("%s %s failed", request.method, request.url.path[:200], exc_info=error)
        return problem(
            500, "unexpected", "An unexpected error occurred. The server's log contains details."
        )
