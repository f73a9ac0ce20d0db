"""Dependencies of the routes, provided by the application."""

from __future__ import annotations

from typing import Annotated

from fastapi import Depends, Request

from copper_sieve.api.access import Access
from copper_sieve.services.context import Context
from copper_sieve.services.preview import Previewer


def _context(request: Request) -> Context:
    context: Context = request.app.state.context
    return context


def _previewer(request: Request) -> Previewer:
    previewer: Previewer = request.app.state.previewer
    return previewer


def _access(request: Request) -> Access:
    access: Access = request.app.state.access
    return access


AccessDep = Annotated[Access, Depends(_access)]
ContextDep = Annotated[Context, Depends(_context)]
PreviewerDep = Annotated[Previewer, Depends(_previewer)]

IMMUTABLE = {"Cache-Control": "private, max-age=31536000, immutable"}
NO_STORE = {"Cache-Control": "no-store"}
