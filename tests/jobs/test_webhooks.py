"""Webhooks: each receiver gets one signed message per delivery, whatever the others do."""

from __future__ import annotations

import hashlib
import hmac
import json
import socket
import threading
import time
from collections.abc import Iterator
from concurrent.futures import ThreadPoolExecutor
from contextlib import suppress
from http.server import BaseHTTPRequestHandler, ThreadingHTTPServer
from pathlib import Path
from typing import Any

import pytest

from copper_sieve.services import deliveries, delivery_worker
from copper_sieve.services.context import Context
from copper_sieve.services.webhooks import sending, webhooks
from copper_sieve.services.webhooks.addresses import AddressPolicy
from copper_sieve.services.webhooks.dispatcher import Dispatcher
from copper_sieve.services.webhooks.sending import KEY, seconds_until_next
from copper_sieve.store.webhooks import OutboxMessage, WebhookResponse
from tests.conftest import MakePhoto
from tests.jobs.conftest import set_of
from tests.serving import open_client

ORM = "orm-y-down"


class Receiver(ThreadingHTTPServer):
    """A service of somebody's own: keeps what it is sent, answers with `answer`."""

    daemon_threads = True

    def __init__(self) -> None:
        super().__init__(("127.0.0.1", 0), _Handler)
        self.got: list[tuple[dict[str, str], bytes]] = []
        self.answer = 204
        self.text = b""
        self.drips = False

    @property
    def url(self) -> str:
        return f"http://127.0.0.1:{self.server_port}/textures?from=sieve"

    @property
    def events(self) -> list[str]:
        return [json.loads(body)["event"] for _, body in self.got]


class _Handler(BaseHTTPRequestHandler):
    server: Receiver

    def do_POST(self) -> None:
        body = self.rfile.read(int(self.headers["Content-Length"]))
        self.server.got.append((dict(self.headers), body))
        if self.server.drips:
            self.wfile.write(b"HTTP/1.1 200 OK\r\n")
            for n in range(100):
                self.wfile.write(f"X-Drip-{n}: 1\r\n".encode())
                self.wfile.flush()
                time.sleep(0.1)
        self.send_response(self.server.answer)
        self.send_header("Location", "/elsewhere")
        self.send_header("Content-Length", str(len(self.server.text)))
        self.end_headers()
        self.wfile.write(self.server.text)

    def handle(self) -> None:
        with suppress(BrokenPipeError, ConnectionResetError):
            super().handle()

    def log_message(self, *_: Any) -> None:
        pass


def _serving() -> Iterator[Receiver]:
    made = Receiver()
    thread = threading.Thread(target=made.serve_forever)
    thread.start()
    yield made
    made.shutdown()
    thread.join()
    made.server_close()


receiver = pytest.fixture(_serving, name="receiver")
other = pytest.fixture(_serving, name="other")


@pytest.fixture
def set_id(context: Context, project: str, make_photo: MakePhoto, tmp_path: Path) -> int:
    context.settings.hooks_allow = "127.0.0.1"
    with context.database.transaction() as connection:  # those of other tests
        connection.execute("update delivery set reported = true")
        connection.execute("delete from webhook")
    return set_of(context, project, make_photo(seed=97), tmp_path)


class OneThread:
    """A dispatcher in a thread of its own, as a server has it."""

    def __init__(self, context: Context, **given: Any) -> None:
        self._thread = ThreadPoolExecutor(1)
        self._dispatcher = Dispatcher(context, **given)

    def look(self) -> None:
        self._thread.submit(self._dispatcher.look).result()

    def finish(self) -> None:
        self._thread.submit(self._dispatcher.finish).result()

    def close(self) -> None:
        self._thread.submit(self._dispatcher._loop.close).result()
        self._thread.shutdown()


@pytest.fixture
def dispatcher(context: Context) -> Iterator[OneThread]:
    made = OneThread(context)
    yield made
    made.finish()
    made.close()


def deliver(context: Context, project: str, set_id: int) -> int:
    asked = deliveries.create_delivery(
        context, project, [(set_id, ORM)], deliveries.DeliveryRequest(rewrite=True)
    )
    delivery_worker.run(context, asked.id)
    return asked.id


def make_due(context: Context) -> None:
    """As if the time until the next attempt had gone by."""
    with context.database.transaction() as connection:
        connection.execute("update webhook_message set next_at = now() where state = 'waiting'")


