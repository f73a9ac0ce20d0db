"""Who may use the server: its own pages and clients that know the token."""

from __future__ import annotations

import itertools
import os
import socket
from collections.abc import Iterator
from pathlib import Path

import pytest
from fastapi.testclient import TestClient
from hypothesis import HealthCheck, given, settings
from hypothesis import strategies as st

from copper_sieve.api.access import Access, OpenOnLoopback, is_loopback
from copper_sieve.api.access_token import TOKEN_FILE, AccessToken, rotate
from copper_sieve.api.application import make_application
from copper_sieve.api.credentials import Attempts, Credentials
from copper_sieve.cli import serve
from copper_sieve.core.errors import DatabaseUnavailableError, SetupError
from copper_sieve.services.context import Context
from copper_sieve.settings import Settings
from copper_sieve.store import access_sessions
from copper_sieve.store.database import Database
from tests.serving import LOOPBACK

TOKEN = "a-token-of-this-test"
OURS = "http://127.0.0.1:8420"


@pytest.fixture
def credentials(database: Database) -> Credentials:
    return Credentials(AccessToken.chosen(TOKEN), database)


@pytest.fixture
def guarded(context: Context, credentials: Credentials) -> Iterator[TestClient]:
    access = Access(credentials, frozenset({"textures.example"}))
    app = make_application(context, access)
    with TestClient(app, OURS, follow_redirects=False, client=LOOPBACK) as client:
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
    answer = client.request(method, "/api/v1/projects", headers=headers)
    assert (answer.status_code, answer.json()["type"]) == (403, "/problems/foreign-page")
    assert "access-control-allow-origin" not in answer.headers


@pytest.mark.parametrize(
    "host", ["rebound.example", "rebound.example:8420", "", "127.0.0.1.nip.io"]
)
def test_a_rebound_name_gets_nothing(client: TestClient, host: str) -> None:
    answer = client.get("/api/v1/projects", headers={"Host": host})
    assert (answer.status_code, answer.json()["type"]) == (421, "/problems/unknown-host")


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
    assert client.get("/api/v1/projects", headers=headers).status_code == 200


def test_a_link_elsewhere_may_lead_to_a_page(client: TestClient) -> None:
    headers = {"Sec-Fetch-Site": "cross-site", "Sec-Fetch-Mode": "navigate"}
    assert client.get("/lantern-row/tray", headers=headers).status_code in (200, 404)


def test_every_answer_says_what_browsers_may_do_with_it(client: TestClient) -> None:
    for address in ("/api/v1/projects", "/api/v1/nowhere", "/lantern-row"):
        headers = client.get(address).headers
        policy = headers["content-security-policy"]
        scripts = next(part for part in policy.split(";") if part.strip().startswith("script-src"))
        assert scripts.split() == ["script-src", "'self'"]
        assert "frame-ancestors 'none'" in policy
        assert headers["x-content-type-options"] == "nosniff"
        assert headers["cross-origin-resource-policy"] == "same-origin"
        assert headers["referrer-policy"] == "same-origin"
        if address.startswith("/api/v1/"):
            assert headers["cache-control"] == "no-store"
            assert headers["vary"] == "Authorization, Cookie"


def test_no_answer_of_the_api_may_be_kept_by_a_shared_cache() -> None:
    from copper_sieve.api import deps

    assert deps.IMMUTABLE["Cache-Control"].startswith("private,")
    folder = Path(deps.__file__).parent
    for path in folder.rglob("*.py"):
        assert '"public' not in path.read_text("utf-8"), path


def test_without_the_token_the_api_says_so_and_a_page_asks(guarded: TestClient) -> None:
    answer = guarded.get("/api/v1/projects")
    assert (answer.status_code, answer.json()["type"]) == (401, "/problems/access-needed")
    assert answer.headers["www-authenticate"] == "Bearer"
    page = guarded.get("/lantern-row/tray")
    assert page.status_code == 401
    assert page.text.count("<input") == 1
    assert 'action="/access?to=%2Flantern-row%2Ftray"' in page.text
    assert TOKEN not in page.text + answer.text
    assert guarded.get("/api/v1/projects", headers={"Host": "textures.example"}).status_code == 401


