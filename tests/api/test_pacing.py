"""A real server under requests that never end, bring too much or say what cannot be kept."""

from __future__ import annotations

import json
import socket
import threading
import time
from collections.abc import Iterator

import pytest
import uvicorn
from fastapi.testclient import TestClient

from copper_sieve.api import pacing
from copper_sieve.api.application import make_application, raw_addresses
from copper_sieve.services.context import Context
from copper_sieve.services.sources import import_source
from tests.conftest import MakePhoto
from tests.serving import OPEN


@pytest.fixture
def served(context: Context, monkeypatch: pytest.MonkeyPatch) -> Iterator[int]:
    """The application behind a socket of its own, with short patience; its port."""
    monkeypatch.setattr(pacing.Pace.__init__, "__defaults__", ((), 0.5, 600.0))
    listener = socket.socket()
    listener.bind(("127.0.0.1", 0))
    app = make_application(context, OPEN)
    server = uvicorn.Server(uvicorn.Config(app, log_level="error"))
    thread = threading.Thread(target=server.run, kwargs={"sockets": [listener]})
    thread.start()
    while not server.started:
        time.sleep(0.02)
    yield listener.getsockname()[1]
    server.should_exit = True
    server.force_exit = True
    thread.join(20)
    for one in app.state.watching:  # a forced exit leaves them to the process
        one.stop()


def connect(port: int, request: str) -> socket.socket:
    made = socket.create_connection(("127.0.0.1", port), timeout=10)
    made.sendall(request.replace("\n", "\r\n").encode())
    return made


def get(port: int, path: str) -> int:
    """The status of an answer that comes within the socket's ten seconds."""
    with connect(port, f"GET {path} HTTP/1.1\nHost: 127.0.0.1\nConnection: close\n\n") as made:
        return int(made.recv(100).split()[1])


def test_downloads_that_nobody_reads_stop_nobody(
    served: int, context: Context, project: str, make_photo: MakePhoto
) -> None:
    photo = make_photo(size=(2400, 1600), seed=71)
    assert photo.stat().st_size > 4_000_000  # more than the sockets' buffers hold
    taken = import_source(context, project, photo, photo.name)
    address = f"/api/v1/sources/{taken.sha256}/original"
    unread = [connect(served, f"GET {address} HTTP/1.1\nHost: 127.0.0.1\n\n") for _ in range(24)]
    try:
        time.sleep(0.5)
        for _ in range(5):
            assert get(served, "/api/v1/projects") == 200
    finally:
        for one in unread:
            one.close()


@pytest.mark.parametrize(
    "path", ["/api/v1/projects/{}/sources?name=a.png", "/api/v1/projects/{}/delivery-previews"]
)
def test_uploads_that_stand_still_end(served: int, project: str, path: str) -> None:
    head = f"POST {path.format(project)} HTTP/1.1\nHost: 127.0.0.1\nContent-Length: 1000\n\nsome"
    slow = [connect(served, head) for _ in range(60)]  # more than there are threads
    try:
        assert get(served, "/api/v1/projects") == 200
        for one in slow:
            one.settimeout(10)
            text = b""
            while piece := one.recv(1000):  # until the server closes
                text += piece
            assert text.startswith(b"HTTP/1.1 408")
            assert json.loads(text.partition(b"\r\n\r\n")[2])["type"] == "/problems/timeout"
    finally:
        for one in slow:
            one.close()


def test_too_much_json_is_refused_before_it_is_read(client: TestClient, project: str) -> None:
    body = b'{"set_ids":[' + b"1," * (5 << 20) + b"1]}"
    answer = client.post(f"/api/v1/projects/{project}/dry-runs", content=body,
                         headers={"Content-Type": "application/json"})  # fmt: skip
    assert (answer.status_code, answer.json()["type"]) == (413, "/problems/too-large")


@pytest.mark.parametrize(
    "body",
    [
        '{"name": "a\\u0000b"}', '{"name": "a\\\\\\u0000b"}', '{"name": "half \\ud83d"}',
        '{"a":' * 200_000 + "1" + "}" * 200_000, "[" * 100_000, '{"name": 1e999999}', "\xff\xfe",
        '{"set_ids": [99999999999999999999999], "target_ids": ["orm-y-down"]}',
    ],
)  # fmt: skip
@pytest.mark.parametrize(
    "path", ["/api/v1/recipes", "/api/v1/projects/{}/delivery-previews", "/api/v1/targets"]
)
def test_what_cannot_be_kept_is_refused_in_a_sentence(
    client: TestClient, project: str, path: str, body: str
) -> None:
    answer = client.post(path.format(project), content=body.encode("latin-1"),
                         headers={"Content-Type": "application/json"})  # fmt: skip
    assert answer.status_code in (400, 413, 422), answer.text
    assert answer.json()["detail"]


@pytest.mark.parametrize("escape", ["\\ud83d", "\\uD83D", "\\udE00", "\\udfff"])
def test_half_a_surrogate_pair_is_refused(client: TestClient, escape: str) -> None:
    answer = client.post("/api/v1/recipes", content=f'{{"name": "{escape}"}}'.encode(),
                         headers={"Content-Type": "application/json"})  # fmt: skip
    assert answer.status_code == 422
    assert "unpaired surrogate" in answer.json()["detail"]


def test_a_large_file_is_no_json(client: TestClient, project: str) -> None:
    assert len(raw_addresses()) == 6
    data = bytes(pacing.MOST_JSON + 1)
    for path in (f"/api/v1/projects/{project}/sources", f"/api/v1/projects/{project}/arrivals",
                 "/api/v1/maps/height/sources"):  # fmt: skip
        for kind in ("application/octet-stream", "application/json", "image/png"):
            answer = client.post(path, params={"name": "wall.png"}, content=data,
                                 headers={"Content-Type": kind})  # fmt: skip
            assert answer.status_code == 422, answer.text  # looked at, and no picture
            assert "wall.png isn't a supported picture" in answer.json()["detail"]


def test_a_backslash_before_u0000_is_no_nul(client: TestClient) -> None:
    answer = client.post("/api/v1/recipes", content=b'{"name": "a\\\\u0000b"}',
                         headers={"Content-Type": "application/json"})  # fmt: skip
    assert "NUL" not in answer.json()["detail"]


@pytest.mark.parametrize(
    "path",
    ["/api/v1/sets/99999999999999999999", "/api/v1/projects/a%00b/sets", "/api/v1/sources/%00",
     "/api/v1/projects/x/arrivals?name=%00", "/" + "a/" * 5000, "/%ff%fe",
     "/api/v1/sets/1/maps/x/y"],
)  # fmt: skip
def test_odd_addresses_are_refused(client: TestClient, path: str) -> None:
    answer = client.get(path)
    assert answer.status_code < 500
