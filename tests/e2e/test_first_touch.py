"""What a new set shows before anybody moves a slider, and the few choices that change it."""

from __future__ import annotations

import re
from pathlib import Path

import numpy as np
import pytest
from PIL import Image
from playwright.sync_api import Page, expect

from tests.core.recognition.maps import relief
from tests.core.recognition.test_light import lit
from tests.e2e.conftest import Served
from tests.e2e.driving import (
    bench_of,
    drop,
    flat_key,
    read_set,
    screen,
    set_of,
    settled,
)

pytestmark = pytest.mark.browser


def photo_of(path: Path, color: np.ndarray) -> Path:
    Image.fromarray((np.clip(color, 0, 1) ** (1 / 2.2) * 255).astype(np.uint8)).save(path)
    return path


def test_relief_is_a_word_and_the_depth_follows(served: Served, page: Page, tmp_path: Path) -> None:
    photo = photo_of(tmp_path / "pebbles.png", lit(relief("stones", 11, 256), 40))
    bench_of(served, page, photo, "normal")
    surface = page.get_by_role("region", name="Surface")
    expect(surface.get_by_text("measured from the relief")).to_be_visible()
    expect(surface.get_by_text(re.compile(r"measured: tileable \(seam \d\.\d\d"))).to_be_visible()
    depth, tilt = (surface.get_by_role("textbox", name=name) for name in ("Depth", "Relief"))
    expect(tilt).to_have_value("6.0")
    usual, key = float(depth.input_value()), flat_key(page)
    surface.get_by_role("radio", name=re.compile("^high")).click()
    expect(tilt).to_have_value("18.0")
    expect(page.get_by_test_id("flat")).not_to_have_attribute("data-key", str(key))
    settled(page)
    assert float(depth.input_value()) > 2 * usual
    depth.fill("1.5")
    depth.press("Enter")
    expect(page.get_by_text("saved", exact=True)).to_be_visible()
    expect(surface.get_by_role("button", name=re.compile("set manually"))).to_be_visible()
    expect(surface.get_by_role("radio", name=re.compile("^high"))).not_to_be_checked()
    surface.get_by_role("button", name=re.compile("set manually")).click()
    expect(depth).not_to_have_value("1.5")
    assert float(depth.input_value()) > 2 * usual
    surface.get_by_role("radio", name=re.compile("horizontal")).click()
    expect(page.get_by_text("tileable horizontally")).to_be_visible()


def test_light_from_one_side_is_offered_in_both_readings(
    served: Served, page: Page, tmp_path: Path
) -> None:
    photo = photo_of(tmp_path / "low_sun.png", lit(relief("stones", 12, 256), 20))
    bench_of(served, page, photo, "height")
    readings = page.get_by_role("group", name=re.compile("Light direction in the photo"))
    first, second = (readings.get_by_role("button", name="°").nth(n) for n in (0, 1))
    expect(readings.get_by_role("button", name="none")).to_have_attribute("aria-pressed", "true")
    key = flat_key(page)
    second.click()
    expect(second).to_have_attribute("aria-pressed", "true")
    expect(page.get_by_test_id("flat")).not_to_have_attribute("data-key", str(key))
    first.click()
    expect(page.get_by_text("saved", exact=True)).to_be_visible()
    settled(page)
    given = read_set(page, served)["height"]["parameters"]
    assert given["shading"] > 0.5
    assert abs((given["light_direction"] - 20 + 90) % 180 - 90) <= 15


def test_a_dropped_photo_shows_its_readings_lit_and_one_click_takes_one(
    served: Served, page: Page, tmp_path: Path
) -> None:
    photo = photo_of(tmp_path / "quarry_wall.png", lit(relief("stones", 15, 256), 20))
    page.goto(f"{served.place}/tray")
    page.get_by_role("heading", level=1).first.wait_for()
    drop(page, photo)
    readings = page.get_by_role("region", name="Starting points")
    pictures = readings.get_by_role("button").filter(has=page.locator("img"))
    expect(pictures).to_have_count(4)
    assert len(set(pictures.locator("img").evaluate_all("all => all.map((one) => one.src)"))) == 4
    readings.get_by_role("button", name=re.compile("^high")).click()
    expect(readings).to_have_count(0)
    expect(page.get_by_text("saved", exact=True)).to_be_visible()
    kept = page.request.get(f"{served.address}/api/v1/sets/{set_of(page)}").json()
    assert kept["surface"]["relief"] == 18
    page.keyboard.press("q")
    readings.get_by_role("combobox", name="Material").click()
    page.get_by_role("option", name="wood").click()
    expect(page.get_by_text("saved", exact=True)).to_be_visible()
    assert read_set(page, served)["roughness"]["parameters"]["material"] == "wood"
    expect(readings.get_by_role("button", name=re.compile("^high"))).to_have_attribute(
        "aria-pressed", "true"
    )
    readings.get_by_role("radio", name="Invert").click()
    readings.get_by_role("button", name=re.compile("^on")).click()
    expect(page.get_by_text("saved", exact=True)).to_be_visible()
    assert read_set(page, served)["height"]["parameters"]["invert"] is True
    page.get_by_role("button", name="Undo", exact=True).click()
    expect(page.get_by_role("radiogroup", name="Invert").get_by_role("radio", name="Off")
           ).to_be_checked()  # fmt: skip


