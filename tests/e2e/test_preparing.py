"""Preparing in the browser: a photo from Intake made to tile, places set on the picture."""

from __future__ import annotations

import json
import re
from pathlib import Path

import numpy as np
import pytest
from playwright.sync_api import FloatRect, Locator, Page, expect

from copper_sieve.core.codecs import write_picture
from copper_sieve.core.image.raster import Encoding, Picture
from copper_sieve.core.operations.prepare.measure_seams import seam_visibility
from copper_sieve.demo.tatami_weave import draw_tatami_weave
from tests.e2e.conftest import Served
from tests.e2e.driving import SLOW, bench_of, flat_key, settled

pytestmark = pytest.mark.browser


def _set(page: Page, served: Served) -> dict:
    set_id = page.url.split("/bench/")[1].split("/")[0]
    return page.request.get(f"{served.address}/api/v1/sets/{set_id}").json()


def _base_color(page: Page, served: Served) -> np.ndarray:
    """Codes of the set as it is kept, (H, W, 3) float."""
    set_id = page.url.split("/bench/")[1].split("/")[0]
    body = {"kinds": ["base_color"], "longer_side": 1024, "window": "test"}
    content = page.request.post(f"{served.address}/api/v1/sets/{set_id}/previews", data=body).body()
    length = int.from_bytes(content[:4], "little")
    one = json.loads(content[4 : 4 + length])["maps"]["base_color"]
    codes = np.frombuffer(content, np.uint8, one["bytes"], 4 + length)
    return codes.reshape(one["height"], one["width"], 3).astype(np.float32) / 255


