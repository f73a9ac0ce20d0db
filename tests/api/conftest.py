"""The application on the real database, called without a socket."""

from __future__ import annotations

from collections.abc import Callable, Iterator
from pathlib import Path

import pytest
from fastapi.testclient import TestClient

from copper_sieve.api.application import make_application
from copper_sieve.services.context import Context
from tests.serving import LOOPBACK, OPEN

TakeIn = Callable[..., dict]


@pytest.fixture
def client(context: Context) -> Iterator[TestClient]:
    app = make_application(context, OPEN)
    with TestClient(
        app, "http://127.0.0.1", raise_server_exceptions=False, client=LOOPBACK
    ) as client:
        yield client


@pytest.fixture
def take_in(client: TestClient, project: str) -> TakeIn:
    """Send a file as the page does."""

    def send(path: Path, name: str | None = None, status: int = 201) -> dict:
        address = f"/api/v1/projects/{project}/sources"
        answer = client.post(address, params={"name": name or path.name}, content=path.read_bytes())
        assert answer.status_code == status, answer.text
        return answer.json()

    return send
