"""The manual under Help, and the description of the API."""

from __future__ import annotations

from pathlib import Path

import pytest
from fastapi.testclient import TestClient

from copper_sieve.api import application
from copper_sieve.services.context import Context
from tests.serving import LOOPBACK, OPEN


def test_the_manual_is_served_and_its_scripts_may_run(
    context: Context, tmp_path: Path, monkeypatch: pytest.MonkeyPatch
) -> None:
    (tmp_path / "assets").mkdir()
    (tmp_path / "index.html").write_text("the page")
    (tmp_path / "help" / "reference").mkdir(parents=True)
    (tmp_path / "help" / "index.html").write_text("the manual")
    (tmp_path / "help" / "reference" / "http.html").write_text("the API")
    monkeypatch.setattr(application, "web_folder", lambda: tmp_path)
    app = application.make_application(context, OPEN)
    client = TestClient(app, "http://127.0.0.1", client=LOOPBACK)
    found = client.get("/help/index.html")
    assert (found.status_code, found.text) == (200, "the manual")
    assert "script-src 'self' 'unsafe-inline'" in found.headers["content-security-policy"]
    assert client.get("/docs").text == "the API"
    page = client.get("/lantern-row/tray")
    assert "'unsafe-inline'" not in page.headers["content-security-policy"].split("style-src")[0]
