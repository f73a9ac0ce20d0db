"""Every place by the rules of axe: names of controls, contrast, order of headings, tables."""

from __future__ import annotations

from collections.abc import Callable
from pathlib import Path

import pytest
from playwright.sync_api import Locator, Page, expect

from tests.conftest import MakePhoto
from tests.e2e.conftest import Served
from tests.e2e.driving import SLOW, bench_of, settled

pytestmark = pytest.mark.browser
AXE = Path(__file__).resolve().parents[2] / "web" / "node_modules" / "axe-core" / "axe.min.js"


def violations(page: Page) -> list[str]:
    """What axe finds in the page as it is, a line for each element."""
    page.evaluate(AXE.read_text() + "; undefined")  # as a debugger does it: no page could
    found = page.evaluate("async () => (await axe.run(document)).violations")
    return [
        f"{one['id']} ({one['impact']}): {node['html'][:160]} {node['failureSummary'][:200]}"
        for one in found
        for node in one["nodes"]
    ]


# What is there once a place is.
PLACES: dict[str, Callable[[Page], Locator]] = {
    "tray": lambda page: page.get_by_role("columnheader").first,
    "intake": lambda page: page.get_by_role("heading", name="Intake"),
    "targets": lambda page: page.get_by_role("columnheader").first,
    "deliveries": lambda page: page.get_by_role("columnheader").first,
}


@pytest.mark.parametrize("place", PLACES)
def test_a_place_breaks_no_rule(served: Served, page: Page, place: str) -> None:
    page.goto(f"{served.place}/{place}")
    expect(PLACES[place](page)).to_be_visible(timeout=SLOW)
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
