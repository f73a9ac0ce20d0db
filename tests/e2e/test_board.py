"""Deliveries as a board: cells selected, looked at, delivered; what becomes of them."""

from __future__ import annotations

import re
import shutil
import time

import pytest
from playwright.sync_api import Page, expect

from tests.e2e.conftest import Served
from tests.e2e.driving import SLOW, choose, settled
from tests.e2e.test_accessible import violations
from tests.e2e.test_tray import own, post  # noqa: F401

pytestmark = pytest.mark.browser
ORM = "ORM packed, Y−"


def cell(page: Page, name: str, word: str) -> None:
    """It says so."""
    label = re.compile(f"^{name} for {re.escape(ORM)}: {word}")
    expect(page.get_by_role("button", name=label)).to_be_visible(timeout=SLOW)


def test_a_column_is_delivered_and_what_changes_is_stale(
    served: Served,
    page: Page,
    own: str,  # noqa: F811
) -> None:
    api = f"{served.address}/api/v1/projects/{own}"
    page.goto(f"{served.address}/{own}/deliveries")
    page.get_by_role("button", name=f"Select all cells of {ORM}").click()
    under = page.get_by_role("region", name="Files to be written")
    expect(under.get_by_text("5 cells selected")).to_be_visible()
    expect(under.get_by_text("has no channel for opacity: not written").first).to_be_visible()
    assert violations(page) == []
    under.get_by_role("button", name=re.compile(r"^Deliver \d+ files")).click()
    cell(page, "tatami_weave", "up to date")
    cell(page, "terrazzo_counter", "up to date")

    rows = {row["name"]: row["id"] for row in page.request.get(f"{api}/tray").json()["rows"]}
    some = [rows["tatami_weave"], rows["lace_blind"]]
    post(page.request, f"{api}/changes", {"set_ids": some, "change": {"do": "width", "metres": 3}})
    gone = served.home / "deliveries" / own / "orm-y-down" / "hammered_copper"
    shutil.rmtree(gone)
    page.reload()
    cell(page, "tatami_weave", "stale")
    cell(page, "hammered_copper", "missing")
    page.get_by_role("button", name="Select stale").click()
    expect(under.get_by_text("3 cells selected")).to_be_visible()
    under.get_by_role("button", name=re.compile(r"^Deliver \d+ files")).click()
    cell(page, "lace_blind", "up to date")
    cell(page, "hammered_copper", "up to date")
    assert (gone / "manifest.json").is_file()
    page.get_by_role("button", name="History…").click()
    listed = page.get_by_role("region", name="Delivery history").get_by_role("listitem")
    expect(listed).to_have_count(2)


def test_cells_are_chosen_by_keys_and_what_is_in_the_way_is_told(
    served: Served,
    page: Page,
    own: str,  # noqa: F811
) -> None:
    page.goto(f"{served.address}/{own}/deliveries")
    first = page.get_by_role("button", name=re.compile("^hammered_copper for glTF"))
    first.focus()
    page.keyboard.press("Enter")
    page.keyboard.press("Shift+ArrowRight")
    page.keyboard.press("Shift+ArrowDown")
    under = page.get_by_role("region", name="Files to be written")
    expect(under.get_by_text("4 cells selected")).to_be_visible()
    folder = served.home / "deliveries" / own / "orm-y-down" / "lace_blind"
    folder.mkdir(parents=True)
    (folder / "T_lace_blind_BC.tga").write_bytes(b"somebody else's")
    page.reload()
    page.get_by_role("button", name="Select all cells of lace_blind").click()
    expect(under.get_by_text("Skipped: T_lace_blind_BC.tga already exists in")).to_be_visible()
    deliver_all = under.get_by_role("button", name=re.compile("^Deliver"))
    expect(deliver_all).to_be_enabled()  # the other target's files
    page.get_by_role("button", name=re.compile("^lace_blind for glTF")).click()
    expect(deliver_all).to_be_disabled()
    page.keyboard.press("Escape")
    expect(under).to_have_count(0)


