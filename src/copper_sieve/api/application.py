"""The application: routes, errors, and the built front end."""

from __future__ import annotations

import http.client
import os
import re
from collections.abc import AsyncIterator
from contextlib import asynccontextmanager, suppress
from functools import cache
from pathlib import Path
from typing import Any

from fastapi import APIRouter, Depends, FastAPI, Request
from fastapi.concurrency import run_in_threadpool
from fastapi.responses import FileResponse, JSONResponse, RedirectResponse, Response
from fastapi.routing import APIRoute
from starlette.staticfiles import StaticFiles

from copper_sieve import __version__
from copper_sieve.api.access import Access, Guard
from copper_sieve.api.errors import add_error_answers
from copper_sieve.api.pacing import Pace
from copper_sieve.api.receiving import RAW_BODY
from copper_sieve.api.routers import (
    arrivals,
    checklist,
    deliveries,
    destinations,
    followed,
    jobs,
    models,
    projects,
    recipes,
    sets,
    shots,
    sources,
    surroundings,
    targets,
    tray,
    vocabulary,
    webhooks,
)
from copper_sieve.api.schemas.common import ErrorAnswer
from copper_sieve.services.checklist import Overseer
from copper_sieve.services.context import Context
from copper_sieve.services.disk_use import Purger
from copper_sieve.services.following import Follower
from copper_sieve.services.keeping import Keeper
from copper_sieve.services.preview import Previewer
from copper_sieve.services.resting import Rest
from copper_sieve.services.shared_storage import Fetcher
from copper_sieve.services.webhooks.dispatcher import Dispatcher


def web_folder() -> Path:
    """Where the built front end lies: in the installed package, else in the tree beside it."""
    installed = Path(__file__).resolve().parents[1] / "web_dist"
    if installed.is_dir():
        return installed
    root = os.environ.get("COPPER_SIEVE_ROOT")
    base = Path(root) if root else Path(__file__).resolve().parents[3]
    return base / "web" / "dist"


_ROUTERS = (
    projects,
    tray,
    checklist,
    sources,
    sets,
    arrivals,
    recipes,
    targets,
    vocabulary,
    deliveries,
    destinations,
    followed,
    webhooks,
    models,
    shots,
    surroundings,
    jobs,
)
# Named, not given as a model: that would be looked at anew for each of them and each address, which
# is most of what the first request of a server waits for.
_REFERENCE = "#/components/schemas/{model}"
_ERROR = {"application/json": {"schema": {"$ref": _REFERENCE.format(model=ErrorAnswer.__name__)}}}
_ANSWERS: dict[int | str, dict[str, Any]] = {
    status: {"content": _ERROR, "description": http.client.responses[status]}
    for status in (400, 401, 403, 404, 405, 408, 409, 413, 421, 422, 503, 507)
}


def _disturb(request: Request) -> None:
    """A page that only looks how deliveries get on keeps nothing awake."""
    if request.method != "GET" or request.url.path.endswith(".png"):
        request.app.state.rest.disturb()


@cache
def _addresses() -> APIRouter:
    """All addresses of the API; what they take and answer is looked at once in a process."""
    found = APIRouter(responses=_ANSWERS, generate_unique_id_function=lambda route: route.name)
    for module in _ROUTERS:
        found.include_router(module.router, dependencies=[Depends(_disturb)])
    return found


def make_application(context: Context | None = None, access: Access | None = None) -> FastAPI:
    """Return the application; without a context it only describes itself (OpenAPI).

    access : who may use it; default: nobody
    """

    @asynccontextmanager
    async def lifespan(_: FastAPI) -> AsyncIterator[None]:
        if context:
            context.closing.clear()
            for one in app.state.watching:
                one.start()
        yield
        if context:
            context.closing.set()
            for one in app.state.watching:
                await run_in_threadpool(one.stop)

    app = FastAPI(
        title="Copper Sieve",
        lifespan=lifespan,
        version=__version__,
        docs_url=None,
        redoc_url=None,
        openapi_url="/api/openapi.json",
    )
    _describe_errors(app)
    add_error_answers(app)

    app.router.routes.extend(_addresses().routes)
    app.add_middleware(Pace, raw=raw_addresses())
    app.state.access = access or Access()
    app.add_middleware(Guard, access=app.state.access)  # comes first
    if context:
        app.state.context = context
        app.state.previewer = Previewer(context)
        app.state.rest = Rest(context.memory, also=context.models.forget)
        app.state.follower = Follower(context)
        app.state.overseer = Overseer(context, app.state.rest.quiet)
        # Threads that begin and end with the application.
        app.state.watching = (
            app.state.rest,
            Keeper(context),
            Dispatcher(context),
            Purger(context),
            Fetcher(context),
            app.state.overseer,
            app.state.follower,
        )
        _serve_front_end(app, web_folder())
    return app


def _describe_errors(app: FastAPI) -> None:
    """The OpenAPI document holds what all addresses name."""
    plain = app.openapi

    def openapi() -> dict[str, Any]:
        document = plain()
        schemas = document["components"]["schemas"]
        if ErrorAnswer.__name__ not in schemas:
            schemas[ErrorAnswer.__name__] = ErrorAnswer.model_json_schema(ref_template=_REFERENCE)
            document["components"]["schemas"] = dict(sorted(schemas.items()))
        return document

    app.openapi = openapi  # type: ignore[method-assign]


def raw_addresses() -> list[re.Pattern[str]]:
    """The addresses that take a file as it is."""
    routes = [route for module in _ROUTERS for route in module.router.routes]
    raw = [one for one in routes if isinstance(one, APIRoute) and one.openapi_extra == RAW_BODY]
    return [route.path_regex for route in raw]


def _serve_front_end(app: FastAPI, folder: Path) -> None:
    if not (folder / "index.html").is_file():
        return
    app.mount("/assets", StaticFiles(directory=folder / "assets"), name="assets")
    if (folder / "help").is_dir():
        app.mount("/help", StaticFiles(directory=folder / "help", html=True), name="help")

    @app.get("/docs", include_in_schema=False)
    def api_reference() -> Response:
        """The description of the API is a page of the manual."""
        return RedirectResponse("/help/reference/http.html")

    @app.get("/{path:path}", include_in_schema=False)
    def page(path: str, request: Request) -> Response:
        """Every address of the interface is the one page; unknown API addresses are errors."""
        if path.startswith("api/"):
            answer = {"code": "not_found", "message": f"there is no resource at /{path}"}
            return JSONResponse(answer, 404)
        found = folder / "index.html"
        with suppress(OSError):  # a name that no file can have
            file = (folder / path).resolve()
            if path and file.is_relative_to(folder.resolve()) and file.is_file():
                found = file
        return FileResponse(found, headers={"Cache-Control": "no-cache"})
