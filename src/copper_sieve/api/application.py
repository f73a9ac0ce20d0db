"""The application: routes, errors, and the built front end."""

from __future__ import annotations

import os
from collections.abc import AsyncIterator
from contextlib import asynccontextmanager
from pathlib import Path

from fastapi import FastAPI, Request
from fastapi.concurrency import run_in_threadpool
from fastapi.responses import FileResponse, JSONResponse, Response
from starlette.staticfiles import StaticFiles

from copper_sieve import __version__
from copper_sieve.api.errors import add_error_answers
from copper_sieve.api.routers import (
    deliveries,
    intake,
    projects,
    recipes,
    sets,
    sources,
    targets,
    vocabulary,
)
from copper_sieve.api.schemas.common import ErrorAnswer
from copper_sieve.services.context import Context
from copper_sieve.services.preview import Previewer
from copper_sieve.services.recognizer import Recognizer


def web_folder() -> Path:
    """Where the built front end lies."""
    root = os.environ.get("COPPER_SIEVE_ROOT")
    base = Path(root) if root else Path(__file__).resolve().parents[3]
    return base / "web" / "dist"


def make_application(context: Context | None = None) -> FastAPI:
    """The application; without a context it only describes itself (OpenAPI)."""

    @asynccontextmanager
    async def lifespan(_: FastAPI) -> AsyncIterator[None]:
        yield
        if context:
            await run_in_threadpool(app.state.recognizer.stop)

    app = FastAPI(
        title="Copper Sieve",
        lifespan=lifespan,
        version=__version__,
        docs_url=None,
        redoc_url=None,
        openapi_url="/api/openapi.json",
        responses={422: {"model": ErrorAnswer}, 404: {"model": ErrorAnswer}},
        generate_unique_id_function=lambda route: route.name,
    )
    add_error_answers(app)
    for module in (projects, sources, sets, intake, recipes, targets, vocabulary, deliveries):
        app.include_router(module.router)
    if context:
        app.state.context = context
        app.state.previewer = Previewer(context)
        app.state.recognizer = Recognizer(context)
        _serve_front_end(app, web_folder())
    return app


def _serve_front_end(app: FastAPI, folder: Path) -> None:
    if not (folder / "index.html").is_file():
        return
    app.mount("/assets", StaticFiles(directory=folder / "assets"), name="assets")

    @app.get("/{path:path}", include_in_schema=False)
    def page(path: str, request: Request) -> Response:
        """Every address of the interface is the one page; unknown API addresses are errors."""
        if path.startswith("api/"):
            answer = {"code": "not_found", "message": f"there is nothing at /{path}"}
            return JSONResponse(answer, 404)
        file = (folder / path).resolve()
        inside = file.is_relative_to(folder.resolve())
        found = file if path and inside and file.is_file() else folder / "index.html"
        return FileResponse(found, headers={"Cache-Control": "no-cache"})
