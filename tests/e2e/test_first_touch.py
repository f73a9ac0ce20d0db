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
from tests.e2e.driving import bench_of, flat_key, read_set, settled

pytestmark = pytest.mark.browser


def photo_of(path: Path, color: np.ndarray) -> Path:
    Image.fromarray((np.clip(color, 0, 1) ** (1 / 2.2) * 255).astype(np.uint8)).save(path)
    return path


def test_relief_is_a_word_and_the_depth_follows(served: Served, page: Page, tmp_path: Path) -> None:
    photo = photo_of(tmp_path / "pebbles.png", lit(relief("stones", 11, 256), 40))
    bench_of(served, page, photo, "normal")
    surface = page.get_by_role("region", name="The surface, for all maps")
    expect(surface.get_by_text("by measure, from the relief")).to_be_visible()
    expect(surface.get_by_text(re.compile(r"measured: tiles both ways, \d\.\d\d"))).to_be_visible()
    depth, tilt = (surface.get_by_role("textbox", name=name) for name in ("Depth", "Relief"))
    expect(tilt).to_have_value("6.0")
    usual, key = float(depth.input_value()), flat_key(page)
    surface.get_by_role("radio", name=re.compile("^rough")).click()
    expect(tilt).to_have_value("18.0")
    expect(page.get_by_test_id("flat")).not_to_have_attribute("data-key", str(key))
    settled(page)
    assert float(depth.input_value()) > 2 * usual
    depth.fill("1.5")
    depth.press("Enter")
    expect(page.get_by_text("saved", exact=True)).to_be_visible()
    expect(surface.get_by_role("button", name="by measure again")).to_be_visible()
    expect(surface.get_by_role("radio", name=re.compile("^rough"))).not_to_be_checked()
    surface.get_by_role("button", name="by measure again").click()
    expect(depth).not_to_have_value("1.5")
    assert float(depth.input_value()) > 2 * usual
    surface.get_by_role("radio", name=re.compile("meet across only")).click()
    expect(page.get_by_text("tiles across")).to_be_visible()


def test_light_from_one_side_is_offered_in_both_readings(
    served: Served, page: Page, tmp_path: Path
) -> None:
    photo = photo_of(tmp_path / "low_sun.png", lit(relief("stones", 12, 256), 20))
    bench_of(served, page, photo, "height")
    readings = page.get_by_role("group", name=re.compile("lit from one side"))
    first, second = (readings.get_by_role("button").nth(n) for n in (0, 1))
    expect(readings.get_by_role("button", name="neither")).to_have_attribute("aria-pressed", "true")
    key = flat_key(page)
    second.click()
    expect(second).to_have_attribute("aria-pressed", "true")
    expect(page.get_by_test_id("flat")).not_to_have_attribute("data-key", str(key))
    first.click()
    expect(page.get_by_text("saved", exact=True)).to_be_visible()
    settled(page)
    given = read_set(page, served)["height"]["parameters"]
    assert given["shading"] > 0.5
    assert abs((given["light_from"] - 20 + 90) % 180 - 90) <= 15