def test_the_end_of_a_delivery_is_sent_once_and_signed(
    context: Context, project: str, set_id: int, receiver: Receiver, dispatcher: OneThread
) -> None:
    client = open_client(context)
    made = client.post(f"/api/v1/projects/{project}/webhooks", json={"url": receiver.url})
    assert made.status_code == 201
    secret = made.json()["secret"]
    waiting = deliveries.create_delivery(context, project, [(set_id, ORM)])
    dispatcher.look()
    assert receiver.got == []  # it has not ended
    delivery_worker.run(context, waiting.id)
    for _ in range(3):
        dispatcher.look()
        dispatcher.finish()
    ((headers, body),) = receiver.got
    due = "sha256=" + hmac.new(secret.encode(), body, hashlib.sha256).hexdigest()
    assert headers[sending.SIGNATURE] == due
    assert headers[sending.EVENT] == "delivery.done"
    assert headers["Host"] == f"127.0.0.1:{receiver.server_port}"
    sent = json.loads(body)
    assert (sent["project"], sent["delivery"], sent["done"]) == (project, waiting.id, 1)
    assert sent["shown"][0]["folder"] == str(waiting.parts[0].folder)
    (listed,) = client.get(f"/api/v1/projects/{project}/webhooks").json()
    assert "secret" not in listed
    assert (listed["last_error"], listed["waiting"]) == (None, 0)
    (call,) = client.get(f"/api/v1/webhooks/{listed['id']}/calls").json()
    assert (call["status"], call["error"], call["state"]) == (204, None, "sent")
    assert (call["delivery_id"], call["key"]) == (waiting.id, headers[KEY])
    again = f"/api/v1/webhooks/{listed['id']}/messages/{call['message_id']}/sends"
    assert client.post(again).status_code == 202
    dispatcher.look()
    dispatcher.finish()
    assert [one[0][KEY] for one in receiver.got] == [headers[KEY]] * 2
    assert receiver.got[1][1] == body
    assert client.delete(f"/api/v1/webhooks/{listed['id']}").status_code == 204
    assert client.delete(f"/api/v1/webhooks/{listed['id']}").status_code == 404
    assert client.get(f"/api/v1/webhooks/{listed['id']}/calls").status_code == 404
    deliver(context, project, set_id)
    dispatcher.look()
    assert len(receiver.got) == 2


def test_an_address_is_tested_before_there_is_anything_to_send(
    context: Context, project: str, set_id: int, receiver: Receiver, dispatcher: OneThread
) -> None:
    client = open_client(context)
    made = client.post(f"/api/v1/projects/{project}/webhooks", json={"url": receiver.url}).json()
    tested = client.post(f"/api/v1/webhooks/{made['id']}/tests").json()
    assert (tested["last_error"], tested["last_called_at"] is None) == (None, False)
    assert "secret" not in tested
    ((headers, body),) = receiver.got
    due = "sha256=" + hmac.new(made["secret"].encode(), body, hashlib.sha256).hexdigest()
    assert (headers[sending.SIGNATURE], headers[sending.EVENT]) == (due, "webhook.test")
    receiver.answer, receiver.text = 503, b"out of \x1b[31morder" + b"!" * 5000
    tested = client.post(f"/api/v1/webhooks/{made['id']}/tests").json()
    assert tested["last_error"] == "the receiver returned status 503"
    newest, oldest = client.get(f"/api/v1/webhooks/{made['id']}/calls").json()
    assert (newest["status"], newest["state"]) == (503, "failed")
    assert newest["excerpt"].startswith("out of ·[31morder!")
    assert len(newest["excerpt"]) == 2000
    page = client.get(f"/api/v1/webhooks/{made['id']}/calls?before={newest['id']}").json()
    assert [one["id"] for one in page] == [oldest["id"]]
    make_due(context)
    dispatcher.look()
    assert len(receiver.got) == 2  # a test isn't repeated
    assert client.post("/api/v1/webhooks/999999/tests").status_code == 404


def test_a_failed_delivery_is_reported_again_after_a_retry(
    context: Context, project: str, set_id: int, receiver: Receiver, dispatcher: OneThread
) -> None:
    webhooks.add(context, project, receiver.url)
    asked = deliveries.create_delivery(context, project, [(set_id, ORM)])
    folder = asked.parts[0].folder
    folder.parent.mkdir(parents=True, exist_ok=True)
    folder.write_text("in the way", "utf-8")
    delivery_worker.run(context, asked.id)
    dispatcher.look()
    folder.unlink()
    deliveries.retry(context, asked.id)
    delivery_worker.run(context, asked.id)
    dispatcher.finish()
    dispatcher.look()
    dispatcher.finish()
    assert receiver.events == ["delivery.failed", "delivery.done"]
    assert "is a file" in json.loads(receiver.got[0][1])["error"]


