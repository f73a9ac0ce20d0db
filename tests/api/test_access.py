"""Who is let in: our own pages and those who know the token; no other page, no other name."""

from __future__ import annotations

from collections.abc import Iterator
from pathlib import Path

import pytest
from fastapi.testclient import TestClient

from copper_sieve.api.access import Access, is_loopback, kept_token
from copper_sieve.api.application import make_application
from copper_sieve.services.context import Context

TOKEN = "a-token-of-this-test"
OURS = "http://127.0.0.1:8420"


@pytest.fixture
def guarded(context: Context) -> Iterator[TestClient]:
    access = Access(TOKEN, frozenset({"textures.example"}))
    with TestClient(make_application(context, access), OURS, follow_redirects=False) as client:
        yield client


@pytest.mark.parametrize(
    "headers",
    [
        {"Origin": "http://evil.example"},
        {"Origin": "http://127.0.0.1:3000"},  # another server on this machine
        {"Origin": "null"},
        {"Sec-Fetch-Site": "cross-site", "Sec-Fetch-Mode": "no-cors"},
        {"Sec-Fetch-Site": "same-site", "Sec-Fetch-Mode": "no-cors"},
        {"Sec-Fetch-Site": "cross-site", "Sec-Fetch-Mode": "navigate"},
    ],
)
@pytest.mark.parametrize("method", ["GET", "POST", "PUT", "PATCH", "DELETE", "OPTIONS"])
def test_another_page_gets_nothing(
    client: TestClient, headers: dict[str, str], method: str
) -> None:
    answer = client.request(method, "/api/projects", headers=headers)
    assert (answer.status_code, answer.json()["code"]) == (403, "foreign_page")
    assert "access-control-allow-origin" not in answer.headers


@pytest.mark.parametrize(
    "host", ["rebound.example", "rebound.example:8420", "", "127.0.0.1.nip.io"]
)
def test_a_rebound_name_gets_nothing(client: TestClient, host: str) -> None:
    answer = client.get("/api/projects", headers={"Host": host})
    assert (answer.status_code, answer.json()["code"]) == (421, "unknown_host")


@pytest.mark.parametrize(
    "headers",
    [
        {},
        {"Origin": OURS, "Host": "127.0.0.1:8420", "Sec-Fetch-Site": "same-origin"},
        {"Host": "localhost:8420"}, {"Host": "[::1]:8420"}, {"Host": "192.0.2.7:8420"},
        {"Sec-Fetch-Site": "none", "Sec-Fetch-Mode": "navigate"},
    ],
)  # fmt: skip
def test_our_own_page_and_scripts_are_served(client: TestClient, headers: dict[str, str]) -> None:
    assert client.get("/api/projects", headers=headers).status_code == 200


def test_a_link_elsewhere_may_lead_to_a_page(client: TestClient) -> None:
    headers = {"Sec-Fetch-Site": "cross-site", "Sec-Fetch-Mode": "navigate"}
    assert client.get("/lantern-row/tray", headers=headers).status_code in (200, 404)


def test_every_answer_says_what_browsers_may_do_with_it(client: TestClient) -> None:
    for address in ("/api/projects", "/api/nowhere", "/lantern-row"):
        headers = client.get(address).headers
        policy = headers["content-security-policy"]
        scripts = next(part for part in policy.split(";") if part.strip().startswith("script-src"))
        assert scripts.split() == ["script-src", "'self'"]
        assert "frame-ancestors 'none'" in policy
        assert headers["x-content-type-options"] == "nosniff"
        assert headers["cross-origin-resource-policy"] == "same-origin"
        assert headers["referrer-policy"] == "same-origin"


def test_without_the_token_the_api_says_so_and_a_page_asks(guarded: TestClient) -> None:
    answer = guarded.get("/api/projects")
    assert (answer.status_code, answer.json()["code"]) == (401, "access_needed")
    assert answer.headers["www-authenticate"] == "Bearer"
    page = guarded.get("/lantern-row/tray")
    assert page.status_code == 401
    assert page.text.count("<input") == 1
    assert 'action="/access?to=%2Flantern-row%2Ftray"' in page.text
    assert TOKEN not in page.text + answer.text
    assert guarded.get("/api/projects", headers={"Host": "textures.example"}).status_code == 401


def test_the_printed_address_opens_the_server(guarded: TestClient) -> None:
    opened = guarded.get("/lantern-row/tray", params={"token": TOKEN, "x": "1"})
    assert (opened.status_code, opened.headers["location"]) == (303, "/lantern-row/tray?x=1")
    cookie = opened.headers["set-cookie"].lower()
    assert "httponly" in cookie
    assert "samesite=lax" in cookie
    assert TOKEN not in cookie
    assert guarded.get("/api/projects").status_code == 200  # the client keeps the cookie
    guarded.cookies.clear()
    guarded.cookies.set("sieve_access", "guess")
    assert guarded.get("/api/projects").status_code == 401


def test_the_field_takes_the_token_and_leads_back(guarded: TestClient) -> None:
    wrong = guarded.post("/access?to=/lantern-row/tray", data={"token": "guess"})
    assert wrong.status_code == 401
    assert "not the token" in wrong.text
    right = guarded.post("/access?to=/lantern-row/tray", data={"token": f" {TOKEN}\n"})
    assert (right.status_code, right.headers["location"]) == (303, "/lantern-row/tray")
    for elsewhere in ("//evil.example", "/\\evil.example", "https://evil.example"):
        led = guarded.post("/access", params={"to": elsewhere}, data={"token": TOKEN})
        assert led.headers["location"] == "/"


def test_scripts_send_it_as_a_bearer(guarded: TestClient) -> None:
    for way, status in ((f"Bearer {TOKEN}", 200), (f"bearer {TOKEN}", 200), ("Bearer x", 401),
                        (f"Basic {TOKEN}", 401), ("Bearer", 401), ("Bearer é", 401)):  # fmt: skip
        headers = {"Authorization": way.encode("latin-1")}
        assert guarded.get("/api/projects", headers=headers).status_code == status  # type: ignore[arg-type]


def test_the_token_is_kept_and_only_its_owner_reads_it(tmp_path: Path) -> None:
    token = kept_token(tmp_path)
    assert len(token) >= 32
    assert kept_token(tmp_path) == token
    assert (tmp_path / "access-token").stat().st_mode & 0o077 == 0


def test_loopback_is_told() -> None:
    assert [is_loopback(host) for host in ("127.0.0.1", "::1", "localhost", "127.9.9.9")] == [
        True
    ] * 4
    assert [is_loopback(host) for host in ("0.0.0.0", "::", "192.0.2.1", "a.example")] == [
        False
    ] * 4
