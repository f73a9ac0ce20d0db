"""The served app, started as people start it, and a browser to drive it."""

from __future__ import annotations

import fcntl
import json
import os
import re
import signal
import subprocess
import sys
import tempfile
import time
import urllib.parse
import urllib.request
from collections.abc import Callable, Iterator
from dataclasses import dataclass
from pathlib import Path
from typing import Any

import pytest
from playwright.sync_api import Browser, ConsoleMessage, Page, ViewportSize

from copper_sieve.cli.browser import chromium
from tests.conftest import RUN

# Each process of the tests begins to look for a free port at one of its own.
_SIZE: ViewportSize = {"width": 1280, "height": 800}
PORT = 8460 + 20 * int(os.environ.get("PYTEST_XDIST_WORKER", "gw0").removeprefix("gw"))


@dataclass
class Served:
    """A running demo: its address, its data folder, its process."""

    address: str
    home: Path
    process: subprocess.Popen[str]

    @property
    def place(self) -> str:
        """The demo project's address."""
        return f"{self.address}/lantern-row"


def start_demo(home: Path) -> Served:
    """Start ./sieve's own process for the demo and wait for its address.

    An empty home is filled with a copy of one that was started with nothing, drew its pictures and
    was stopped, once in this run of the tests.
    """
    if RUN in os.environ and not any(home.iterdir()):
        subprocess.run(["cp", "-a", f"{_drawn_home(os.environ[RUN])}/.", str(home)], check=True)
    return _started(home)


def _drawn_home(run: str) -> Path:
    folder = Path(tempfile.gettempdir()) / f"sieve-drawn-{run}"
    with folder.with_suffix(".lock").open("w") as lock:
        fcntl.flock(lock, fcntl.LOCK_EX)
        if not folder.exists():
            making = folder.with_suffix(".making")
            making.mkdir()
            making.chmod(0o755)
            started = _started(making)
            _look_at_all(started.address)
            stop_demo(started)
            (making / "postgres" / "port").unlink()  # each copy looks for one of its own
            making.rename(folder)
    return folder


def _look_at_all(address: str) -> None:
    """Every small picture once, and the checklist of every set: what is computed for them is kept,
    for each copy of the folder."""

    def asked(path: str) -> Any:
        with urllib.request.urlopen(f"{address}/api/v1/projects/lantern-row/{path}") as answer:
            return json.load(answer)

    for one in asked("sets"):
        for picture in (one["lit"], *(each["thumbnail"] for each in one["maps"])):
            with urllib.request.urlopen(address + picture) as answer:
                answer.read()
    end = time.monotonic() + 180
    while not all(row["checked"] for row in asked("tray")["rows"]):
        assert time.monotonic() < end, "the demo's sets were not looked over"
        time.sleep(2)  # while nobody asks, set after set is looked over


def _started(home: Path) -> Served:
    environment = {k: v for k, v in os.environ.items() if k != "DATABASE_URL"}
    environment |= {"SIEVE_HOME": str(home), "SIEVE_PORT": str(PORT)}
    process = subprocess.Popen(
        [sys.executable, "-m", "copper_sieve.cli", "demo"],
        env=environment,
        stdout=subprocess.PIPE,
        text=True,
    )
    assert process.stdout is not None
    line = process.stdout.readline()
    found = re.search(r"http://127\.0\.0\.1:\d+", line)
    assert found, f"the demo did not start: {line}"
    return Served(found.group(), home, process)


def stop_demo(served: Served) -> None:
    """Ctrl+C, as a person does it."""
    served.process.send_signal(signal.SIGINT)
    assert served.process.wait(30) == 0


@pytest.fixture(scope="session")
def served() -> Iterator[Served]:
    """One demo for all browser tests, with a cluster, worker and folders of its own."""
    with tempfile.TemporaryDirectory(prefix="sieve-e2e-", ignore_cleanup_errors=True) as name:
        served = start_demo(Path(name))
        yield served
        stop_demo(served)


@pytest.fixture(scope="session")
def browser() -> Iterator[Browser]:
    """Headless Chromium."""
    with chromium() as browser:
        yield browser


class Profile:
    """What the first page of each test is opened in: it keeps the program's files from test to
    test, as a person's browser does, and nothing that a page noted.

    An empty page of the site stays open in it, so the process that draws pages of the site lives
    from test to test: to start one takes longer than to load a page.
    """

    def __init__(self, browser: Browser) -> None:
        self._context = browser.new_context(viewport=_SIZE)
        self._visited: set[str] = set()
        stays = self._context.new_page()
        stays.route("**/*", lambda route: route.fulfill(content_type="text/html", body=""))
        stays.goto("http://127.0.0.1:1/")

    def open(self) -> Page:
        """A page that knows nothing of the tests before."""
        page = self._context.new_page()
        if self._visited:
            told = self._context.new_cdp_session(page)
            for origin in self._visited:
                whose = {"origin": origin, "storageTypes": "local_storage"}
                told.send("Storage.clearDataForOrigin", whose)
            told.detach()
        return page

    def close(self, page: Page) -> None:
        """The test is over."""
        place = urllib.parse.urlsplit(page.url)
        if place.netloc:
            self._visited.add(f"{place.scheme}://{place.netloc}")
        page.close()
        self._context.clear_cookies()


@pytest.fixture(scope="session")
def profile(browser: Browser) -> Profile:
    """One for all tests."""
    return Profile(browser)


@pytest.fixture
def open_page(browser: Browser, profile: Profile) -> Iterator[Callable[[], Page]]:
    """Opens pages of 1280 x 800, the second as another person's, and fails the test for anything in
    their consoles."""
    pages: list[Page] = []
    said: list[str] = []

    def note(message: ConsoleMessage) -> None:
        known = "THREE.Clock: This module has been deprecated" in message.text
        known = known or "GPU stall due to ReadPixels" in message.text
        refused = "the server responded with a status of 4" in message.text
        # What tests of a server that is away bring about themselves.
        refused = refused or "status of 503" in message.text or "net::ERR_CONN" in message.text
        if message.type in ("error", "warning") and not known and not refused:
            said.append(message.text)

    def open_one() -> Page:
        page = browser.new_page(viewport=_SIZE) if pages else profile.open()
        page.on("console", note)
        page.on("pageerror", lambda error: said.append(str(error)))
        pages.append(page)
        return page

    yield open_one
    for page in pages[1:]:
        page.close()
    if pages:
        profile.close(pages[0])
    assert said == []


@pytest.fixture
def page(open_page: Callable[[], Page]) -> Page:
    """One page."""
    return open_page()
