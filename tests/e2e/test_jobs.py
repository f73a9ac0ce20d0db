"""The job list: seen from any place, cancelled and retried."""

from __future__ import annotations

import os
import signal
from collections.abc import Iterator
from contextlib import contextmanager
from pathlib import Path

import numpy as np
import pytest
from playwright.sync_api import Page, expect

from copper_sieve.core.codecs import write_picture
from copper_sieve.core.image.raster import Encoding, Picture
from tests.e2e.conftest import Served
from tests.e2e.driving import SLOW

pytestmark = pytest.mark.browser


def processes_below(pid: int) -> Iterator[int]:
    for child in Path(f"/proc/{pid}/task/{pid}/children").read_text().split():
        yield int(child)
        yield from processes_below(int(child))


@contextmanager
def suspended_lanes(served: Served) -> Iterator[None]:
    """Suspend the processes that carry out jobs, so that a job waits for as long as needed."""
    below = processes_below(served.process.pid)
    lanes = [pid for pid in below if Path(f"/proc/{pid}/comm").read_text().startswith("lane-")]
    assert lanes
    for pid in lanes:
        os.kill(pid, signal.SIGSTOP)
    try:
        yield
    finally:
        for pid in lanes:
            os.kill(pid, signal.SIGCONT)


def test_an_import_is_seen_cancelled_and_retried(
    served: Served, page: Page, tmp_path: Path
) -> None:
    path = tmp_path / "harbor.hdr"
    light = np.random.default_rng(91).random((600, 1200, 3), np.float32)
    write_picture(path, Picture(light, ("R", "G", "B"), Encoding.LINEAR), "hdr")
    page.goto(f"{served.place}/tray")
    page.get_by_title("Jobs: imports").click()
    listed = page.get_by_label("Jobs", exact=True)
    address = f"{served.address}/api/v1/projects/lantern-row/environments"
    with suspended_lanes(served):
        sent = page.request.post(
            f"{address}?name=harbor.hdr&kind=panorama", data=path.read_bytes(),
            headers={"Content-Type": "application/octet-stream"},
        )  # fmt: skip
        assert sent.status == 202
        job = listed.get_by_role("listitem", name="Environment import harbor.hdr")
        job.get_by_role("button", name="Cancel").click()
        expect(job.get_by_text("Cancelled")).to_be_visible()
    names = [one["name"] for one in page.request.get(address).json()]
    assert "harbor.hdr" not in names
    job.get_by_role("button", name="Retry").click()
    expect(job.get_by_text("Done")).to_be_visible(timeout=SLOW)
    (made,) = [one for one in page.request.get(address).json() if one["name"] == "harbor.hdr"]
    job.get_by_role("button", name="Dismiss").click()
    expect(job).to_have_count(0)
    page.request.delete(f"{served.address}/api/v1/environments/{made['id']}")
