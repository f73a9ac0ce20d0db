"""Processes killed, starts cut short, disks full: a few of what `benchmarks/faults.py` and
`benchmarks/starts.py` do at length."""

from __future__ import annotations

import json
import os
import signal
import subprocess
import tempfile
import time
import urllib.error
import urllib.request
from collections.abc import Iterator
from pathlib import Path

import pytest
from benchmarks import faults, starts

from tests.e2e.conftest import Served, start_demo, stop_demo

pytestmark = pytest.mark.browser  # it serves the built front end
MEGABYTE = 1_000_000


def test_deliveries_outlive_what_is_killed(capsys: pytest.CaptureFixture[str]) -> None:
    status = faults.main(kills=4)
    said = capsys.readouterr().out
    assert status == 0, said
    assert "'failed'" not in said


def test_starts_that_are_cut_short_end_in_order(capsys: pytest.CaptureFixture[str]) -> None:
    assert starts.main(6, 3.0) == 0, capsys.readouterr().out


@pytest.mark.parametrize("after", [0.0, 1.0])
def test_a_killed_server_leaves_no_worker_behind(after: float) -> None:
    with tempfile.TemporaryDirectory(prefix="sieve-kill-", ignore_cleanup_errors=True) as name:
        served = start_demo(Path(name))
        time.sleep(after)
        os.kill(served.process.pid, signal.SIGKILL)
        served.process.wait()
        end = time.monotonic() + 60  # as many seconds as a busy machine may need
        while faults.of_home(served.home, b"copper_sieve"):
            assert time.monotonic() < end
            time.sleep(0.1)
        (served.home / "passing" / "left").mkdir(parents=True)
        (served.home / "passing" / "left" / "half").write_bytes(b"half an upload")
        again = start_demo(Path(name))  # takes the database over, and clears up
        try:
            assert list((served.home / "passing").iterdir()) == []
        finally:
            stop_demo(again)
        assert faults.of_home(served.home, b"postgres") == []


@pytest.fixture
def small_disk() -> Iterator[Path]:
    """A disk of its own that can be filled."""
    with tempfile.TemporaryDirectory(prefix="sieve-disk-") as name:
        folder = Path(name)
        mount = ["mount", "-t", "tmpfs", "-o", "size=520m", "tmpfs", str(folder)]
        done = subprocess.run(mount, capture_output=True, check=False)
        if done.returncode:
            pytest.skip("nothing can be mounted here")
        folder.chmod(0o755)
        try:
            yield folder
        finally:
            subprocess.run(["umount", "-l", str(folder)], check=True)


def answer_of(served: Served, path: str, data: bytes | None = None) -> tuple[int, dict]:
    request = urllib.request.Request(
        served.address + path, data, {"Content-Type": "application/octet-stream"}
    )
    try:
        with urllib.request.urlopen(request, timeout=60) as answer:
            return answer.status, json.load(answer)
    except urllib.error.HTTPError as error:
        return error.code, json.loads(error.read())


def test_a_full_disk_is_told_and_all_goes_on_when_there_is_room(small_disk: Path) -> None:
    served = start_demo(small_disk)
    filler = small_disk / "filler"
    try:
        before = answer_of(served, "/api/v1/projects/lantern-row/sets")[1]
        with filler.open("wb") as file:
            try:
                while True:
                    file.write(bytes(MEGABYTE))
            except OSError:
                pass
        noise = b"\x89PNG\r\n\x1a\n" + os.urandom(8 * MEGABYTE)
        status, body = answer_of(served, "/api/v1/projects/lantern-row/sources?name=a.png", noise)
        assert status in (422, 503, 507), body
        assert body["detail"]
        for _ in range(6):  # sets are read, or what is wrong is said
            status, body = answer_of(served, "/api/v1/projects/lantern-row/sets")
            assert status in (200, 503, 507), body
            time.sleep(0.5)
        filler.unlink()
        end = time.monotonic() + 60
        while answer_of(served, "/api/v1/health")[0] != 200:
            assert time.monotonic() < end
            time.sleep(0.5)
        assert answer_of(served, "/api/v1/projects/lantern-row/sets")[1] == before
    finally:
        filler.unlink(missing_ok=True)
        stop_demo(served)
