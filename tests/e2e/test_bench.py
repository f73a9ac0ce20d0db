"""The Bench under the hand: light, keys, values, undo, other ways, two tabs."""

from __future__ import annotations

from collections.abc import Callable
from pathlib import Path

import numpy as np
import pytest
from PIL import Image
from playwright.sync_api import Page, expect

from tests.conftest import MakePhoto
from tests.e2e.conftest import Served
from tests.e2e.driving import bench_of, choose, flat_key, screen, settled

pytestmark = pytest.mark.browser


@pytest.mark.parametrize("by", ["worker", "page"])
def test_bumps_are_lit_from_where_the_lamp_is(
    served: Served, page: Page, tmp_path: Path, by: str
) -> None:
    if by == "page":  # as a browser that cannot give a canvas to a worker
        page.add_init_script("delete HTMLCanvasElement.prototype.transferControlToOffscreen")
    y, x = np.mgrid[-1:1:256j, -1:1:256j]
    bump = np.exp(-(x * x + y * y) / 0.1)
    codes = (90 + 130 * bump).astype(np.uint8)
    Image.fromarray(np.repeat(codes[:, :, None], 3, axis=2)).save(tmp_path / "bump.png")
    bench_of(served, page, tmp_path / "bump.png")
    expect(page.locator("[data-testid=lit] canvas")).to_have_attribute("data-drawn-by", by)
    choose(page, "Environment", "Court at noon")  # where the lamp counts more than the sky
    page.get_by_role("radio", name="Plane").click()
    lamp = page.get_by_role("slider", name="Light")
    box = lamp.bounding_box()
    assert box
    found = {}
    for side, (dx, dy) in {"left": (6, 27), "right": (48, 27), "top": (27, 6)}.items():
        page.mouse.click(box["x"] + dx, box["y"] + dy)
        lit = screen(page, "Lit").mean(axis=2)
        middle = lit[lit.shape[0] // 2 - 60 : lit.shape[0] // 2 + 60, :]
        middle = middle[:, lit.shape[1] // 2 - 60 : lit.shape[1] // 2 + 60]
        found[side] = middle
    across = {side: part[:, :55].mean() - part[:, 65:].mean() for side, part in found.items()}
    assert across["left"] > 5 > -5 > across["right"]
    assert found["top"][:55].mean() - found["top"][65:].mean() > 5


def test_keys_move_sliders_and_settings_survive_a_reload(
    served: Served, page: Page, make_photo: MakePhoto
) -> None:
    bench_of(served, page, make_photo("keys.png", seed=13), "normal")
    strength = page.get_by_role("textbox", name="Intensity")
    assert strength.input_value() == "1.00"
    page.get_by_role("slider", name="Intensity").focus()
    page.keyboard.press("ArrowRight")
    assert strength.input_value() == "1.05"
    page.keyboard.press("Shift+ArrowRight")
    expect(strength).to_have_value("1.55")
    strength.fill("2,5")
    strength.press("Enter")
    expect(strength).to_have_value("2.50")
    settled(page)
    expect(page.get_by_text("saved", exact=True)).to_be_visible()
    page.reload()
    expect(strength).to_have_value("2.50")
    page.get_by_role("slider", name="Intensity").dblclick()
    expect(strength).to_have_value("1.00")
    page.get_by_role("region", name="Relief").get_by_role("radio", name="On").click()
    settled(page)
    page.get_by_role("button", name="Reset all").click()
    expect(
        page.get_by_role("region", name="Relief").get_by_role("radio", name="Off")
    ).to_be_checked()


def test_maps_are_added_and_taken_out(served: Served, page: Page, make_photo: MakePhoto) -> None:
    bench_of(served, page, make_photo("glow.png", seed=19), "height")
    expect(page.get_by_role("button", name="Remove map")).to_be_disabled()  # it feeds others
    page.get_by_role("button", name="Add map").click()
    page.get_by_role("menuitem", name="Emissive", exact=True).click()
    page.wait_for_url("**/emissive")  # its drawer is there with its address, pictures or not
    choose(page, "Source", "constant")
    green = page.get_by_role("textbox", name="G", exact=True)
    before = screen(page, "Lit")
    green.fill("1")
    green.press("Enter")
    settled(page)
    brighter = screen(page, "Lit") - before
    assert brighter[:, :, 1].mean() > 10 > abs(brighter[:, :, 2].mean())
    page.get_by_role("button", name="Remove map").click()
    expect(page.get_by_role("link", name="Emissive")).to_have_count(0)
    page.get_by_role("button", name="Undo").click()
    expect(page.get_by_role("link", name="Emissive")).to_be_visible()


def test_wiping_against_another_map_and_against_what_it_was(
    served: Served, page: Page, tmp_path: Path
) -> None:
    codes = np.full((64, 128, 3), 60, np.uint8)
    codes[:, 64:] = 180
    Image.fromarray(codes).save(tmp_path / "wiped.png")
    bench_of(served, page, tmp_path / "wiped.png", "metallic")
    field = page.get_by_role("textbox", name="Metallic")
    field.fill("1")
    field.press("Enter")
    settled(page)
    page.get_by_role("radio", name="Compare").click()
    edge = page.get_by_role("slider", name="Compare divider")
    # Left of the edge what it is now (white), right of it what it was at first (black).
    middle = screen(page, "Flat")
    row = middle[middle.shape[0] // 2, :, 0]
    assert row[100] == 255
    assert row[-100] == 0
    edge.focus()
    for _ in range(10):
        page.keyboard.press("ArrowLeft")
    moved = screen(page, "Flat")[middle.shape[0] // 2, :, 0]
    assert moved[int(len(moved) * 0.4)] == 0  # the edge went from a half to three tenths
    page.get_by_role("combobox", name="Compare with").click()
    page.get_by_role("option", name="Base color").click()
    color = screen(page, "Flat")[middle.shape[0] // 2, :, 0]
    assert abs(int(color[-100]) - 180) <= 1


def test_a_map_by_another_way_and_back_keeps_its_settings(
    served: Served, page: Page, make_photo: MakePhoto, tmp_path: Path
) -> None:
    bench_of(served, page, make_photo("ways.png", seed=18), "roughness")
    middle = page.get_by_role("textbox", name="Median")
    middle.fill("0.9")
    middle.press("Enter")

    choose(page, "Source", "constant")
    field = page.get_by_role("textbox", name="Roughness")
    field.fill("0.25")
    field.press("Enter")
    Image.fromarray(np.full((48, 64), 200, np.uint8)).save(tmp_path / "mine.png")
    with page.expect_file_chooser() as chooser:
        choose(page, "Source", "imported picture")
    chooser.value.set_files(tmp_path / "mine.png")
    expect(page.get_by_text("mine.png")).to_be_visible()
    settled(page)
    flat = screen(page, "Flat")
    assert np.abs(flat[flat.shape[0] // 2, flat.shape[1] // 2] - 200).max() <= 1
    choose(page, "Source", "from base color and height")
    expect(middle).to_have_value("0.900")
    choose(page, "Source", "constant")
    expect(field).to_have_value("0.250")
    expect(page.get_by_text("saved", exact=True)).to_be_visible()
    page.reload()
    choose(page, "Source", "imported picture")
    expect(page.get_by_text("mine.png")).to_be_visible()


def test_undo_and_redo_survive_a_reload(served: Served, page: Page, make_photo: MakePhoto) -> None:
    bench_of(served, page, make_photo("undone.png", seed=17), "normal")
    first = flat_key(page)
    field = page.get_by_role("textbox", name="Intensity")
    undo, redo = (page.get_by_role("button", name=name) for name in ("Undo", "Redo"))
    expect(undo).to_be_disabled()
    for value in ("2", "3"):
        field.fill(value)
        with page.expect_response(lambda answer: answer.request.method == "PUT"):
            field.press("Enter")
    page.get_by_role("slider", name="Intensity").focus()
    page.keyboard.press("Control+z")
    expect(field).to_have_value("2.00")
    page.reload()
    expect(field).to_have_value("2.00")
    undo.click()
    expect(field).to_have_value("1.00")
    expect(undo).to_be_disabled()
    settled(page)
    assert flat_key(page) == first
    page.keyboard.press("Control+Shift+z")
    expect(field).to_have_value("2.00")
    redo.click()
    expect(field).to_have_value("3.00")
    expect(redo).to_be_disabled()


def test_the_read_out_tells_value_and_meaning(served: Served, page: Page, tmp_path: Path) -> None:
    codes = np.zeros((64, 64, 3), np.uint8)
    codes[:, 32:] = (255, 128, 0)
    Image.fromarray(codes).save(tmp_path / "halves.png")
    bench_of(served, page, tmp_path / "halves.png", "base_color")
    flat = settled(page).bounding_box()
    assert flat
    page.mouse.move(flat["x"] + flat["width"] / 2 + 40, flat["y"] + flat["height"] / 2)
    read_out = page.get_by_role("region", name="Flat view").locator("output")
    expect(read_out).to_contain_text("255 128 0")
    expect(read_out).to_contain_text("reflectance 36.7 %")  # 0.2126 + 0.7152 * 0.2159
    page.get_by_role("radio", name="8 : 1").click()
    page.get_by_role("radio", name="G", exact=True).click()
    assert np.abs(screen(page, "Flat")[200, 500] - 128).max() <= 1


def test_a_constant_replaces_nothing_but_its_value(
    served: Served, page: Page, make_photo: MakePhoto
) -> None:
    bench_of(served, page, make_photo("iron.png", seed=14), "metallic")
    before = screen(page, "Lit")
    field = page.get_by_role("textbox", name="Metallic")
    field.fill("1")
    field.press("Enter")
    settled(page)
    assert np.abs(screen(page, "Lit") - before).mean() > 2
    expect(page.get_by_role("link", name="Metallic")).to_contain_text("1")


def test_two_tabs_do_not_overwrite_each_other(
    served: Served, open_page: Callable[[], Page], make_photo: MakePhoto
) -> None:
    first, second = open_page(), open_page()
    bench_of(served, first, make_photo("shared.png", seed=15), "metallic")
    second.goto(first.url)
    settled(second)
    for page, value in ((first, "0.5"), (second, "0.9")):
        field = page.get_by_role("textbox", name="Metallic")
        field.fill(value)
        with page.expect_response(lambda answer: answer.request.method == "PUT"):
            field.press("Enter")
    alert = second.get_by_role("alert")
    expect(alert).to_contain_text("Someone else changed this")
    alert.get_by_role("button", name="Load theirs").click()
    expect(second.get_by_role("textbox", name="Metallic")).to_have_value("0.500")
