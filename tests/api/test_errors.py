"""What goes wrong unexpectedly, as it is told."""

from __future__ import annotations

import pytest
from fastapi.testclient import TestClient


def test_a_disk_that_fails_is_an_error_in_words(
    client: TestClient, monkeypatch: pytest.MonkeyPatch
) -> None:
    def broken(*_: object) -> None:
        raise OSError(5, "Input/output error")

    monkeypatch.setattr("copper_sieve.services.projects.check_database", broken)
    answer = client.get("/api/v1/health")
    assert (answer.status_code, answer.json()["type"]) == (500, "/problems/unexpected")
    assert "The server's log contains details" in answer.json()["detail"]