def test_the_printed_address_opens_the_server(guarded: TestClient) -> None:
    opened = guarded.get("/lantern-row/tray", params={"token": TOKEN, "x": "1"})
    assert (opened.status_code, opened.headers["location"]) == (303, "/lantern-row/tray?x=1")
    cookie = opened.headers["set-cookie"].lower()
    assert "httponly" in cookie
    assert "samesite=strict" in cookie
    assert "secure" not in cookie
    assert TOKEN not in cookie
    assert guarded.get("/api/v1/projects").status_code == 200  # the client keeps the cookie
    guarded.cookies.clear()
    guarded.cookies.set("sieve_access", "guess")
    assert guarded.get("/api/v1/projects").status_code == 401


def test_behind_tls_the_cookie_is_secure(context: Context, credentials: Credentials) -> None:
    app = make_application(context, Access(credentials))
    client = TestClient(app, "https://127.0.0.1", follow_redirects=False)
    assert "secure" in client.get("/", params={"token": TOKEN}).headers["set-cookie"].lower()


def test_a_link_on_another_site_reaches_the_session_through_a_page_of_ours(
    guarded: TestClient,
) -> None:
    """Browsers keep a strict cookie back from the first request that another site causes."""
    link = {"Sec-Fetch-Site": "cross-site", "Sec-Fetch-Mode": "navigate"}
    page = guarded.get("/lantern-row/tray?x=%22%3E<b>", headers=link)
    assert (page.status_code, page.headers["cache-control"]) == (200, "no-store")
    assert 'content="0; url=/lantern-row/tray?x=%22%3E%3Cb%3E"' in page.text
    opened = guarded.get("/", params={"token": TOKEN}, headers=link)
    assert (opened.status_code, "set-cookie" in opened.headers) == (200, True)
    assert 'content="0; url=/"' in opened.text
    # The page itself asks for the token once it is its own request.
    own = guarded.get("/x", headers={"Sec-Fetch-Site": "same-origin", "Cookie": ""})
    assert own.status_code in (200, 401, 404)


def test_the_field_takes_the_token_and_leads_back(guarded: TestClient) -> None:
    wrong = guarded.post("/access?to=/lantern-row/tray", data={"token": "guess"})
    assert wrong.status_code == 401
    assert "Wrong token." in wrong.text
    right = guarded.post("/access?to=/lantern-row/tray", data={"token": f" {TOKEN}\n"})
    assert (right.status_code, right.headers["location"]) == (303, "/lantern-row/tray")
    for elsewhere in ("//evil.example", "/\\evil.example", "https://evil.example"):
        led = guarded.post("/access", params={"to": elsewhere}, data={"token": TOKEN})
        assert led.headers["location"] == "/"


def test_scripts_send_it_as_a_bearer(guarded: TestClient, credentials: Credentials) -> None:
    for way, status in ((f"Bearer {TOKEN}", 200), (f"bearer {TOKEN}", 200), ("Bearer x", 401),
                        (f"Basic {TOKEN}", 401), ("Bearer", 401), ("Bearer é", 401)):  # fmt: skip
        headers = {"Authorization": way.encode("latin-1")}
        assert guarded.get("/api/v1/projects", headers=headers).status_code == status  # type: ignore[arg-type]


def test_a_session_is_random_stored_as_a_digest_and_ended_by_signing_out(
    guarded: TestClient, database: Database
) -> None:
    values = []
    for _ in range(2):
        guarded.cookies.clear()
        guarded.get("/", params={"token": TOKEN})
        values.append(guarded.cookies["sieve_access"])
    stripped = guarded.get("/x", params={"token": TOKEN, "y": "1"})
    assert (stripped.status_code, stripped.headers["location"]) == (303, "/x?y=1")
    assert values[0] != values[1]
    with database.transaction() as connection:
        stored = connection.execute("select key from access_session").fetchall()
    assert all(value.encode() not in row["key"] for value in values for row in stored)
    assert guarded.get("/access/end").status_code == 405
    ended = guarded.post("/access/end")
    assert (ended.status_code, "sieve_access" in guarded.cookies) == (303, False)
    for value, status in ((values[1], 401), (values[0], 200)):  # only that one has ended
        guarded.cookies.set("sieve_access", value)
        assert guarded.get("/api/v1/projects").status_code == status


def test_a_session_ended_in_the_database_ends_here_and_an_expired_one_too(
    credentials: Credentials, database: Database
) -> None:
    session = credentials.sign_in("192.0.2.1", TOKEN)
    assert session
    assert credentials.is_session(session)
    with database.transaction() as connection:
        connection.execute("update access_session set expires_at = now()")
    assert not credentials.is_session(session)
    again = credentials.sign_in("192.0.2.1", TOKEN)
    assert again
    with database.transaction() as connection:
        connection.execute("delete from access_session")
    assert not credentials.is_session(again)
    assert not credentials.is_known(again)


