"""Intake in the browser: a drop with a correction that becomes a source card, a packed drop."""

from __future__ import annotations

import re
from collections.abc import Callable, Iterable
from pathlib import Path

import pytest
from playwright.sync_api import Page, expect

from copper_sieve.core.codecs import write_picture
from copper_sieve.demo.hammered_copper import draw_hammered_copper
from copper_sieve.demo.terrazzo_counter import draw_terrazzo_counter
from tests.e2e.conftest import Served
from tests.e2e.driving import SLOW

pytestmark = pytest.mark.browser


def _copper(folder: Path, name: str) -> list[Path]:
    """Lantern Row's copper as a download site gives it: alb, shine (it is gloss), nrm."""
    drawn = draw_hammered_copper()
    marks = {"base_color": "alb", "glossiness": "shine", "normal_dx": "nrm"}
    paths = []
    for part, mark in marks.items():
        path = folder / f"{name}_{mark}.png"
        write_picture(path, drawn[part], "png")
        paths.append(path)
    return paths


def _take_in(page: Page, paths: Iterable[Path]) -> None:
    paths = list(paths)
    page.get_by_label("Files to import").set_input_files([str(path) for path in paths])
    for path in paths:
        row = page.get_by_test_id(f"file-{path.name}")
        expect(row).to_have_attribute("data-state", "recognized", timeout=SLOW)


def test_a_correction_becomes_a_card_and_applies_to_the_next_drop(
    served: Served, open_page: Callable[[], Page], tmp_path: Path
) -> None:
    page = open_page()
    page.goto(f"{served.place}/intake")
    _take_in(page, _copper(tmp_path, "ladle"))
    normal = page.get_by_test_id("file-ladle_nrm.png")
    down = normal.get_by_role("button", name="Y− down, lit from above")
    expect(down).to_have_attribute("aria-pressed", "true")
    expect(normal).to_contain_text("measured, 99 % confidence")

    # "shine" is no word of the trade: it has to be said once.
    shine = page.get_by_label("Map of ladle_shine.png")
    shine.select_option(label="Glossiness")
    form = page.get_by_role("form", name="Save corrections as a source card")
    form.get_by_label("Source").fill("Coppersmiths' Alley")
    form.get_by_label("License").fill("CC BY 4.0")
    form.get_by_role("button", name="Create source card").click()
    expect(page.get_by_role("region", name="Set ladle")).to_contain_text(
        "source card Coppersmiths' Alley"
    )
    page.get_by_role("button", name=re.compile("Accept all")).click()
    expect(page.get_by_text("3 files added to ladle.")).to_be_visible()

    _take_in(page, _copper(tmp_path, "kettle"))
    offer = page.get_by_role("region", name="Source card Coppersmiths' Alley")
    expect(offer).to_contain_text("3 files seem to come from")
    expect(page.get_by_label("Map of kettle_shine.png")).not_to_have_value("glossiness")
    offer.get_by_role("button", name="Use source card").click()
    expect(page.get_by_label("Map of kettle_shine.png")).to_have_value("glossiness")
    page.keyboard.press("Shift+Enter")
    expect(page.get_by_text("3 files added to kettle.")).to_be_visible()
    sets = page.request.get(f"{served.address}/api/v1/projects/lantern-row/sets").json()
    kettle = next(one for one in sets if one["name"] == "kettle")
    maps = {one["kind"]: one["definition"] for one in kettle["maps"]}
    assert maps["normal"]["normal_y"] == "down"
    assert maps["roughness"]["operation"] == "roughness_from_glossiness"


def test_a_packed_texture_is_split_by_hand_and_by_eye(
    served: Served, open_page: Callable[[], Page], tmp_path: Path
) -> None:
    page = open_page()
    page.goto(f"{served.place}/intake")
    drawn = draw_terrazzo_counter()
    paths = []
    for part, name in (("base_color", "slab_color.png"), ("packed", "slab_channels.png")):
        write_picture(tmp_path / name, drawn[part], "png")
        paths.append(tmp_path / name)
    _take_in(page, paths)
    channels = page.get_by_role("group", name="Channels of slab_channels.png")
    expect(channels.get_by_role("img")).to_have_count(3)
    found = [
        channels.get_by_label(f"Map in channel {c} of slab_channels.png").input_value()
        for c in "RGB"
    ]
    assert found == ["roughness", "metallic", "ambient_occlusion"]
    expect(page.get_by_role("region", name="Set slab", exact=True)).to_contain_text("2 files")
    # Both into a set of another name, at once.
    page.get_by_label("Select all files of slab").check()
    page.get_by_label("Set of the selected files").fill("bar_slab")
    page.get_by_label("Set of the selected files").press("Enter")
    expect(page.get_by_role("region", name="Set bar_slab")).to_contain_text("2 files")
    page.get_by_role("button", name="none", exact=True).click()
    channels.get_by_label("Map in channel G of slab_channels.png").select_option("")
    expect(channels.get_by_label("Map in channel G of slab_channels.png")).to_have_value("")
    channels.get_by_label("Map in channel G of slab_channels.png").select_option("metallic")
    page.get_by_role("button", name="Accept all 2").click()
    expect(page.get_by_text("2 files added to bar_slab.")).to_be_visible()
    page.get_by_label(re.compile("show files in sets")).check()
    expect(page.get_by_role("region", name="Set bar_slab")).to_be_visible()


def test_several_files_dropped_on_the_tray_go_to_intake(
    served: Served, open_page: Callable[[], Page], tmp_path: Path
) -> None:
    page = open_page()
    page.goto(f"{served.place}/tray")
    paths = _copper(tmp_path, "tongs")
    broken = tmp_path / "tongs_ao.png"
    broken.write_bytes(paths[0].read_bytes()[:5000])
    page.get_by_label("Pictures to import").set_input_files([str(p) for p in [*paths, broken]])
    page.wait_for_url("**/intake")
    expect(page.get_by_role("alert")).to_contain_text("tongs_ao.png is truncated or corrupt")
    expect(page.get_by_role("region", name="Set tongs", exact=True)).to_contain_text("3 files")
    for path in paths:
        page.get_by_role("button", name=f"Remove {path.name} from Intake").click()
    expect(page.get_by_role("region", name="Set tongs", exact=True)).to_have_count(0)
