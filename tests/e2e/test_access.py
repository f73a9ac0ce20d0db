"""In a real browser: a page of another origin and a rebound name get nothing; the token opens."""

from __future__ import annotations

import http.server
import os
import re
import signal
import subprocess
import sys
import tempfile
import threading
from collections.abc import Iterator
from pathlib import Path

import pytest
from playwright.sync_api import Browser, expect

from copper_sieve.cli.browser import _ARGUMENTS, _CHROMIUM
from tests.e2e.conftest import Served

pytestmark = pytest.mark.browser

_TRY = """async (base) => {
    const seen = {};
    const attempt = async (name, make) => {
        try { seen[name] = await make(); } catch (error) { seen[name] = "nothing"; }
    };
    const text = async (response) => response.type === "opaque" ? "nothing" : response.text();
    await attempt("read", async () => text(await fetch(base + "/api/v1/projects")));
    const blind = {mode: "no-cors"};
    await attempt("blind", async () => text(await fetch(base + "/api/v1/projects", blind)));
    await attempt("post", async () => text(await fetch(base + "/api/v1/recipes/imports", {
        method: "POST", mode: "no-cors", body: '{"name": "evil"}',
    })));
    await attempt("delete", async () => text(
        await fetch(base + "/api/v1/targets/ours", {method: "DELETE"})));
    await attempt("picture", () => new Promise((done) => {
        const image = new Image();
        image.onload = () => done("a picture of " + image.width);
        image.onerror = () => done("nothing");
        image.src = base + "/mark.svg";
    }));
    await attempt("frame", () => new Promise((done) => {
        const frame = document.createElement("iframe");
        frame.onload = () => {
            try { done(frame.contentDocument ? "its document" : "nothing"); }
            catch { done("nothing"); }
        };
        frame.src = base + "/";
        document.body.append(frame);
        setTimeout(() => done("nothing"), 3000);
    }));
    return seen;
}"""


@pytest.fixture
def elsewhere(tmp_path: Path) -> Iterator[str]:
    """Another server on this machine, as anything else that runs here."""
    (tmp_path / "index.html").write_text("<!doctype html><title>elsewhere</title><body>hello")

    class Quiet(http.server.SimpleHTTPRequestHandler):
        def __init__(self, *given: object, **more: object) -> None:
            super().__init__(*given, directory=str(tmp_path), **more)  # type: ignore[arg-type]

        def log_message(self, *_: object) -> None:
            pass

    server = http.server.ThreadingHTTPServer(("127.0.0.1", 0), Quiet)
    thread = threading.Thread(target=server.serve_forever)
    thread.start()
    yield f"http://127.0.0.1:{server.server_address[1]}"
    server.shutdown()
    thread.join()


def test_a_page_of_another_origin_gets_nothing(
    served: Served, browser: Browser, elsewhere: str
) -> None:
    for base in (served.address, served.address.replace("127.0.0.1", "localhost")):
        page = browser.new_page()  # its console may say what was refused
        page.goto(elsewhere)
        seen = page.evaluate(_TRY, base)
        assert set(seen.values()) == {"nothing"}, seen
        page.close()
    page = browser.new_page()
    page.goto(served.address)  # our own page is served as ever
    assert page.request.get(f"{served.address}/api/v1/projects").ok
    answer = page.evaluate("async () => (await fetch('/api/v1/projects')).status")
    assert answer == 200
    page.close()


def test_a_rebound_name_gets_nothing(served: Served, elsewhere: str) -> None:
    """A stranger's name that points to this machine: to the browser it is one origin."""
    port = served.address.rsplit(":", 1)[1]
    rules = f"--host-resolver-rules=MAP rebound.test:{port} 127.0.0.1:{port}"
    with tempfile.TemporaryDirectory(prefix="sieve-rebound-"):
        process = subprocess.run(
            [_CHROMIUM, "--headless", *_ARGUMENTS, rules, "--dump-dom",
             f"http://rebound.test:{port}/api/v1/projects"],
            capture_output=True, text=True, timeout=60, check=False,
        )  # fmt: skip
    assert "unknown-host" in process.stdout
    assert "lantern-row" not in process.stdout


@pytest.fixture
def guarded(dsn: str) -> Iterator[str]:
    """`serve` with a token of ours; the address that it printed."""
    with tempfile.TemporaryDirectory(prefix="sieve-access-") as home:
        environment = {**os.environ, "SIEVE_HOME": home, "DATABASE_URL": dsn,
                       "SIEVE_PORT": "8480", "SIEVE_TOKEN": "a-chosen-token-0123"}  # fmt: skip
        process = subprocess.Popen(
            [sys.executable, "-m", "copper_sieve.cli", "serve"],
            env=environment, stdout=subprocess.PIPE, text=True,
        )  # fmt: skip
        assert process.stdout is not None
        found = re.search(r"http://\S+", process.stdout.readline())
        assert found
        yield found.group()
        process.send_signal(signal.SIGINT)
        assert process.wait(30) == 0


def test_the_token_opens_by_address_and_by_the_one_field(guarded: str, browser: Browser) -> None:
    plain = guarded.partition("/?")[0]
    assert guarded == f"{plain}/?token=a-chosen-token-0123"
    context = browser.new_context()
    page = context.new_page()
    page.goto(f"{plain}/a-project/tray")
    field = page.get_by_label("Access token")
    field.fill("guess")
    page.get_by_role("button", name="Sign in").click()
    expect(page.get_by_role("alert")).to_have_text("Wrong token. Check it and try again.")
    page.get_by_label("Access token").fill("a-chosen-token-0123")
    page.get_by_role("button", name="Sign in").click()
    expect(page.get_by_role("navigation", name="Views")).to_be_visible()
    assert page.url == f"{plain}/a-project/tray"
    with page.expect_response("**/api/v1/health"):  # says whether there is a session
        page.reload()
    page.wait_for_load_state("networkidle")
    page.keyboard.press("Control+K")
    page.get_by_role("combobox").fill("sign out")
    expect(page.get_by_role("option", name="Sign out")).to_be_visible()
    page.keyboard.press("Enter")
    expect(page.get_by_label("Access token")).to_be_visible()
    page.goto(f"{plain}/a-project/tray")
    expect(page.get_by_label("Access token")).to_be_visible()
    context.close()
    other = browser.new_context()
    opened = other.new_page()
    opened.goto(guarded)
    assert "token" not in opened.url
    assert opened.evaluate("async () => (await fetch('/api/v1/projects')).status") == 200
    expect(opened.get_by_text("Demo · no login")).to_have_count(0)
    other.close()
