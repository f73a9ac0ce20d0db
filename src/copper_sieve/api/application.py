"""The application: routes, errors, and the front end."""

from __future__ import annotations

import os
import re
from collections.abc import AsyncIterator
from contextlib import asynccontextmanager, suppress
from functools import cache
from pathlib import Path

from fastapi import APIRouter, Depends, FastAPI, Request
from fastapi.concurrency import run_in_threadpool
from fastapi.responses import FileResponse, RedirectResponse, Response
from fastapi.routing import APIRoute
from starlette.staticfiles import StaticFiles

from copper_sieve import __version__
from copper_sieve.api.access import Access, Guard
from copper_sieve.api.errors import add_error_responses
from copper_sieve.api.pacing import Pace
from copper_sieve.api.problems import describe_problems, problem
from copper_sieve.api.routers import (
    arrivals,
    checklist,
    deliveries,
    destinations,
    environments,
    jobs,
    light_captures,
    models,
    projects,
    recipes,
    sets,
    sources,
    targets,
    tray,
    vocabulary,
    watched_folders,
    webhooks,
)
from copper_sieve.api.uploads import RAW_BODY
from copper_sieve.services.auto_deliver import AutoDeliverer
from copper_sieve.services.checklist import ChecklistRunner
from copper_sieve.services.context import Context
from copper_sieve.services.disk_use import Purger
from copper_sieve.services.idle import IdleThread
from copper_sieve.services.preview import Previewer
from copper_sieve.services.shared_storage import Fetcher
from copper_sieve.services.watched_folders import FolderWatcher
from copper_sieve.services.webhooks.dispatcher import Dispatcher


def web_folder() -> Path:
    """Return the folder of the built front end: in the installed package, or in the source tree."""
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
    watched_folders,
    webhooks,
    models,
    light_captures,
    environments,
    jobs,
)


def _disturb(request: Request) -> None:
    """Mark the server as active, except for requests that only poll the state of deliveries."""
    if request.method != "GET" or request.url.path.endswith(".png"):
        request.app.state.rest.disturb()


@cache
def _addresses() -> APIRouter:
    """Return the router of all API operations; built once per process."""
    found = APIRouter(generate_unique_id_function=lambda route: route.name)
    for module in _ROUTERS:
        found.include_router(module.router, dependencies=[Depends(_disturb)])
    return found


def make_application(context: Context | None = None, access: Access | None = None) -> FastAPI:
    """Return the application. Without a context it only provides the OpenAPI document.

    access : access control; default: every request is rejected
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
        openapi_url="/api/v1/openapi.json",
    )
    describe_problems(app)
    add_error_responses(app)

    app.router.routes.extend(_addresses().routes)
    app.add_middleware(Pace, raw=raw_addresses())
    app.state.access = access or Access()
    app.add_middleware(Guard, access=app.state.access)  # must be the first route
    if context:
        app.state.context = context
        app.state.previewer = Previewer(context)
        app.state.rest = IdleThread(context.memory, also=context.models.forget)
        app.state.follower = FolderWatcher(context)
        app.state.overseer = ChecklistRunner(context, app.state.rest.quiet)
        # Threads that run as long as the application.
        app.state.watching = (
            app.state.rest,
            AutoDeliverer(context),
            Dispatcher(context),
            Purger(context),
            Fetcher(context),
            app.state.overseer,
            app.state.follower,
        )
        _serve_front_end(app, web_folder())
    return app


def raw_addresses() -> list[re.Pattern[str]]:
    """Return the path patterns of operations with a raw request body."""
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
        """Redirect to the API reference in the manual."""
        return RedirectResponse("/help/reference/http.html")

    @app.get("/{path:path}", include_in_schema=False)
    def page(path: str, request: Request) -> Response:
        """Return the single page of the interface for its addresses, and errors for unknown API
        paths.
        """
        if path.startswith("api/"):
            return problem(404, "not_found", f"there is no resource at /{path}")
        found = folder / "index.html"
        with suppress(OSError):  # not a valid file name
            file = (folder / path).resolve()
            if path and file.is_relative_to(folder.resolve()) and file.is_file():
                found = file
        return FileResponse(found, headers={"Cache-Control": "no-cache"})