def test_a_session_outlives_a_moment_without_the_database(
    credentials: Credentials, monkeypatch: pytest.MonkeyPatch
) -> None:
    session = credentials.sign_in("192.0.2.1", TOKEN)
    assert session
    assert credentials.is_session(session)

    def unavailable(*_: object) -> None:
        raise DatabaseUnavailableError

    monkeypatch.setattr(access_sessions, "is_valid", unavailable)
    assert credentials.is_session(session)
    with pytest.raises(DatabaseUnavailableError):
        credentials.is_session("A" * len(session))


def test_wrong_tokens_make_a_client_wait_ever_longer() -> None:
    now = [0.0]
    attempts = Attempts(lambda: now[0])
    waits = []
    for _ in range(11):
        attempts.wrong("192.0.2.1")
        waits.append(attempts.seconds_to_wait("192.0.2.1"))
        now[0] += waits[-1]
    assert waits == [0, 0, 1, 2, 4, 8, 16, 32, 60, 60, 60]
    assert attempts.seconds_to_wait("192.0.2.2") == 0
    attempts.wrong("192.0.2.1")
    attempts.right("192.0.2.1")
    assert attempts.seconds_to_wait("192.0.2.1") == 0
    for last in range(4):  # another address of the same network
        attempts.wrong(f"2001:db8::{last}")
    assert attempts.seconds_to_wait("2001:db8::ffff") == 2
    now[0] += 901
    assert attempts.seconds_to_wait("2001:db8::ffff") == 0


def test_a_guesser_is_answered_429_and_a_session_goes_on(guarded: TestClient) -> None:
    guarded.get("/", params={"token": TOKEN})
    guess = {"Authorization": "Bearer guess"}
    cookies = dict(guarded.cookies)
    guarded.cookies.clear()
    assert [guarded.get("/api/v1/projects", headers=guess).status_code for _ in range(3)] == [
        401
    ] * 3
    refused = guarded.get("/api/v1/projects", headers=guess)
    assert (refused.status_code, refused.json()["type"]) == (429, "/problems/too-many-attempts")
    assert refused.headers["retry-after"] == "1"
    assert guarded.post("/access", data={"token": TOKEN}).status_code == 429
    guarded.cookies.update(cookies)
    assert guarded.get("/api/v1/projects").status_code == 200


def test_the_token_is_kept_and_only_its_owner_reads_it(tmp_path: Path) -> None:
    token = AccessToken.of_home(tmp_path).current()
    assert token
    assert len(token) * 6 >= 128  # bits: six a character
    assert AccessToken.of_home(tmp_path).current() == token
    path = tmp_path / TOKEN_FILE
    assert path.stat().st_mode & 0o777 == 0o600
    path.chmod(0o644)
    AccessToken.of_home(tmp_path)
    assert path.stat().st_mode & 0o777 == 0o600
    assert [one.name for one in tmp_path.iterdir()] == [TOKEN_FILE]


@pytest.mark.parametrize("content", [b"", b"\n", b"short\n", b"a" * 2000, b"with a space in it ok",
                                     "ein-gültiger-Schlüssel".encode()])  # fmt: skip
def test_a_damaged_token_file_stops_the_start(tmp_path: Path, content: bytes) -> None:
    path = tmp_path / TOKEN_FILE
    path.write_bytes(content)
    with pytest.raises(SetupError, match="Delete the file"):
        AccessToken.of_home(tmp_path)
    assert path.read_bytes() == content


def test_what_is_no_file_is_not_read_as_a_token(tmp_path: Path) -> None:
    elsewhere = tmp_path / "elsewhere"
    elsewhere.write_text("a" * 40)
    (tmp_path / "link").mkdir()
    (tmp_path / "link" / TOKEN_FILE).symlink_to(elsewhere)
    (tmp_path / "pipe").mkdir()
    os.mkfifo(tmp_path / "pipe" / TOKEN_FILE)
    (tmp_path / "folder" / TOKEN_FILE).mkdir(parents=True)
    for home in ("link", "pipe", "folder"):
        with pytest.raises(SetupError):
            AccessToken.of_home(tmp_path / home)


