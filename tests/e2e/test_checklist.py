"""The checklist: a sign in the Tray, the finding on the Bench; mended by a click, and for many."""

from __future__ import annotations

import re

import pytest
from playwright.sync_api import Page, expect

from tests.e2e.conftest import Served
from tests.e2e.driving import SLOW
from tests.e2e.test_accessible import violations
from tests.e2e.test_tray import own, post  # noqa: F401

pytestmark = pytest.mark.browser


def test_a_wrong_green_is_found_seen_mended_and_undone(
    served: Served,
    page: Page,
    own: str,  # noqa: F811
) -> None:
    api = f"{served.address}/api/v1/projects/{own}"
    page.goto(f"{served.address}/{own}/tray")
    name = page.get_by_role("link", name="hammered_copper", exact=True)
    row = page.get_by_role("row").filter(has=name)
    sign = row.get_by_role("link", name="Checklist: green direction")
    # In many sets alike, with the sets of one card.
    rows = {row["name"]: row["id"] for row in page.request.get(f"{api}/tray").json()["rows"]}
    copper = rows["hammered_copper"]
    post(page.request, f"{api}/changes", {"set_ids": [copper], "change": {"do": "flip_green"}})
    post(page.request, f"{api}/changes", {"set_ids": [copper], "change": {"do": "duplicate"}})
    expect(sign).to_be_visible(timeout=SLOW)
    sign.click()
    panel = page.get_by_role("region", name="Checklist")
    expect(panel.get_by_text("but the relief indicates the opposite")).to_be_visible()
    expect(panel.get_by_role("img", name="Lit: current")).to_be_visible(timeout=SLOW)
    fix = panel.get_by_role("button", name="Read green as Y−")
    expect(panel.get_by_role("img", name="Lit: Read green as Y−")).to_be_visible(timeout=SLOW)
    assert violations(page) == []
    fix.click()
    expect(panel.get_by_text("No problems found.")).to_be_visible(timeout=SLOW)
    page.get_by_role("button", name="Undo").click()
    expect(fix).to_be_visible(timeout=SLOW)
    panel.get_by_role("button", name="Ignore (intended)").click()
    expect(panel.get_by_text("Ignored", exact=True)).to_be_visible()
    panel.get_by_role("button", name="Stop ignoring").click()
    expect(panel.get_by_text("Error")).to_be_visible()
    page.keyboard.press("Escape")
    expect(panel).to_be_hidden()

    page.goto(f"{served.address}/{own}/tray")
    page.get_by_role("textbox", name=re.compile("Filter")).fill("check:green_direction")
    expect(page.get_by_role("checkbox", name=re.compile("^Select tatami"))).to_have_count(0)
    expect(page.get_by_role("checkbox", name=re.compile("^Select hammered"))).to_have_count(2)
    page.keyboard.press("Tab")
    page.keyboard.press("Control+a")
    page.get_by_role("button", name="Checklist…").click()
    dialog = page.get_by_role("dialog", name="Checklist")
    assert violations(page) == []
    dialog.get_by_role("button", name="Read green as Y− in 2 sets").click()
    expect(page.get_by_text("2 sets: wrong green direction, fixed.")).to_be_visible()
    expect(dialog.get_by_text("No problems found.")).to_be_visible(timeout=SLOW)
