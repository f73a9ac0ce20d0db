"""A folder of the server taken in by its path; its files off the table and back."""

from __future__ import annotations

import re
import shutil

import pytest
from playwright.sync_api import Page, expect

from tests.conftest import MakePhoto
from tests.e2e.conftest import Served
from tests.e2e.driving import SLOW
from tests.e2e.test_accessible import violations

pytestmark = pytest.mark.browser


def test_a_folder_is_taken_in_and_kept_in_step(
    served: Served, page: Page, make_photo: MakePhoto
) -> None:
    api = f"{served.address}/api/v1/projects"
    slug = page.request.post(api, data={"title": "From the server"}).json()["slug"]
    folder = served.home / "deliveries" / "scans" / "pier"
    folder.mkdir(parents=True)
    for seed in (61, 62):
        shutil.copy(make_photo(f"plank{seed}_color.png", seed=seed), folder)
    page.goto(f"{served.address}/{slug}/intake")
    page.get_by_role("button", name="Server folders…").click()
    dialog = page.get_by_role("dialog", name="Folders on the server")
    dialog.get_by_role("button", name="scans").click()
    dialog.get_by_role("button", name="pier").click()
    expect(dialog.get_by_role("textbox", name="Folder path")).to_have_value(str(folder))
    dialog.get_by_role("button", name="Import once").click()
    expect(dialog.get_by_text(re.compile("2 files · synced"))).to_be_visible(timeout=SLOW)
    assert violations(page) == []
    page.keyboard.press("Escape")
    one = page.get_by_test_id("file-plank61_color.png")
    expect(one).to_be_visible(timeout=SLOW)
    shutil.copy(make_photo("plank63_color.png", seed=63), folder)
    third = page.get_by_test_id("file-plank63_color.png")
    expect(third).to_be_visible(timeout=SLOW)

    third.get_by_role("button", name=re.compile("^(Dismiss|Take|Remove).*plank63")).click()
    expect(third).to_be_hidden()
    page.get_by_role("status").get_by_role("button", name="Undo").click()
    expect(third).to_be_visible(timeout=SLOW)
    third.get_by_role("button", name=re.compile("^(Dismiss|Take|Remove).*plank63")).click()
    expect(third).to_be_hidden()
    page.keyboard.press("Control+z")
    expect(third).to_be_visible(timeout=SLOW)
