"""./sieve demo as a process: next free port, everything it started stopped, nothing lost."""

from __future__ import annotations

import json
import os
import re
import signal
import subprocess
import sys
import tempfile
import urllib.request
from collections.abc import Iterator
from pathlib import Path

import pytest

from copper_sieve.demo.kettle_sets import KETTLE_SETS
from copper_sieve.demo.lantern_row import SCENARIOS
from copper_sieve.demo.noren import NOREN_SET
from copper_sieve.demo.yard_wall import WALL_SET
from tests.e2e.conftest import Served, start_demo, stop_demo

pytestmark = pytest.mark.browser
ROOT = Path(__file__).resolve().parents[2]


@pytest.fixture
def home() -> Iterator[Path]:
    with tempfile.TemporaryDirectory(prefix="sieve-start-", ignore_cleanup_errors=True) as name:
        yield Path(name)


def get(served: Served, path: str) -> object:
    with urllib.request.urlopen(served.address + path, timeout=10) as answer:
        return json.load(answer)


def processes_of(home: Path) -> list[str]:
    """Command lines of living processes that belong to a data folder."""
    found = []
    for entry in Path("/proc").iterdir():
        if not entry.name.isdigit():
            continue
        try:
            command = (entry / "cmdline").read_bytes().replace(b"\0", b" ").decode()
            about = command + (entry / "environ").read_bytes().decode(errors="replace")
        except OSError:
            continue
        if str(home) in about and int(entry.name) != os.getpid():
            found.append(command)
    return found


def test_two_at_once_share_the_cluster_and_leave_nothing_behind(home: Path) -> None:
    first = start_demo(home)
    second = start_demo(home)
    try:
        assert first.address != second.address
        rows = get(first, "/api/v1/projects/lantern-row/sets")
        names = [row["name"] for row in rows]  # type: ignore[attr-defined]
        assert names == sorted([*SCENARIOS, *KETTLE_SETS, WALL_SET, NOREN_SET])
        assert get(second, "/api/v1/projects/lantern-row/sets") == rows
        assert any("postgres" in command for command in processes_of(home))
        assert any(" work" in command for command in processes_of(home))
    finally:
        stop_demo(first)
        assert get(second, "/api/v1/health")  # the cluster is still needed
        stop_demo(second)
    assert processes_of(home) == []
    again = start_demo(home)
    try:
        assert get(again, "/api/v1/projects/lantern-row/sets") == rows
    finally:
        stop_demo(again)


def test_a_killed_worker_is_started_again(home: Path) -> None:
    served = start_demo(home)
    try:
        pattern = re.compile(r"^\d+$")

        def workers() -> list[int]:
            return [
                int(entry.name)
                for entry in Path("/proc").iterdir()
                if pattern.match(entry.name)
                and b"copper_sieve.cli\0work" in _bytes(entry / "cmdline")
                and str(home).encode() in _bytes(entry / "environ")
            ]

        (old,) = workers()
        os.kill(old, signal.SIGKILL)
        import time

        end = time.monotonic() + 20
        while workers() in ([], [old]):
            assert time.monotonic() < end
            time.sleep(0.1)
    finally:
        stop_demo(served)
    assert processes_of(home) == []


def _bytes(path: Path) -> bytes:
    try:
        return path.read_bytes()
    except OSError:
        return b""


def test_a_database_url_is_used_and_left_running(home: Path, dsn: str) -> None:
    environment = {**os.environ, "SIEVE_HOME": str(home), "DATABASE_URL": dsn, "SIEVE_PORT": "8470"}
    command = [sys.executable, "-m", "copper_sieve.cli", "serve"]
    process = subprocess.Popen(command, env=environment, stdout=subprocess.PIPE, text=True)
    assert process.stdout is not None
    assert "http://127.0.0.1:" in process.stdout.readline()
    process.send_signal(signal.SIGTERM)
    assert process.wait(30) in (0, 130)
    assert not (home / "postgres").exists()


def test_the_start_script_is_sound() -> None:
    subprocess.run(["bash", "-n", str(ROOT / "sieve")], check=True)
    assert os.access(ROOT / "sieve", os.X_OK)
    assert os.access(ROOT / ".ci" / "run", os.X_OK)
