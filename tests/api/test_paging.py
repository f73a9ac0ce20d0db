"""Every list of the API can be read page by page."""

from __future__ import annotations

import re
import time
from collections.abc import Callable
from typing import Any

import pytest
from fastapi.testclient import TestClient

from copper_sieve.services import delivery_worker
from copper_sieve.services.context import Context
from tests.api.conftest import TakeIn
from tests.conftest import MakePhoto

BEFORE = {"/api/v1/projects/{project}/deliveries", "/api/v1/webhooks/{webhook_id}/calls"}
_ANSWERS_FOR_NAMED = re.compile(r"/board/(disk-states|stale)|/comparisons/|/folders/")


def wait_until(settled: Callable[[], bool], seconds: float = 30.0) -> None:
    """Wait for work in the background that changes rows between two requests."""
    end = time.monotonic() + seconds
    while not settled():
        assert time.monotonic() < end
        time.sleep(0.1)


@pytest.fixture
def filled(
    client: TestClient, context: Context, project: str, take_in: TakeIn, make_photo: MakePhoto
) -> str:
    here = f"/api/v1/projects/{project}"
    ids = [take_in(make_photo(f"wall_{n}.png", seed=80 + n))["set_id"] for n in (1, 2, 3)]
    for number in ids:
        client.post("/api/v1/recipes", json={"set_id": number, "name": f"{project} {number}"})
        client.post(f"{here}/webhooks", json={"url": f"https://build{number}.example.org/x"})
    cells = [{"set_id": one, "target_id": "orm-y-down"} for one in ids]
    asked = client.post(f"{here}/deliveries", json={"cells": cells}).json()
    delivery_worker.run(context, asked["id"])
    client.put(f"{here}/auto-deliver", json={"cells": cells, "kept": True})
    wait_until(lambda: all(one["last_error"] for one in client.get(f"{here}/webhooks").json()))
    return project


def paged(client: TestClient, address: str) -> list[Any]:
    """All rows, one page of two after the other."""
    rows: list[Any] = []
    joined = "&" if "?" in address else "?"
    following: str | None = f"{address}{joined}limit=2"
    while following:
        answer = client.get(following)
        assert answer.status_code == 200, answer.text
        assert len(answer.json()) <= 2
        rows += answer.json()
        link = answer.headers.get("link", "")
        found = re.fullmatch(r'<([^>]+)>; rel="next"', link)
        assert bool(found) == bool(link)
        following = found[1] if found else None
    return rows


def test_pages_together_are_the_list(client: TestClient, filled: str) -> None:
    here = f"/api/v1/projects/{filled}"
    many = ["/sets", "/board", "/webhooks", "/auto-deliver", "/destinations"]
    few = ["/models", "/environments", "/watched-folders", "/unreadable-sets", "/jobs"]
    own = ["/api/v1/projects", "/api/v1/recipes", "/api/v1/targets", "/api/v1/source-cards"]
    for address in [here + path for path in (*many, *few)] + own:
        whole = client.get(address)
        assert "link" not in whole.headers
        assert paged(client, address) == whole.json()
        if address.removeprefix(here) in many:
            assert len(whole.json()) > 2
    gone = client.get(f"{here}/sets?after=999999&limit=2")
    assert gone.status_code == 404
    assert "Request the first page" in gone.json()["detail"]


def test_no_list_is_without_a_cursor(client: TestClient) -> None:
    """A new list of the API takes a page, or says why not here."""
    paths = client.get("/api/v1/openapi.json").json()["paths"]
    for path, methods in paths.items():
        get = methods.get("get", {})
        content = get.get("responses", {}).get("200", {}).get("content", {})
        if content.get("application/json", {}).get("schema", {}).get("type") != "array":
            continue
        taken = {one["name"] for one in get.get("parameters", [])}
        if _ANSWERS_FOR_NAMED.search(path):
            continue
        assert {"after", "limit"} <= taken or (path in BEFORE and "before" in taken), path
