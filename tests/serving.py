"""Test clients of the application."""

from __future__ import annotations

from fastapi.testclient import TestClient

from copper_sieve.api.access import Access, OpenOnLoopback
from copper_sieve.api.application import make_application
from copper_sieve.services.context import Context

OPEN = Access(OpenOnLoopback())
LOOPBACK = ("127.0.0.1", 50000)


def open_client(context: Context, address: str = "http://127.0.0.1") -> TestClient:
    """Return a client of an application that needs no token."""
    return TestClient(make_application(context, OPEN), address, client=LOOPBACK)
