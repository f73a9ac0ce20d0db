"""Forty sets as they live: taken in, turned, derived on the wall, delivered, in few clicks."""

from __future__ import annotations

import re
import time
from collections.abc import Callable
from pathlib import Path

import numpy as np
import pytest
from playwright.sync_api import Page, expect

from copper_sieve.core.codecs import write_picture
from copper_sieve.core.image.raster import Picture
from copper_sieve.demo.hammered_copper import draw_hammered_copper
from tests.e2e.conftest import Served
from tests.e2e.driving import SLOW
from tests.e2e.test_tray import choose_in_menu, post

pytestmark = pytest.mark.browser
COUNT, EVERY = 40, 16  # every so many texels of the drawn copper is taken
ORM = "ORM packed, Y−"


def _files(folder: Path) -> list[str]:
    """A color and a normal map of each set, none like another."""
    drawn = draw_hammered_copper()
    paths = []
    for n in range(COUNT):
        for part, mark in (("base_color", "alb"), ("normal_dx", "nrm")):
            whole = drawn[part]
            codes = np.roll(whole.codes, 23 * n, axis=1)[::EVERY, ::EVERY]
            path = folder / f"scale_{n:02d}x_{mark}.png"
            write_picture(path, Picture(codes, whole.channels, whole.encoding), "png")
            paths.append(str(path))
    return paths


def test_forty_sets_are_taken_in_turned_derived_and_delivered(
    served: Served, open_page: Callable[[], Page], tmp_path: Path
) -> None:
    page = open_page()
    api = f"{served.address}/api/v1/projects"
    own = post(page.request, api, {"title": "Forty scales"})["slug"]
    page.goto(f"{served.address}/{own}/intake")
    page.get_by_label("Files to import").set_input_files(_files(tmp_path))
    accept = page.get_by_role("button", name=re.compile("Accept all"))
    _recognized(page, f"{api}/{own}/arrivals")
    rows = page.request.get(f"{api}/{own}/arrivals").json()["rows"]
    card = {"ids": [row["id"] for row in rows], "name": "Scale maker", "licence": "", "where": ""}
    post(page.request, f"{served.address}/api/v1/source-cards", card)
    page.reload()
    accept.click()
    expect(page.get_by_text("80 files added to").first).to_be_visible(timeout=SLOW)

    # Green is turned for all from that card, and seen on the wall first.
    page.goto(f"{served.address}/{own}/tray")
    expect(page.get_by_text("40 sets")).to_be_visible(timeout=SLOW)
    page.get_by_role("checkbox", name="Select all displayed sets").click()
    before = _normals(page, served, own)
    choose_in_menu(page, "Switch normal Y+/Y−")
    page.get_by_role("radio", name="only those with source card Scale maker").check()
    page.get_by_role("button", name="Switch Y+/Y− of 40 sets").click()
    expect(page.get_by_role("status").filter(has_text="40 sets: green inverted")).to_be_visible(
        timeout=SLOW
    )
    after = _normals(page, served, own)
    assert set(before.values()) | set(after.values()) == {"up", "down"}
    assert all(after[name] != before[name] for name in before)

    # A recipe on the wall: one set is left as it is.
    first = page.request.get(f"{api}/{own}/sets").json()[0]
    recipe = {"name": f"Scales {own}", "set_id": first["id"]}
    changed = {"do": "constant", "kind": "metallic", "value": [0.5]}
    post(page.request, f"{api}/{own}/changes", {"set_ids": [first["id"]], "change": changed})
    post(page.request, f"{served.address}/api/v1/recipes", recipe)
    page.reload()
    page.get_by_role("checkbox", name="Select all displayed sets").click()
    page.get_by_role("button", name="Apply recipe").click()
    saved = page.get_by_role("listitem").filter(has_text=recipe["name"])
    saved.get_by_role("button", name="Preview…").click()
    wall = page.get_by_role("dialog", name=f"Recipe Scales {own}")
    wall.get_by_role("button", name=re.compile("^scale_01x")).click()
    wall.get_by_role("button", name="Change 39 sets").click()
    expect(page.get_by_role("status").filter(has_text=re.compile("sets: recipe"))).to_be_visible(
        timeout=SLOW
    )
    values = {one["name"]: _metallic(one) for one in page.request.get(f"{api}/{own}/sets").json()}
    assert [name for name, value in values.items() if value != 0.5] == ["scale_01x"]

    # Delivered with four clicks, of which the first (all sets) is done.
    page.get_by_role("link", name="Deliver…").click()
    page.get_by_role("button", name=f"Select all cells of {ORM}").click()
    page.get_by_role("button", name=re.compile(r"^Deliver \d+ files")).click()
    last = page.get_by_role("button", name=re.compile(f"^scale_0.x for {re.escape(ORM)}: up to"))
    expect(last.first).to_be_visible(timeout=SLOW)
    expect(page.get_by_text("No jobs running")).to_be_visible(timeout=2 * SLOW)
    deliveries = page.request.get(f"{api}/{own}/deliveries").json()
    assert [(one["state"], one["counts"]["done"]) for one in deliveries] == [("done", COUNT)]
    folder = served.home / "deliveries" / own / "orm-y-down"
    assert len(list(folder.glob("*/manifest.json"))) == COUNT


def _recognized(page: Page, arrivals: str) -> None:
    """All files have come in and were looked at; the table shows only some rows at a time."""
    end = time.monotonic() + SLOW / 1000
    while True:
        table = page.request.get(arrivals).json()
        if len(table["rows"]) == 2 * COUNT and not table["waiting"]:
            return
        assert time.monotonic() < end, table["waiting"]
        page.wait_for_timeout(200)


def _normals(page: Page, served: Served, own: str) -> dict[str, str]:
    """The direction of green of each set's normal map."""
    found = page.request.get(f"{served.address}/api/v1/projects/{own}/sets").json()
    return {
        one["name"]: each["definition"]["normal_y"]
        for one in found for each in one["maps"] if each["kind"] == "normal"
    }  # fmt: skip


def _metallic(one: dict) -> float | None:
    held = next(each["definition"] for each in one["maps"] if each["kind"] == "metallic")
    return held["value"][0] if held["how"] == "constant" else None
