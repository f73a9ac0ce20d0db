"""Every place by the rules of axe: names of controls, contrast, order of headings, tables."""

from __future__ import annotations

from collections.abc import Callable
from pathlib import Path

import pytest
from playwright.sync_api import Page, expect

from tests.conftest import MakePhoto
from tests.e2e.conftest import Served
from tests.e2e.driving import SLOW, bench_of, settled

pytestmark = pytest.mark.browser
AXE = Path(__file__).resolve().parents[2] / "web" / "node_modules" / "axe-core" / "axe.min.js"


def violations(page: Page) -> list[str]:
    """What axe finds in the page as it is, a line for each element."""
    page.add_script_tag(path=str(AXE))
    found = page.evaluate("async () => (await axe.run(document)).violations")
    return [
        f"{one['id']} ({one['impact']}): {node['html'][:160]} {node['failureSummary'][:200]}"
        for one in found
        for node in one["nodes"]
    ]


PLACES: dict[str, Callable[[Served, Page], None]] = {
    "tray": lambda served, page: expect(page.get_by_role("link", name="tatami_weave")).to_be_visible(),
    "intake": lambda served, page: expect(page.get_by_role("heading", name="Intake")).to_be_visible(),
    "targets": lambda served, page: expect(page.get_by_text("Occlusion").first).to_be_visible(),
    "deliveries": lambda served, page: expect(page.get_by_text("Lantern").first).to_be_visible(),
}  # fmt: skip


@pytest.mark.parametrize("place", PLACES)
def test_a_place_breaks_no_rule(served: Served, page: Page, place: str) -> None:
    page.goto(f"{served.place}/{place}")
    PLACES[place](served, page)
    assert page.title().startswith(place.capitalize())
    assert violations(page) == []


def test_the_bench_breaks_no_rule(served: Served, page: Page, make_photo: MakePhoto) -> None:
    bench_of(served, page, make_photo("seen.png", size=(96, 96), seed=41))
    settled(page)
    expect(page.get_by_test_id("lit")).to_be_visible(timeout=SLOW)
    assert violations(page) == []
    page.get_by_role("link", name="Source").first.click()
    settled(page)
    assert violations(page) == []