def test_a_full_disk_leaves_no_token_file(tmp_path: Path, monkeypatch: pytest.MonkeyPatch) -> None:
    def full(_: int) -> None:
        raise OSError(28, "No space left on device")

    monkeypatch.setattr(os, "fsync", full)
    with pytest.raises(SetupError, match="No space left"):
        AccessToken.of_home(tmp_path)
    assert list(tmp_path.iterdir()) == []


def test_a_rotated_token_ends_the_old_one_and_every_session(
    context: Context, database: Database, tmp_path: Path
) -> None:
    token = AccessToken.of_home(tmp_path)
    old = token.current()
    app = make_application(context, Access(Credentials(token, database)))
    client = TestClient(app, OURS, follow_redirects=False)
    client.get("/", params={"token": old})
    assert client.get("/api/v1/projects").status_code == 200
    new = rotate(tmp_path)
    assert client.get("/api/v1/projects").status_code == 401
    assert client.get("/", params={"token": old}).status_code == 401
    assert client.get("/", params={"token": new}).status_code == 303
    assert client.get("/api/v1/projects").status_code == 200
    (tmp_path / TOKEN_FILE).write_text("")  # whatever happens to the file, nothing opens
    assert client.get("/api/v1/projects").status_code == 401
    assert client.get("/", params={"token": ""}).status_code == 401


@pytest.mark.parametrize("token", ["a", "a" * 15, "with a space in the token", "schlüssel-" * 2])
def test_a_weak_chosen_token_is_refused(token: str) -> None:
    with pytest.raises(SetupError, match="SIEVE_TOKEN"):
        AccessToken.chosen(token)


_FILES = (None, b"", b"short", b"\0" * 40, b"a-token-from-before-0123456789")


@settings(deadline=None, max_examples=80,
          suppress_health_check=[HealthCheck.function_scoped_fixture])  # fmt: skip
@given(
    demo=st.booleans(),
    host=st.sampled_from(["127.0.0.1", "::1", "localhost", "127.8.8.8", "0.0.0.0", "::",
                          "192.0.2.1", "textures.example"]),
    address=st.sampled_from(["127.0.0.1", "::1", "0.0.0.0", "::", "192.0.2.1"]),
    chosen=st.sampled_from(["", "a", " ", TOKEN]),
    kept=st.sampled_from(_FILES),
    client=st.sampled_from(["127.0.0.1", "::1", "192.0.2.9", ""]),
)  # fmt: skip
def test_only_the_demo_on_loopback_answers_without_a_token(
    context: Context, tmp_path: Path, demo: bool, host: str, address: str, chosen: str,
    kept: bytes | None, client: str,
) -> None:  # fmt: skip
    """No combination of settings, files and start modes opens any other server."""
    home = tmp_path / f"home-{next(_number)}"
    home.mkdir()
    if kept is not None:
        (home / TOKEN_FILE).write_bytes(kept)
    given = Settings(home=home, host=host, token=chosen)
    try:
        token = serve._token(given, demo)
        access = serve._access(given, context.database, token, address)
    except SetupError:
        return
    app = make_application(context, access)
    answer = TestClient(app, OURS, client=(client, 1)).get("/api/v1/projects")
    may_be_open = demo and not chosen and is_loopback(host) and is_loopback(address)
    assert access.is_open == may_be_open
    assert answer.status_code == (200 if may_be_open and is_loopback(client) else 401)


_number = itertools.count()


def test_an_application_without_a_policy_is_closed(context: Context) -> None:
    client = TestClient(make_application(context), OURS, client=LOOPBACK)
    assert client.get("/api/v1/projects").status_code == 401
    opened = TestClient(make_application(context, Access(OpenOnLoopback())), OURS, client=LOOPBACK)
    assert opened.get("/api/v1/projects").status_code == 200


def test_the_printed_address_holds_the_token(tmp_path: Path) -> None:
    with socket.create_server(("127.0.0.1", 0)) as listener:
        token = AccessToken.chosen("a+token&of=this#test")
        assert "/?token=a%2Btoken%26of%3Dthis%23test " in serve._greeting(token, listener, 1)
        assert "token=" not in serve._greeting(None, listener, 1)


def test_loopback_is_told() -> None:
    assert [is_loopback(host) for host in ("127.0.0.1", "::1", "localhost", "127.9.9.9")] == [
        True
    ] * 4
    assert [is_loopback(host) for host in ("0.0.0.0", "::", "192.0.2.1", "a.example", "")] == [
        False
    ] * 5