def _large_light(picture: np.ndarray) -> float:
    """How much the light differs over an eighth of the picture."""
    side = 8
    rows, columns = (n // side * side for n in picture.shape[:2])
    blocks = picture[:rows, :columns].mean(axis=2).reshape(side, rows // side, side, -1)
    return float(blocks.mean(axis=(1, 3)).std())


def _saved(page: Page) -> None:
    expect(page.get_by_role("status").filter(has_text="saved")).to_be_visible()
    settled(page)


def _drag(page: Page, handle: Locator, dx: float, dy: float) -> None:
    box = handle.bounding_box()
    assert box
    x, y = box["x"] + box["width"] / 2, box["y"] + box["height"] / 2
    page.mouse.move(x, y)
    page.mouse.down()
    for n in range(1, 6):
        page.mouse.move(x + dx * n / 5, y + dy * n / 5)
    page.mouse.up()


def test_a_photo_from_intake_is_made_to_tile(served: Served, page: Page, tmp_path: Path) -> None:
    photo = tmp_path / "tea_mat_photo.png"
    write_picture(photo, draw_tatami_weave(), "png")
    page.goto(f"{served.place}/intake")
    page.get_by_label("Files to import").set_input_files(str(photo))
    row = page.get_by_test_id(f"file-{photo.name}")
    expect(row).to_have_attribute("data-state", "recognized", timeout=SLOW)
    expect(page.get_by_label(f"Map of {photo.name}")).to_have_value("base_color")
    page.keyboard.press("Shift+Enter")
    expect(page.get_by_text("1 file added to tea_mat.")).to_be_visible()
    sets = page.request.get(f"{served.address}/api/v1/projects/lantern-row/sets").json()
    set_id = next(one["id"] for one in sets if one["name"] == "tea_mat")

    _close_the_seams(served, page, set_id)


def _close_the_seams(served: Served, page: Page, set_id: int) -> None:
    page.goto(f"{served.place}/bench/{set_id}/height")
    settled(page)
    page.get_by_role("link", name="Source ◇ unchanged").click()
    settled(page)
    before = _base_color(page, served)
    assert seam_visibility(before).visibility > 5

    seams = page.get_by_role("radiogroup", name="Make tileable")
    even = page.get_by_role("textbox", name="Delight")
    even.fill("90")
    even.press("Enter")
    _saved(page)
    best = seams.get_by_role("radio").filter(has_text="suggested")
    expect(best).to_be_enabled(timeout=SLOW)
    # Neither seam nor contrast; the rushes themselves do not meet exactly, and it is said.
    assert re.search(r"suggested[01]\.\d\d\d+ %△1\d %", best.text_content() or "")
    best.click()
    expect(page.get_by_text("tileable")).to_be_visible()
    expect(page.get_by_role("radio", name="Tiled 2×2")).to_have_attribute("data-state", "on")
    expect(page.get_by_role("link", name="Source ◆ 2 steps")).to_be_visible()
    _saved(page)

    after = _base_color(page, served)
    assert seam_visibility(after).visibility <= 1.15
    assert _large_light(after) < 0.35 * _large_light(before)
    one = _set(page, served)
    assert one["prepare"]["seams"]["by_measure"]
    assert (one["width"], one["height"]) == after.shape[1::-1]
    # As many texels to the metre as before.
    assert one["width"] / one["prepared_surface"]["tile_size"] == pytest.approx(1024, rel=0.01)

    # A crop changes what is measured; the way by measure follows, and both are undone in one.
    crop = page.get_by_role("textbox", name="Crop right")
    crop.fill("80")
    crop.press("Enter")
    overlap = one["prepare"]["seams"]["overlap"]
    for _ in range(100):
        now = _set(page, served)["prepare"]
        if now["frame"]["crop"][2] == 0.8 and now["seams"]["overlap"] != overlap:
            break
        page.wait_for_timeout(200)
    assert now["seams"]["overlap"] != overlap
    _saved(page)
    assert seam_visibility(_base_color(page, served)).visibility <= 1.15
    page.get_by_role("button", name="Undo").click()
    expect(page.get_by_role("textbox", name="Crop right")).to_have_value("100.0")
    assert _set(page, served)["prepare"] == one["prepare"]


def _bolted(path: Path) -> Path:
    """A woven mat of 400 x 300 with a dark blue bolt at 60 %, 40 %."""
    y, x = np.mgrid[0:300, 0:400]
    weave = 0.5 + 0.2 * np.sin(x / 4) * np.cos(y / 5) + 0.04 * np.sin(x / 31 + y / 17)
    codes = (weave[:, :, None] * np.array([220, 190, 130])).astype(np.uint8)
    codes[np.hypot(x - 240, y - 120) < 9] = (10, 20, 90)
    write_picture(path, Picture(codes, ("R", "G", "B"), Encoding.SRGB), "png")
    return path


def test_places_are_set_on_the_picture(served: Served, page: Page, tmp_path: Path) -> None:
    bench_of(served, page, _bolted(tmp_path / "bolted_mat.png"), "prepare")
    source = page.get_by_role("region", name="Source picture")

    def blue() -> float:
        codes = _base_color(page, served)
        return float((codes[:, :, 2] - codes[:, :, 0]).max())

    assert blue() > 0.2
    page.get_by_role("button", name="Mark blemishes").click()
    surface = source.get_by_role("button", name="Source picture: draw around a blemish")
    box = surface.bounding_box()
    assert box
    spot = page.get_by_role("textbox", name="Spot size")
    spot.fill("4")
    spot.press("Enter")
    page.mouse.click(box["x"] + 0.6 * box["width"], box["y"] + 0.4 * box["height"])
    expect(source.get_by_role("button", name="Remove mark 1")).to_be_visible()
    page.keyboard.press("Escape")
    _saved(page)
    assert blue() < 0.05

    # Taken off again it is there again; the keys mark as well as the hand.
    page.get_by_role("button", name="Mark blemishes").click()
    source.get_by_role("button", name="Remove mark 1").click()
    surface.focus()
    for key in ["ArrowRight"] * 10 + ["ArrowUp"] * 10 + ["Enter"]:
        page.keyboard.press(key)
    expect(source.get_by_role("button", name="Remove mark 1")).to_be_visible()
    page.get_by_role("button", name="Done").click()
    _saved(page)
    assert blue() < 0.05
    outline = np.array(_set(page, served)["prepare"]["marks"][0]["outline"])
    np.testing.assert_allclose(outline.mean(axis=0), (0.6, 0.4), atol=0.01)

    _drag_a_corner(served, page, source, box)
    _crop(served, page, source)
    _measure_with_the_ruler(served, page)


def _drag_a_corner(served: Served, page: Page, source: Locator, box: FloatRect) -> None:
    """By hand, then nudged by a key."""
    key = flat_key(page)
    page.get_by_role("button", name="Corners", exact=True).click()
    corner = source.get_by_role("button", name="Top left corner")
    corner.wait_for()
    _drag(page, corner, 30, 20)
    corner.focus()
    page.keyboard.press("ArrowRight")
    page.get_by_role("button", name="Done").click()
    _saved(page)
    corners = _set(page, served)["prepare"]["frame"]["corners"]
    assert corners[1:] == [[1, 0], [1, 1], [0, 1]]
    assert corners[0][0] == pytest.approx(30 / box["width"] + 0.002, abs=0.005)
    assert corners[0][1] == pytest.approx(20 / box["height"], abs=0.005)
    assert flat_key(page) != key


def _crop(served: Served, page: Page, source: Locator) -> None:
    """On the straightened picture."""
    page.get_by_role("button", name="Crop", exact=True).click()
    _drag(page, source.get_by_role("button", name="Bottom right of the crop"), -60, -40)
    page.keyboard.press("Escape")
    _saved(page)
    one = _set(page, served)
    left, top, right, bottom = one["prepare"]["frame"]["crop"]
    assert (left, top) == (0, 0)
    assert 0.8 < right < 0.95
    assert 0.8 < bottom < 0.97
    expect(page.get_by_role("status", name="Result")).to_contain_text(
        f"{one['width']} × {one['height']}"
    )


def _measure_with_the_ruler(served: Served, page: Page) -> None:
    """A ruler over half of the width says how wide it all is."""
    page.get_by_role("button", name="Reset frame").click()
    _saved(page)
    page.get_by_role("button", name="Ruler").click()
    length = page.get_by_role("textbox", name="Length of the ruler")
    length.fill("0.3")
    length.press("Enter")
    _saved_width = page.get_by_role("status", name="Result")
    expect(_saved_width).to_contain_text("0.60 m")
    page.get_by_role("button", name="Done").click()
    _saved(page)
    assert _set(page, served)["prepared_surface"]["tile_size"] == pytest.approx(0.6)
    page.get_by_role("button", name="Rotate right").click()
    _saved(page)
    assert _set(page, served)["prepared_surface"]["tile_size"] == pytest.approx(0.45, rel=0.01)
    assert (_set(page, served)["width"], _set(page, served)["height"]) == (300, 400)
