"""Webhooks: a receiver of one's own is told, signed, once a delivery has ended."""

from __future__ import annotations

import hashlib
import hmac
import json
import threading
import time
from collections.abc import Iterator
from http.server import BaseHTTPRequestHandler, HTTPServer
from pathlib import Path
from typing import Any

import pytest

from copper_sieve.services import deliveries, delivering, hooks
from copper_sieve.services.context import Context
from copper_sieve.services.hooks import Teller
from tests.conftest import MakePhoto
from tests.jobs.conftest import set_of
from tests.serving import open_client

ORM = "orm-y-down"


class Receiver(HTTPServer):
    """What somebody's own service would be: it keeps what it is told, and answers as it is told."""

    def __init__(self) -> None:
        super().__init__(("127.0.0.1", 0), _Handler)
        self.told: list[tuple[dict[str, str], bytes]] = []
        self.answer = 204

    @property
    def url(self) -> str:
        return f"http://127.0.0.1:{self.server_port}/told"


class _Handler(BaseHTTPRequestHandler):
    server: Receiver

    def do_POST(self) -> None:
        body = self.rfile.read(int(self.headers["Content-Length"]))
        self.server.told.append((dict(self.headers), body))
        self.send_response(self.server.answer)
        self.send_header("Location", "/elsewhere")
        self.end_headers()

    def log_message(self, *_: Any) -> None:
        pass


@pytest.fixture
def receiver() -> Iterator[Receiver]:
    made = Receiver()
    thread = threading.Thread(target=made.serve_forever)
    thread.start()
    yield made
    made.shutdown()
    thread.join()
    made.server_close()


@pytest.fixture
def set_id(context: Context, project: str, make_photo: MakePhoto, tmp_path: Path) -> Iterator[int]:
    with context.database.transaction() as connection:  # those of other tests
        connection.execute("update delivery set told = true")
    yield set_of(context, project, make_photo(seed=97), tmp_path)


def deliver(context: Context, project: str, set_id: int) -> int:
    asked = deliveries.ask(context, project, [(set_id, ORM)], deliveries.Wish(anew=True))
    delivering.run(context, asked.id)
    return asked.id


def test_the_end_of_a_delivery_is_told_once_and_signed(
    context: Context, project: str, set_id: int, receiver: Receiver
) -> None:
    client = open_client(context)
    made = client.post(f"/api/projects/{project}/hooks", json={"url": receiver.url})
    assert made.status_code == 201
    secret = made.json()["secret"]
    teller = Teller(context)
    waiting = deliveries.ask(context, project, [(set_id, ORM)])
    teller.look()
    assert receiver.told == []  # it has not ended
    delivering.run(context, waiting.id)
    teller.look()
    teller.look()
    ((headers, body),) = receiver.told
    due = "sha256=" + hmac.new(secret.encode(), body, hashlib.sha256).hexdigest()
    assert (headers[hooks.SIGNATURE], headers[hooks.EVENT]) == (due, "delivery.done")
    told = json.loads(body)
    assert (told["project"], told["delivery"], told["done"]) == (project, waiting.id, 1)
    assert told["shown"][0]["folder"] == str(waiting.parts[0].folder)
    (listed,) = client.get(f"/api/projects/{project}/hooks").json()
    assert "secret" not in listed
    assert (listed["last_error"], listed["last_called_at"] is None) == (None, False)
    assert client.delete(f"/api/hooks/{listed['id']}").status_code == 204
    assert client.delete(f"/api/hooks/{listed['id']}").status_code == 404
    deliver(context, project, set_id)
    teller.look()
    assert len(receiver.told) == 1


def test_an_address_is_tried_before_there_is_anything_to_tell(
    context: Context, project: str, receiver: Receiver
) -> None:
    client = open_client(context)
    made = client.post(f"/api/projects/{project}/hooks", json={"url": receiver.url}).json()
    tried = client.post(f"/api/hooks/{made['id']}/tries").json()
    assert (tried["last_error"], tried["last_called_at"] is None) == (None, False)
    assert "secret" not in tried
    ((headers, body),) = receiver.told
    due = "sha256=" + hmac.new(made["secret"].encode(), body, hashlib.sha256).hexdigest()
    assert (headers[hooks.SIGNATURE], headers[hooks.EVENT]) == (due, "hook.tried")
    assert json.loads(body)["project"] == project
    receiver.answer = 503
    tried = client.post(f"/api/hooks/{made['id']}/tries").json()
    assert tried["last_error"] == "it answered 503"
    assert client.post("/api/hooks/999999/tries").status_code == 404


def test_a_failed_one_is_told_and_told_again_after_it_was_tried_again(
    context: Context, project: str, set_id: int, receiver: Receiver
) -> None:
    hooks.add(context, project, receiver.url)
    teller = Teller(context)
    asked = deliveries.ask(context, project, [(set_id, ORM)])
    folder = asked.parts[0].folder
    folder.parent.mkdir(parents=True, exist_ok=True)
    folder.write_text("in the way", "utf-8")
    delivering.run(context, asked.id)
    teller.look()
    folder.unlink()
    deliveries.retry(context, asked.id)
    delivering.run(context, asked.id)
    teller.look()
    told = [json.loads(body) for _, body in receiver.told]
    assert [one["event"] for one in told] == ["delivery.failed", "delivery.done"]
    assert "is a file" in told[0]["error"]


def test_who_does_not_listen_is_told_later_and_given_up_in_the_end(
    context: Context, project: str, set_id: int, receiver: Receiver,
    monkeypatch: pytest.MonkeyPatch,
) -> None:  # fmt: skip
    monkeypatch.setattr(hooks, "_FIRST_WAIT", 0.0)
    hook = hooks.add(context, project, receiver.url)
    teller = Teller(context)
    receiver.answer = 500
    deliver(context, project, set_id)
    teller.look()
    (noted,) = hooks.list_all(context, project)
    assert noted.last_error == "it answered 500"
    receiver.answer = 302  # it leads elsewhere: nobody goes there
    teller.look()
    assert len(receiver.told) == 2
    receiver.answer = 200
    teller.look()
    teller.look()
    assert len(receiver.told) == 3
    (noted,) = hooks.list_all(context, project)
    assert noted.last_error is None
    hooks.forget(context, hook.id)
    nobody = hooks.add(context, project, "http://127.0.0.1:9/nobody")
    assert hooks.try_it(context, nobody.id).last_error == (
        "nobody answers there (Connection refused)"
    )
    deliver(context, project, set_id)
    for _ in range(8):
        teller.look()
    with context.database.transaction() as connection:
        rows = connection.execute(
            "select tell_attempts, told from delivery order by id desc limit 1"
        )
        assert rows.fetchone() == {"tell_attempts": 5, "told": True}


def test_a_server_tells_by_itself(
    context: Context, project: str, set_id: int, receiver: Receiver
) -> None:
    hooks.add(context, project, receiver.url)
    with open_client(context):
        deliver(context, project, set_id)
        end = time.monotonic() + 15
        while not receiver.told:
            assert time.monotonic() < end
            time.sleep(0.05)


@pytest.mark.parametrize("url", ["ftp://x/y", "file:///etc/passwd", "nowhere", "http://"])
def test_what_is_no_address_is_refused(context: Context, project: str, url: str) -> None:
    client = open_client(context)
    refused = client.post(f"/api/projects/{project}/hooks", json={"url": url})
    assert refused.status_code == 422
    assert "is no address" in refused.json()["message"]