def test_two_deliveries_are_compared_and_the_sets_of_one_restored(
    served: Served,
    page: Page,
    own: str,  # noqa: F811
) -> None:
    api = f"{served.address}/api/v1/projects/{own}"
    rows = {row["name"]: row["id"] for row in page.request.get(f"{api}/tray").json()["rows"]}
    some = [rows["lace_blind"], rows["hammered_copper"]]
    first = _delivered(page, served, api, some)
    post(page.request, f"{api}/changes",
         {"set_ids": some[:1],
          "change": {"do": "constant", "kind": "roughness", "value": [0.9]}})  # fmt: skip
    second = _delivered(page, served, api, some)
    page.goto(f"{served.address}/{own}/deliveries/{second}")
    page.get_by_role("button", name="More").click()
    page.get_by_role("menuitem", name="Compare with another").click()
    page.wait_for_url(f"**/deliveries/{first}/compare/{second}")
    part = page.get_by_role("region", name="lace_blind for orm-y-down")
    expect(part.get_by_text("Maps that differ: roughness.")).to_be_visible()
    expect(page.get_by_role("region", name="hammered_copper")).to_have_count(0)  # the same
    expect(part.get_by_role("img", name=f"lit, delivery {first}")).to_have_js_property(
        "complete", True
    )
    assert violations(page) == []
    part.get_by_role("button", name="Compare G of").click()
    viewer = page.get_by_role("dialog")
    expect(viewer.get_by_text("of 255")).to_be_visible(timeout=SLOW)
    page.keyboard.press("Escape")

    page.goto(f"{served.address}/{own}/deliveries/{first}")
    expect(page.get_by_text("! Verified when delivered, but overwritten by").first).to_be_visible()
    page.get_by_role("button", name="More").click()
    page.get_by_role("menuitem", name="Restore sets to this delivery").click()
    done = page.get_by_role("status").filter(has_text=f"1 set: restored from delivery {first}.")
    expect(done).to_contain_text("hammered_copper unchanged: it already has this value")
    page.get_by_role("button", name="More").click()
    with page.context.expect_page() as opened:
        page.get_by_role("menuitem", name="Contact sheet (HTML)").click()
    sheet = opened.value
    expect(sheet.get_by_role("heading", name="lace_blind for ORM packed")).to_be_visible()
    sheet.close()
    page.get_by_role("button", name="More").click()
    page.get_by_role("menuitem", name="Repeat this delivery").click()
    page.wait_for_url(re.compile(rf"/deliveries/(?!{first}$)\d+$"))
    expect(page.get_by_text("verified", exact=True)).to_be_visible(timeout=SLOW)


def _delivered(page: Page, served: Served, api: str, ids: list[int]) -> int:
    body = {"set_ids": ids, "target_ids": ["orm-y-down"]}
    number = int(post(page.request, f"{api}/deliveries", body)["id"])
    for _ in range(240):
        found = page.request.get(f"{served.address}/api/v1/deliveries/{number}").json()
        if found["state"] not in ("queued", "running"):
            break
        page.wait_for_timeout(250)
    assert found["state"] == "done", found
    return number


def test_where_it_goes_is_chosen_and_checked_while_it_is_typed(
    served: Served,
    page: Page,
    own: str,  # noqa: F811
) -> None:
    page.goto(f"{served.address}/{own}/deliveries")
    page.get_by_role("button", name=f"Destination of {ORM}").click()
    dialog = page.get_by_role("dialog", name="Destination")
    expect(dialog.get_by_text(f"/deliveries/{own}/orm-y-down/hammered_copper")).to_be_visible()
    assert violations(page) == []
    dialog.get_by_role("textbox", name="Layout pattern").fill("{material}")
    expect(dialog.get_by_role("alert")).to_contain_text("unknown variable {material}")
    keep = dialog.get_by_role("button", name="Save")
    expect(keep).to_be_disabled()
    dialog.get_by_role("textbox", name="Folder path").fill(f"{served.home}/deliveries")
    page.keyboard.press("Enter")
    dialog.get_by_role("button", name="New folder").click()
    dialog.get_by_role("textbox", name="Name of the new folder").fill(f"engine_{own}")
    page.keyboard.press("Enter")
    dialog.get_by_role("radio", name=re.compile("^All in one")).click()
    expect(dialog.get_by_text("Several sets or targets share this folder")).to_be_visible()
    choose(page, "Format of all files", "PNG")
    dialog.get_by_role("checkbox", name="BC").uncheck()
    expect(keep).to_be_enabled()
    keep.click()
    expect(dialog).to_be_hidden()

    for name in ("tatami_weave", "lace_blind"):
        page.get_by_role("button", name=f"{name} for {ORM}: not delivered").click()
    under = page.get_by_role("region", name="Files to be written")
    expect(under.get_by_text(f"engine_{own}/").first).to_be_visible()
    under.get_by_role("button", name=re.compile(r"^Deliver \d+ files")).click()
    expect(page.get_by_text("verified", exact=True)).to_be_visible(timeout=SLOW)
    page.get_by_role("link", name="Deliveries").last.click()
    cell(page, "tatami_weave", "up to date")
    cell(page, "lace_blind", "up to date")
    lying = {one.name for one in (served.home / "deliveries" / f"engine_{own}").iterdir()}
    assert lying == {
        *(f"T_{name}_{suffix}.png" for name in ("tatami_weave", "lace_blind")
          for suffix in ("ORM", "N")),
        *(f"{name}.orm-y-down.manifest.json" for name in ("tatami_weave", "lace_blind")),
    }  # fmt: skip
    page.get_by_role("button", name=f"Destination of {ORM}").click()
    dialog.get_by_role("button", name="Use defaults").click()
    cell(page, "tatami_weave", "stale")


