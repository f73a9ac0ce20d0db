"""The Tray with a thousand sets, and what is done there to many of them; projects."""

from __future__ import annotations

import re
from collections.abc import Iterator
from pathlib import Path
from typing import Any

import pytest
from playwright.sync_api import APIRequestContext, Page, expect

from tests.e2e.conftest import Served
from tests.e2e.driving import SLOW, settled
from tests.e2e.test_accessible import violations

pytestmark = pytest.mark.browser


def post(request: APIRequestContext, address: str, body: dict[str, Any]) -> Any:
    answer = request.post(address, data=body)
    assert answer.ok, answer.text()
    return answer.json()


@pytest.fixture
def own(served: Served, page: Page) -> Iterator[str]:
    """The address of a project of one's own, with copies of the demo's sets."""
    api = f"{served.address}/api/v1/projects"
    slug = post(page.request, api, {"title": "Own sets", "copy_of": "lantern-row"})["slug"]
    rows = page.request.get(f"{api}/{slug}/tray").json()["rows"]
    names = {"tatami_weave", "terrazzo_counter", "paper_lantern", "lace_blind", "hammered_copper"}
    others = [row["id"] for row in rows if row["name"] not in names]  # of other tests
    if others:
        post(page.request, f"{api}/{slug}/changes",
             {"set_ids": others, "change": {"do": "delete"}})  # fmt: skip
    yield slug
    page.request.patch(f"{api}/{slug}", data={"deleted": True})


def choose_in_menu(page: Page, item: str) -> None:
    page.get_by_role("button", name="Change", exact=True).click()
    page.get_by_role("menuitem", name=item).click()


def names(page: Page, served: Served, own: str) -> set[str]:
    rows = page.request.get(f"{served.address}/api/v1/projects/{own}/tray").json()["rows"]
    return {row["name"] for row in rows}


def test_a_set_is_renamed_thrown_away_and_brought_back(
    served: Served, page: Page, own: str
) -> None:
    page.goto(f"{served.address}/{own}/tray")
    page.get_by_role("checkbox", name="Select lace_blind").click()
    choose_in_menu(page, "Rename")
    dialog = page.get_by_role("dialog")
    dialog.get_by_role("textbox", name="Name").fill("tatami_weave")
    expect(dialog.get_by_text("two sets would be named")).to_be_visible()
    expect(dialog.get_by_role("button", name="Rename")).to_be_disabled()
    dialog.get_by_role("textbox", name="Name").fill("window_lace")
    dialog.get_by_role("button", name="Rename 1 set").click()
    expect(page.get_by_role("link", name="window_lace")).to_be_visible()
    choose_in_menu(page, "Delete")
    page.get_by_role("button", name="Delete 1 set").click()
    expect(page.get_by_role("link", name="window_lace")).to_have_count(0)
    page.get_by_role("button", name=")…").click()
    row = page.get_by_role("listitem").filter(has_text="window_lace")
    row.get_by_role("button", name="Restore").click()
    expect(page.get_by_role("link", name="window_lace")).to_be_visible()
    page.locator("body").press("Control+z")  # the bringing back
    expect(page.get_by_role("link", name="window_lace")).to_have_count(0)
    for _ in range(2):  # the throwing away, the renaming
        page.locator("body").press("Control+z")
    expect(page.get_by_role("link", name="lace_blind")).to_be_visible()
    assert "lace_blind" in names(page, served, own)


def test_many_are_changed_at_once_after_a_look(served: Served, page: Page, own: str) -> None:
    page.goto(f"{served.address}/{own}/tray")
    page.get_by_role("checkbox", name="Select hammered_copper").click()
    page.get_by_role("checkbox", name="Select terrazzo_counter").click(modifiers=["Shift"])
    expect(page.get_by_text("5 sets selected")).to_be_visible()
    choose_in_menu(page, "Tags")
    page.get_by_role("textbox", name="Add tags").fill("house, wet")
    page.get_by_role("button", name="Tag 5 sets").click()
    expect(page.get_by_role("status").filter(has_text="5 sets: tags.")).to_be_visible()
    choose_in_menu(page, "Switch normal Y+/Y−")
    expect(page.get_by_text("it has no imported normal map")).to_be_visible()
    page.get_by_role("button", name="Switch Y+/Y− of 1 set").click()
    expect(page.get_by_role("status").filter(has_text="1 set: green inverted")).to_be_visible()
    find = page.get_by_role("textbox", name="Filter sets")
    find.fill("tag:house imported:normal")
    expect(page.get_by_role("row")).to_have_count(2)  # with the head
    expect(page.get_by_role("link", name="hammered_copper").first).to_be_visible()
    find.press("Escape")
    undo = page.get_by_role("status").filter(has_text="green inverted").get_by_role("button")
    undo.filter(has_text="Undo").click()
    expect(page.get_by_role("status").filter(has_text="undone")).to_be_visible()
    assert violations(page) == []