def test_the_arrow_of_the_photos_light_can_be_turned(
    served: Served, page: Page, tmp_path: Path
) -> None:
    photo = photo_of(tmp_path / "evening.png", lit(relief("stones", 16, 256), 60))
    bench_of(served, page, photo, "height")
    arrow = page.get_by_role("slider", name="Light direction in the photo")
    expect(arrow).to_have_attribute("aria-valuetext", re.compile("not used"))
    light = page.get_by_role("region", name="Light", exact=True)
    light.get_by_role("button", name="Compare").click()
    readings = page.get_by_role("region", name="Starting points")
    expect(readings.get_by_role("button").filter(has=page.locator("img"))).to_have_count(3)
    page.keyboard.press("Escape")
    expect(readings).to_have_count(0)
    box = arrow.bounding_box()
    assert box
    page.mouse.move(box["x"] + box["width"] / 2, box["y"] + 4)
    page.mouse.down()
    page.mouse.move(box["x"] + 4, box["y"] + box["height"] / 2)
    page.mouse.up()
    expect(page.get_by_text("saved", exact=True)).to_be_visible()
    settled(page)
    given = read_set(page, served)["height"]["parameters"]
    assert given["shading"] > 0.5
    assert abs(given["light_direction"] - 180) <= 4


def test_a_color_key_is_told_both_sides_and_says_its_doubt(
    served: Served, page: Page, tmp_path: Path
) -> None:
    color = np.empty((128, 128, 3))
    color[:, :64], color[:, 64:], color[:32] = (0.5, 0.25, 0.1), (0.1, 0.3, 0.1), (0.8, 0.8, 0.9)
    bench_of(served, page, photo_of(tmp_path / "copper_lid.png", color), "metallic")
    page.get_by_role("combobox", name="Source").click()
    page.get_by_role("option", name=re.compile("from base color")).click()
    for field, code in (("Colors: hex value", "#bc8859"), ("Exclude: hex value", "#599459")):
        page.get_by_role("textbox", name=field).fill(code)
        page.get_by_role("textbox", name=field).press("Enter")
    expect(page.get_by_text(re.compile(r"uncertain\s+2[45] %"))).to_be_visible()
    page.get_by_role("button", name="exclude", exact=True).click()
    expect(page.get_by_text(re.compile(r"selected\s+3[78] %, uncertain\s+0"))).to_be_visible()
    expect(page.get_by_text("saved", exact=True)).to_be_visible()
    others = read_set(page, served)["metallic"]["parameters"]["exclude"]
    assert others.startswith("#599459,#e6e6f")


def test_before_and_after_lie_under_the_same_light_in_one_drag(
    served: Served, page: Page, tmp_path: Path
) -> None:
    photo = photo_of(tmp_path / "cobbles.png", lit(relief("stones", 17, 128), 20))
    bench_of(served, page, photo, "base_color")
    page.get_by_role("radio", name="Plane").click()
    settled(page)
    page.get_by_role("combobox", name="Source").click()
    page.get_by_role("option", name="constant").click()
    expect(page.get_by_text("saved", exact=True)).to_be_visible()
    settled(page)
    shots = {}
    states = page.get_by_role("radiogroup", name="State")
    for name in ("A before", "B now", "Both"):
        states.get_by_role("radio", name=re.compile(f"^{name}")).click()
        if name == "Both":
            page.wait_for_function(
                """() => [...document.querySelectorAll('[data-testid="lit"] canvas')].every(
                    (one) => one.dataset.wanted && one.dataset.wanted === one.dataset.drawn)"""
            )
        shots[name] = screen(page, "Lit").astype(int)
    rows, columns = shots["Both"].shape[:2]
    middle = slice(rows // 4, rows // 2)
    left, right = slice(columns // 3, columns // 2 - 20), slice(columns // 2 + 20, columns * 2 // 3)
    for part, like, other in ((left, "A before", "B now"), (right, "B now", "A before")):
        wiped = shots["Both"][middle, part]
        near = np.abs(wiped - shots[like][middle, part]).mean()
        assert near < 2 < np.abs(wiped - shots[other][middle, part]).mean()
    edge = page.get_by_role("region", name="Lit view").get_by_role("slider", name="Compare divider")
    edge.press("ArrowRight")
    expect(edge).to_have_attribute("aria-valuenow", "52")