def test_what_is_kept_up_to_date_is_delivered_after_a_slider(
    served: Served,
    page: Page,
    own: str,  # noqa: F811
) -> None:
    api = f"{served.address}/api/v1/projects/{own}"
    page.goto(f"{served.address}/{own}/deliveries")
    page.get_by_role("button", name=f"tatami_weave for {ORM}: not delivered").click()
    under = page.get_by_role("region", name="Files to be written")
    itself = under.get_by_role("checkbox", name=re.compile("^Auto-deliver this cell"))
    itself.click()
    expect(itself).to_be_checked()
    cell(page, "tatami_weave", "up to date, auto-delivered")
    folder = served.home / "deliveries" / own / "orm-y-down" / "tatami_weave"
    before = (folder / "T_tatami_weave_N.tga").stat()
    color = (folder / "T_tatami_weave_BC.tga").stat()
    rows = {row["name"]: row["id"] for row in page.request.get(f"{api}/tray").json()["rows"]}
    page.goto(f"{served.address}/{own}/bench/{rows['tatami_weave']}/normal")
    settled(page)
    page.get_by_role("slider", name="Intensity").focus()
    for _ in range(3):  # a burst
        page.keyboard.press("ArrowRight")
    page.get_by_role("link", name="Deliveries").click()
    # Stale only until the hand has rested, which a page may be too slow to show.
    end = time.monotonic() + SLOW / 1000
    while len(page.request.get(f"{api}/deliveries").json()) < 2:
        assert time.monotonic() < end
        page.wait_for_timeout(100)
    cell(page, "tatami_weave", "up to date, auto-delivered")
    after = (folder / "T_tatami_weave_N.tga").stat()
    assert after.st_mtime_ns > before.st_mtime_ns
    kept = (folder / "T_tatami_weave_BC.tga").stat()
    assert (kept.st_ino, kept.st_mtime_ns) == (color.st_ino, color.st_mtime_ns)
    assert len(page.request.get(f"{api}/deliveries").json()) == 2


def test_a_webhook_is_added_tested_and_removed(served: Served, page: Page) -> None:
    page.goto(f"{served.place}/deliveries")
    page.get_by_role("button", name="Webhooks…").click()
    dialog = page.get_by_role("dialog", name="Webhooks")
    expect(dialog.get_by_text("No webhooks yet.")).to_be_visible()
    field = dialog.get_by_label("URL")
    for bad, why in (("ftp://nowhere", "can't be used as a webhook"),
                     ("http://127.0.0.1:9/", "SIEVE_HOOKS_ALLOW")):  # fmt: skip
        field.fill(bad)
        field.press("Enter")
        expect(page.get_by_role("alert").filter(has_text=why)).to_be_visible()
    address = "http://receiver.invalid/textures"  # nobody has that name
    field.fill(address)
    field.press("Enter")
    expect(dialog.get_by_text("Secret (shown only once):")).to_be_visible()
    dialog.get_by_role("button", name="Send test").click()
    expect(dialog.get_by_text("receiver.invalid couldn't be resolved").first).to_be_visible()
    dialog.get_by_role("button", name="Calls").click()
    expect(dialog.get_by_role("row").nth(1)).to_contain_text("webhook.test")
    dialog.get_by_role("button", name="Pause").click()
    expect(dialog.get_by_text("Paused")).to_be_visible()
    dialog.get_by_role("button", name="Remove webhook").click()
    expect(dialog.get_by_text("No webhooks yet.")).to_be_visible()