def test_a_thousand_sets_are_found_and_chosen(served: Served, page: Page, own: str) -> None:
    changes = f"{served.address}/api/v1/projects/{own}/changes"
    while len(now := _ids(page, served, own)) < 1000:
        body = {"set_ids": now[: 1000 - len(now)], "change": {"do": "duplicate"}}
        assert page.request.post(changes, data=body, timeout=SLOW).ok
    lace = sum(name.startswith("lace") for name in names(page, served, own))
    assert lace > 100
    page.goto(f"{served.address}/{own}/tray")
    expect(page.get_by_text("1000 sets")).to_be_visible(timeout=SLOW)
    assert page.get_by_role("row").count() < 40  # only those in sight
    page.locator("body").press("/")
    find = page.get_by_role("textbox", name="Filter sets")
    expect(find).to_be_focused()
    find.press_sequentially("lace")
    expect(page.get_by_role("status").filter(has_text=f"{lace} of 1000")).to_be_visible()
    assert page.url.endswith("tray?find=lace")
    page.get_by_role("checkbox", name="Select all displayed sets").click()
    expect(page.get_by_text(f"{lace} sets selected")).to_be_visible()
    page.get_by_role("button", name="Clear selection").click()
    # By keys: a range from the first row down.
    page.get_by_role("checkbox", name="Select lace_blind", exact=True).focus()
    page.keyboard.press("Space")
    for _ in range(30):  # beyond what was in sight
        page.keyboard.press("Shift+ArrowDown")
    expect(page.get_by_text("31 sets selected")).to_be_visible()
    page.keyboard.press("Control+a")
    expect(page.get_by_text(f"{lace} sets selected")).to_be_visible()


def _ids(page: Page, served: Served, own: str) -> list[int]:
    answer = page.request.get(f"{served.address}/api/v1/projects/{own}/tray")
    return [row["id"] for row in answer.json()["rows"]]


def test_projects_are_made_copied_and_thrown_away(served: Served, page: Page) -> None:
    page.goto(f"{served.address}/projects")
    page.get_by_role("button", name="New project").click()
    page.get_by_role("textbox", name="Title").fill("North Quay")
    page.get_by_role("button", name="Create").click()
    card = page.get_by_role("listitem").filter(has_text="North Quay")
    expect(card.get_by_text("no sets yet")).to_be_visible()
    assert violations(page) == []
    card.get_by_role("link").click()
    page.wait_for_url(re.compile("/north-quay[^/]*/tray"))
    expect(page.get_by_text("Drop a photo of a surface")).to_be_visible()
    page.get_by_title("Projects").click()
    page.get_by_role("menuitem", name="All projects").click()
    page.get_by_role("button", name="More for North Quay").click()
    page.get_by_role("menuitem", name="Rename").click()
    page.get_by_role("textbox", name="Title").fill("South Quay")
    page.get_by_role("button", name="Rename").click()
    page.get_by_role("button", name="More for South Quay").click()
    page.get_by_role("menuitem", name="Delete").click()
    page.get_by_role("button", name="Delete").click()
    away = page.get_by_role("region", name="Trash")
    expect(away.get_by_text("South Quay")).to_be_visible()
    away.get_by_role("button", name="Restore South Quay").click()
    expect(page.get_by_role("button", name="More for South Quay")).to_be_visible()
    page.get_by_role("button", name="More for South Quay").click()
    page.get_by_role("menuitem", name="Delete").click()
    page.get_by_role("button", name="Delete").click()
    expect(away.get_by_text("South Quay")).to_be_visible()


def test_a_project_is_packed_and_taken_in(
    served: Served, page: Page, own: str, tmp_path: Path
) -> None:
    page.goto(f"{served.address}/projects")
    page.get_by_role("button", name="More for Own sets").first.click()
    with page.expect_download() as waiting:
        page.get_by_role("menuitem", name="Export project").click()
    packed = tmp_path / "own.zip"
    waiting.value.save_as(packed)
    before = page.get_by_role("listitem").filter(has_text="Own sets").count()
    page.get_by_label("Project file").set_input_files(packed)
    report = page.get_by_role("dialog", name="Imported Own sets")
    expect(report).to_be_visible(timeout=SLOW)
    report.get_by_role("button", name="Close").last.click()
    cards = page.get_by_role("listitem").filter(has_text="Own sets")
    expect(cards).to_have_count(before + 1)
    projects = page.request.get(f"{served.address}/api/v1/projects").json()
    slug = [one["slug"] for one in projects if one["title"] == "Own sets"][-1]
    assert slug != own
    assert names(page, served, slug) == names(page, served, own)
    page.request.patch(f"{served.address}/api/v1/projects/{slug}", data={"deleted": True})


def test_two_sets_are_blended_and_the_border_follows_a_slider(
    served: Served, page: Page, own: str
) -> None:
    page.goto(f"{served.address}/{own}/tray")
    for name in ("terrazzo_counter", "lace_blind"):
        page.get_by_role("checkbox", name=f"Select {name}").click()
    choose_in_menu(page, "Blend two sets…")
    dialog = page.get_by_role("dialog", name="Blend two sets")
    assert violations(page) == []
    dialog.get_by_role("button", name="Swap").click()
    dialog.get_by_role("textbox", name="Name").fill("counter_cloth")
    dialog.get_by_role("button", name="Blend", exact=True).click()
    expect(page.get_by_title("lace_blind over terrazzo_counter")).to_be_visible(timeout=SLOW)
    settled(page)
    page.get_by_role("combobox", name="Mask", exact=True).click()
    page.get_by_role("option", name="noise", exact=True).click()
    page.get_by_role("textbox", name="Offset").fill("1")
    page.keyboard.press("Enter")
    settled(page)
    page.get_by_role("combobox", name="Source").click()
    expect(page.get_by_role("option", name="coverage of the upper set")).to_be_visible()
    page.keyboard.press("Escape")
    expect(page.get_by_text("saved", exact=True)).to_be_visible(timeout=SLOW)
    one = next(
        row for row in page.request.get(f"{served.address}/api/v1/projects/{own}/sets").json()
        if row["name"] == "counter_cloth"
    )  # fmt: skip
    mask = next(m["definition"] for m in one["maps"] if m["kind"] == "mask_1")
    assert (mask["parameters"]["pattern"], mask["parameters"]["offset"]) == ("noise", 1)