def test_one_bad_receiver_holds_up_nobody_else(
    context: Context, project: str, set_id: int, receiver: Receiver, other: Receiver,
    dispatcher: OneThread, monkeypatch: pytest.MonkeyPatch,
) -> None:  # fmt: skip
    """A dripping one, one that fails, one that isn't HTTP and addresses no version checked."""
    monkeypatch.setattr(sending, "DEADLINE", 5.0)
    receiver.drips = True
    other.answer = 500
    mute = socket.create_server(("127.0.0.1", 0))
    good = Receiver()
    threading.Thread(target=good.serve_forever, daemon=True).start()
    ids = [webhooks.add(context, project, one.url).id for one in (receiver, other, good)]
    with context.database.transaction() as connection:
        for url in ("http://a b", "http://a\r\nX: y", "http://[::1", "ftp://x", "http://x:99999",
                    f"http://127.0.0.1:{mute.getsockname()[1]}/"):  # fmt: skip
            connection.execute(
                "insert into webhook (project_id, url, secret)"
                " select id, %s, 'secret' from project where slug = %s", [url, project],
            )  # fmt: skip
    deliver(context, project, set_id)
    begun = time.monotonic()
    while not good.got:
        dispatcher.look()
    assert webhooks.calls(context, ids[0]) == []  # it doesn't wait for the one that drips
    dispatcher.look()
    assert len(good.got) == 1
    second = deliver(context, project, set_id)
    while len(good.got) < 2:
        dispatcher.look()
    assert [json.loads(body)["delivery"] for _, body in good.got][1:] == [second]
    dispatcher.finish()
    assert sending.DEADLINE < time.monotonic() - begun < 5 * sending.DEADLINE
    calls = {one: webhooks.calls(context, one) for one in ids}
    assert {one.error for one in calls[ids[0]]} == {"no complete response within 5 s"}
    assert [one.error for one in calls[ids[1]]] == ["the receiver returned status 500"] * 2
    assert [one.error for one in calls[ids[2]]] == [None] * 2
    good.shutdown()
    good.server_close()
    mute.close()
    (failing,) = [one for one in webhooks.list_all(context, project) if one.id == ids[1]]
    assert (failing.waiting, failing.failing_since is None) == (2, False)
    errors = [one.last_error for one in webhooks.list_all(context, project) if "127" not in one.url]
    assert len(errors) == 5
    assert all(one and "can't be used as a webhook" in one for one in errors)


def test_who_fails_is_called_later_with_growing_waits_and_paused_after_a_day(
    context: Context, project: str, set_id: int, receiver: Receiver, dispatcher: OneThread
) -> None:
    hook = webhooks.add(context, project, receiver.url)
    receiver.answer = 302  # it leads elsewhere: nobody goes there
    deliver(context, project, set_id)
    waits = []
    for _ in range(4):
        dispatcher.look()
        dispatcher.finish()
        with context.database.transaction() as connection:
            row = connection.execute(
                "select extract(epoch from next_at - now()) as wait from webhook_message"
                " where webhook_id = %s", [hook.id],
            ).fetchone()  # fmt: skip
        assert row
        waits.append(float(row["wait"]))
        make_due(context)
    assert len(receiver.got) == 4
    assert len({headers[KEY] for headers, _ in receiver.got}) == 1
    for n, wait in enumerate(waits):
        assert 0.7 * 10 * 2**n < wait < 1.26 * 10 * 2**n
    with context.database.transaction() as connection:
        connection.execute("update webhook set failing_since = now() - interval '25 hours'")
    dispatcher.look()
    dispatcher.finish()
    (paused,) = webhooks.list_all(context, project)
    assert paused.paused_at
    make_due(context)
    dispatcher.look()
    assert len(receiver.got) == 5  # it isn't called any more
    receiver.answer = 200
    resumed = (
        open_client(context).patch(f"/api/v1/webhooks/{hook.id}", json={"paused": False}).json()
    )
    assert (resumed["paused_at"], resumed["failing_since"], resumed["waiting"]) == (None, None, 1)
    dispatcher.look()
    dispatcher.finish()
    (sent,) = webhooks.list_all(context, project)
    assert (sent.waiting, sent.last_error, len(receiver.got)) == (0, None, 6)


def test_the_waits() -> None:
    """Ten seconds, doubled with each attempt up to an hour, spread by a quarter."""
    assert [seconds_until_next(n, 0.5) for n in (1, 2, 5, 9, 10, 500)] == [
        10, 20, 160, 2560, 3600, 3600,
    ]  # fmt: skip
    assert (seconds_until_next(1, 0.0), seconds_until_next(1, 1.0)) == (7.5, 12.5)
    assert len({seconds_until_next(1) for _ in range(5)}) > 1


def test_a_server_that_dies_in_a_call_leaves_the_message(
    context: Context, project: str, set_id: int, receiver: Receiver
) -> None:
    async def dies(_: OutboxMessage, __: AddressPolicy) -> WebhookResponse:
        raise KeyboardInterrupt

    webhooks.add(context, project, receiver.url)
    deliver(context, project, set_id)
    killed = OneThread(context, send=dies)
    with pytest.raises(KeyboardInterrupt):
        killed.look()
    killed.close()
    following = OneThread(context)
    following.look()
    assert receiver.got == []  # perhaps the other one is still alive
    make_due(context)
    following.look()
    following.finish()
    following.close()
    assert receiver.events == ["delivery.done"]


def test_a_running_server_sends_and_stops_in_the_middle_of_a_call(
    context: Context, project: str, set_id: int, receiver: Receiver, other: Receiver
) -> None:
    other.drips = True
    for one in (receiver, other):
        webhooks.add(context, project, one.url)
    with open_client(context):
        deliver(context, project, set_id)
        end = time.monotonic() + 15
        while not (receiver.got and other.got):
            assert time.monotonic() < end
            time.sleep(0.05)
        begun = time.monotonic()
    assert time.monotonic() - begun < 5
