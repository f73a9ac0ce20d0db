"""Which addresses webhooks may call, and that what was checked is what is called."""

from __future__ import annotations

import asyncio
import socket
import ssl
import subprocess
from collections.abc import Coroutine
from concurrent.futures import ThreadPoolExecutor
from pathlib import Path
from typing import Any, TypeVar

import pytest

from copper_sieve.core.errors import ParameterError
from copper_sieve.services.context import Context
from copper_sieve.services.webhooks import addresses, sending
from copper_sieve.services.webhooks.addresses import AddressError, AddressPolicy, checked_url
from copper_sieve.settings import Settings
from copper_sieve.store.webhooks import OutboxMessage, WebhookResponse
from tests.jobs.test_webhooks import Receiver, receiver
from tests.serving import open_client

__all__ = ["receiver"]
T = TypeVar("T")


def run(work: Coroutine[Any, Any, T]) -> T:
    """In a thread of its own: the tests' main thread may have a loop that runs."""
    with ThreadPoolExecutor(1) as thread:
        return thread.submit(asyncio.run, work).result()


@pytest.mark.parametrize(
    "url",
    ["ftp://x/y", "file:///etc/passwd", "nowhere", "http://", "http://a b/", "http://a/\r\nX: y",
     "http://[::1", "http://user:word@x/", "http://user@x/", "http://x:0/", "http://x:99999/",
     "http://x:y/", "http://-x/", "http://x..y/", "http://127.1/", "http://2130706433/",
     "http://0x7f000001/", "http://1.2.3.4.5/", "http://exämple/", "http://a\\b/", "https:///x",
     "http://" + "a" * 64 + ".example/", "http://x/\x1f"],
)  # fmt: skip
def test_an_address_that_cannot_be_called_is_refused(
    context: Context, project: str, url: str
) -> None:
    refused = open_client(context).post(f"/api/v1/projects/{project}/webhooks", json={"url": url})
    assert refused.status_code == 422
    assert "can't be used as a webhook" in refused.json()["detail"]


@pytest.mark.parametrize(
    "url", ["http://a/", "https://build.example.org:8443/x?y=1#z", "http://192.0.2.1/",
            "http://[2001:db8::1]:80/", "http://build_1.example./"],
)  # fmt: skip
def test_an_address_that_can_be_called_is_taken(url: str) -> None:
    assert checked_url(f" {url}\n") == url


_OWN = ["http://127.0.0.1/", "http://127.8.8.8/", "http://[::1]/", "http://0.0.0.0/", "http://[::]/",
        "http://localhost:8420/", "http://[::ffff:127.0.0.1]/", "http://169.254.169.254/latest",
        "http://[fe80::1]/", "http://224.0.0.1/"]  # fmt: skip


@pytest.mark.parametrize("url", _OWN)
def test_the_server_itself_and_link_local_addresses_are_not_called(
    context: Context, project: str, url: str
) -> None:
    refused = open_client(context).post(f"/api/v1/projects/{project}/webhooks", json={"url": url})
    assert refused.status_code == 422
    assert "SIEVE_HOOKS_ALLOW" in refused.json()["detail"]


def test_a_name_is_checked_where_it_leads_and_only_that_is_called(
    monkeypatch: pytest.MonkeyPatch, receiver: Receiver
) -> None:
    """A name that leads to the server at the second look isn't looked up a second time."""
    looked: list[str] = []

    async def leads(_: Any, host: str, port: int, **__: Any) -> list[Any]:
        looked.append(host)
        address = {"inside.example": "127.0.0.1", "cloud.example": "169.254.169.254"}[host]
        return [(socket.AF_INET, socket.SOCK_STREAM, 6, "", (address, port))]

    monkeypatch.setattr(asyncio.BaseEventLoop, "getaddrinfo", leads)

    def sent(policy: AddressPolicy, host: str) -> WebhookResponse:
        url = f"http://{host}:{receiver.server_port}/x"
        message = OutboxMessage(1, 1, "key", "e", "{}", 1, url, "s")  # type: ignore[arg-type]
        return run(sending.send(message, policy))

    closed = AddressPolicy()
    assert "an address of the server itself" in str(sent(closed, "inside.example").error)
    assert "link-local" in str(sent(closed, "cloud.example").error)
    assert receiver.got == []
    for allowed in ("127.0.0.0/8", "inside.example"):
        policy = AddressPolicy.of(Settings(hooks_allow=f" {allowed}, 192.0.2.0/24"))
        looked.clear()
        assert sent(policy, "inside.example").error is None
        assert looked == ["inside.example"]
    assert receiver.got[0][0]["Host"] == f"inside.example:{receiver.server_port}"
    with pytest.raises(ParameterError):
        closed.check_literal("http://127.0.0.1/")
    with pytest.raises(AddressError):
        run(closed.resolve("http://cloud.example/"))


def test_an_own_address_is_one_that_can_be_bound() -> None:
    assert addresses._is_own(addresses.ipaddress.ip_address("127.0.0.1"))
    assert not addresses._is_own(addresses.ipaddress.ip_address("192.0.2.1"))


def test_over_tls_the_name_is_verified_not_the_address(
    tmp_path: Path, receiver: Receiver, monkeypatch: pytest.MonkeyPatch
) -> None:
    """The certificate of the name is needed though the connection goes to its address."""
    subprocess.run(
        ["openssl", "req", "-x509", "-newkey", "rsa:2048", "-nodes", "-days", "2", "-subj",
         "/CN=build.example", "-addext", "subjectAltName=DNS:build.example", "-keyout", "key.pem",
         "-out", "cert.pem"], cwd=tmp_path, check=True, capture_output=True,
    )  # fmt: skip
    server = ssl.SSLContext(ssl.PROTOCOL_TLS_SERVER)
    server.load_cert_chain(tmp_path / "cert.pem", tmp_path / "key.pem")
    receiver.socket = server.wrap_socket(receiver.socket, server_side=True)

    async def leads(_: Any, host: str, port: int, **__: Any) -> list[Any]:
        return [(socket.AF_INET, socket.SOCK_STREAM, 6, "", ("127.0.0.1", port))]

    monkeypatch.setattr(asyncio.BaseEventLoop, "getaddrinfo", leads)
    policy = AddressPolicy.of(Settings(hooks_allow="127.0.0.1"))

    def error(host: str) -> str | None:
        url = f"https://{host}:{receiver.server_port}/x"
        message = OutboxMessage(1, 1, "key", "e", "{}", 1, url, "s")  # type: ignore[arg-type]
        return run(sending.send(message, policy)).error

    assert "couldn't connect" in str(error("build.example"))  # nobody vouches for it
    trusting = ssl.create_default_context(cafile=str(tmp_path / "cert.pem"))
    real = sending.httpx2.AsyncClient
    monkeypatch.setattr(
        sending.httpx2, "AsyncClient", lambda **given: real(verify=trusting, **given)
    )
    assert error("build.example") is None
    assert "couldn't connect" in str(error("other.example"))
