"""The Bench's ways of deriving: picked metal, a blended normal, cut-outs, recipes, comparing."""

from __future__ import annotations

import json
from pathlib import Path

import numpy as np
import pytest
from PIL import Image
from playwright.sync_api import Page, expect

from copper_sieve.cli.__main__ import main
from tests.conftest import MakePhoto
from tests.e2e.conftest import Served
from tests.e2e.driving import SLOW, bench_of, choose, flat_key, read_set, screen, settled
from tests.e2e.test_accessible import violations

pytestmark = pytest.mark.browser


def _halves(path: Path, left: tuple[int, int, int], right: tuple[int, int, int]) -> Path:
    codes = np.zeros((128, 128, 3), np.uint8)
    codes[:, :64], codes[:, 64:] = left, right
    Image.fromarray(codes).save(path)
    return path


def _click_in_flat(page: Page, across: float) -> None:
    """Click in the picture, so far from its middle in halves of its width; it fills the height."""
    box = page.get_by_test_id("flat").bounding_box()
    assert box
    half = min(box["width"], box["height"]) / 2
    page.mouse.click(box["x"] + box["width"] / 2 + across * half, box["y"] + box["height"] / 2)


def _middle_row(page: Page) -> np.ndarray:
    shot = screen(page, "Flat")[:, :, 0]
    return shot[shot.shape[0] // 2]


def test_picking_a_color_makes_it_metal(served: Served, page: Page, tmp_path: Path) -> None:
    bench_of(served, page, _halves(tmp_path / "rivets.png", (184, 115, 51), (90, 96, 100)),
             "metallic")  # fmt: skip
    choose(page, "Source", "from base color")
    settled(page)
    assert _middle_row(page)[200:400].max() < 30  # nothing picked yet: no metal anywhere
    page.get_by_role("button", name="Colors: pick").click()
    expect(page.get_by_text("Click in base color to pick")).to_be_visible()
    _click_in_flat(page, -0.5)
    expect(page.get_by_role("button", name="Remove #b87333")).to_be_visible()
    page.keyboard.press("Escape")
    settled(page)
    row = _middle_row(page)
    middle = len(row) // 2
    assert row[middle - 90 : middle - 10].min() == 255
    assert row[middle + 10 : middle + 90].max() == 0
    # A second color, typed; then the first is taken away again, and undo brings it back.
    typed = page.get_by_role("textbox", name="Colors: hex value")
    typed.fill("5a6064")
    typed.press("Enter")
    settled(page)
    assert _middle_row(page)[middle + 10 : middle + 90].min() == 255
    page.get_by_role("button", name="Remove #b87333").click()
    settled(page)
    assert _middle_row(page)[middle - 90 : middle - 10].max() == 0
    page.keyboard.press("Control+z")
    expect(page.get_by_role("button", name="Remove #b87333")).to_be_visible()


def test_a_derived_normal_becomes_a_blend_with_an_imported_one(
    served: Served, page: Page, make_photo: MakePhoto, tmp_path: Path
) -> None:
    bench_of(served, page, make_photo("plaster.png", seed=41), "normal")
    bumps = tmp_path / "bumps.png"
    main(["derive", str(make_photo("b.png", seed=42)), "--from", "height", "--to", "normal",
          "--normal-y", "down", "--out", str(bumps)])  # fmt: skip
    page.get_by_role("button", name="Blend").click()
    expect(page.get_by_role("slider", name="Second intensity")).to_have_count(0)  # nothing yet
    plain, key = screen(page, "Flat"), flat_key(page)
    page.get_by_role("combobox", name="Second normal").click()
    with page.expect_file_chooser() as chooser:
        page.get_by_role("option", name="a picture…").click()
    chooser.value.set_files(bumps)
    expect(page.get_by_role("combobox", name="Second normal")).to_contain_text("bumps.png")
    settled(page)
    assert flat_key(page) != key
    field = page.get_by_role("textbox", name="Second intensity")
    field.fill("0.2")
    field.press("Enter")
    page.get_by_role("radio", name="Y−").click()
    choose(page, "Blend mode", "reorient")
    settled(page)
    expect(page.get_by_text("saved", exact=True)).to_be_visible()
    normal = read_set(page, served)["normal"]
    assert normal["operation"] == "normal_from_height"
    assert normal["parameters"] == {"weight": 0.2, "blend_mode": "reorient"}
    assert normal["slots"]["second"]["normal_y"] == "down"
    page.reload()
    expect(page.get_by_role("textbox", name="Second intensity")).to_have_value("0.20")
    choose(page, "Second normal", "none")
    settled(page)
    np.testing.assert_array_equal(screen(page, "Flat")[60:-60], plain[60:-60])


def test_tiled_views_repeat_the_picture(served: Served, page: Page, tmp_path: Path) -> None:
    path = _halves(tmp_path / "tiles.png", (0, 0, 0), (255, 255, 255))
    bench_of(served, page, path, "base_color")

    def edges() -> int:
        row = _middle_row(page)
        inside = row[(row < 20) | (row > 235)]
        return int(np.sum(np.abs(np.diff((inside > 127).astype(int)))))

    counts = []
    for layout in ("Single", "Tiled 2×2", "3×3"):
        page.get_by_role("radio", name=layout).click()
        counts.append(edges())
    assert counts == [1, 3, 5]


def test_a_black_and_white_picture_cuts_holes_that_the_light_shows(
    served: Served, page: Page, make_photo: MakePhoto, tmp_path: Path
) -> None:
    bench_of(served, page, make_photo("lace.png", seed=43), "base_color")
    page.get_by_role("radio", name="Plane").click()
    whole = screen(page, "Lit")
    page.get_by_role("button", name="Add map").click()
    page.get_by_role("menuitem", name="Opacity", exact=True).click()
    page.wait_for_url("**/opacity")  # another map's drawer is there until then
    settled(page)
    page.get_by_role("combobox", name="Source").click()
    with page.expect_file_chooser() as chooser:
        page.get_by_role("option", name="black is transparent").click()
    holes = _halves(tmp_path / "holes.png", (255, 255, 255), (40, 40, 40))
    chooser.value.set_files(holes)
    expect(page.get_by_role("slider", name="Threshold")).to_be_visible()
    settled(page)
    cut = screen(page, "Lit")
    ground = np.array([119, 119, 119])
    rows, columns = cut.shape[:2]
    right = cut[rows // 2 - 60 : rows // 2 + 60, columns // 2 + 20 : columns // 2 + 80]
    assert np.abs(right - ground).mean() < 6  # one sees the ground through the hole
    assert np.abs(whole[rows // 2, columns // 2 + 50] - ground).max() > 10
    field = page.get_by_role("textbox", name="Threshold")
    field.fill("0.1")
    field.press("Enter")
    settled(page)
    right = screen(page, "Lit")[rows // 2 - 60 : rows // 2 + 60, columns // 2 + 20 :]
    assert np.abs(right[:, :60] - ground).mean() > 6  # 40 of 255 lies above the threshold now


def test_a_recipe_is_saved_applied_exported_and_brought_back(
    served: Served, page: Page, make_photo: MakePhoto
) -> None:
    bench_of(served, page, make_photo("second.png", seed=45), "roughness")
    second = page.url
    bench_of(served, page, make_photo("first.png", seed=44), "roughness")
    field = page.get_by_role("textbox", name="Median")
    field.fill("0.31")
    field.press("Enter")
    expect(page.get_by_text("saved", exact=True)).to_be_visible()
    page.keyboard.press("Escape")
    page.get_by_role("button", name="Recipes…").click()
    name = page.get_by_role("textbox", name="Name of the recipe")
    name.fill("Wet stone")
    page.get_by_role("button", name="Save", exact=True).click()
    recipes = page.get_by_role("region", name="Saved recipes")
    expect(recipes.get_by_text("Wet stone")).to_be_visible()
    page.get_by_role("button", name="Save", exact=True).click()  # a taken name is not lost unasked
    expect(page.get_by_role("button", name="Replace").first).to_be_visible()
    with page.expect_download() as download:
        recipes.get_by_role("link", name="Export Wet stone").click()
    assert download.value.suggested_filename == "Wet_stone.recipe.json"
    exported = json.loads(Path(download.value.path()).read_text())
    assert exported["maps"]["roughness"]["parameters"] == {"median": 0.31}

    page.goto(second)
    settled(page)
    expect(page.get_by_role("textbox", name="Median")).to_have_value("0.700")
    page.get_by_role("button", name="Recipes…").click()
    page.get_by_role("button", name="Apply to this set").first.click()
    page.get_by_role("button", name="Close").first.click()
    expect(page.get_by_role("textbox", name="Median")).to_have_value("0.310")
    page.get_by_role("button", name="Undo").click()
    expect(page.get_by_role("textbox", name="Median")).to_have_value("0.700")

    page.get_by_role("button", name="Recipes…").click()
    recipes.get_by_role("button", name="Delete Wet stone").click()
    expect(recipes.get_by_text("Wet stone")).to_have_count(0)
    exported["maps"]["roughness"]["parameters"] = {"median": 0.44}
    file = {"name": "r.json", "mimeType": "application/json",
            "buffer": json.dumps(exported).encode()}  # fmt: skip
    page.get_by_label("Recipe file").set_input_files(file)
    expect(recipes.get_by_text("Wet stone")).to_be_visible()
    others = page.get_by_role("region", name="Apply these settings to other sets")
    others.get_by_role("checkbox", name="first", exact=True).check()
    others.get_by_role("button", name="Apply to 1 set").click()
    expect(page.get_by_role("status").filter(has_text="first: ")).to_be_visible()


def test_sets_on_the_tray_get_a_recipe_together(
    served: Served, page: Page, make_photo: MakePhoto
) -> None:
    for seed in (46, 47):
        bench_of(served, page, make_photo(f"row{seed}.png", seed=seed), "roughness")
    choose(page, "Source", "constant")
    expect(page.get_by_text("saved", exact=True)).to_be_visible()
    page.get_by_role("button", name="Recipes…").click()
    page.get_by_role("textbox", name="Name of the recipe").fill("Even")
    page.get_by_role("button", name="Save", exact=True).click()
    expect(page.get_by_text("Even was saved.")).to_be_visible()
    page.goto(f"{served.place}/tray?find=row4")
    for name in ("row46", "row47"):
        page.get_by_role("checkbox", name=f"Select {name}").check()
    page.get_by_role("button", name="Apply recipe…").click()
    row = page.get_by_role("listitem").filter(has_text="Even")
    row.get_by_role("button", name="Preview…").click()
    wall = page.get_by_role("dialog")
    card = wall.get_by_role("button", name="row47, before")
    for words in ("before", "after"):
        expect(card.get_by_role("img", name=f"row47, {words}")).to_be_visible(timeout=SLOW)
    assert violations(page) == []
    card.click()  # it stays
    expect(wall.get_by_text("1 of 2 selected")).to_be_visible()
    wall.get_by_role("button", name="Change 1 set").click()
    expect(page.get_by_role("status").filter(has_text="1 set: recipe Even.")).to_be_visible()
    cell = page.get_by_role("row", name="row46").get_by_role("link", name="Roughness, constant")
    expect(cell).to_be_visible()


def test_two_states_under_the_same_light(served: Served, page: Page, make_photo: MakePhoto) -> None:
    bench_of(served, page, make_photo("states.png", seed=48), "normal")
    first = screen(page, "Lit")
    field = page.get_by_role("textbox", name="Intensity")
    field.fill("8")
    field.press("Enter")
    settled(page)
    now = screen(page, "Lit")
    assert np.abs(now - first).mean() > 1
    page.get_by_role("radio", name="A before").click()
    page.mouse.move(5, 400)
    assert np.abs(screen(page, "Lit") - first)[60:-80].mean() < 0.5
    page.get_by_role("radio", name="B now").click()
    page.get_by_role("button", name="Set A", exact=True).click()
    field.fill("0")
    field.press("Enter")
    settled(page)
    page.keyboard.press("Escape")
    page.get_by_role("heading", name="states").click()
    page.keyboard.press("x")
    expect(page.get_by_role("radio", name="A stored")).to_be_checked()
    page.mouse.move(5, 400)
    assert np.abs(screen(page, "Lit") - now)[60:-80].mean() < 0.5


def test_surroundings_shapes_and_displacement(
    served: Served, page: Page, make_photo: MakePhoto
) -> None:
    bench_of(served, page, make_photo("around.png", seed=49), "height")
    seen = [screen(page, "Lit")]
    for around in ("Court at noon", "Room at night"):
        choose(page, "Environment", around)
        page.wait_for_timeout(600)
        seen.append(screen(page, "Lit"))
    yard, noon, night = (one[100:340, 150:450] for one in seen)
    assert np.abs(noon - yard).mean() > 3
    assert np.abs(night - noon).mean() > 3
    assert night.mean() < yard.mean() - 10  # night is darker
    depth = page.get_by_role("textbox", name="Depth")
    depth.fill("100")
    depth.press("Enter")
    settled(page)
    page.get_by_role("radio", name="Cylinder").click()
    flat = screen(page, "Lit")
    page.get_by_role("button", name="Displacement").click()
    displaced = screen(page, "Lit")
    assert np.abs(displaced - flat)[60:-80].mean() > 1
    page.get_by_role("radio", name="Cloth").click()
    assert np.abs(screen(page, "Lit") - displaced)[60:-80].mean() > 1


def test_the_histogram_tells_what_is_implausible(
    served: Served, page: Page, tmp_path: Path
) -> None:
    bench_of(served, page, _halves(tmp_path / "snow.png", (250, 250, 250), (120, 120, 120)),
             "base_color")  # fmt: skip
    page.get_by_role("button", name="Histogram").click()
    figure = page.get_by_role("figure", name="Histogram")
    expect(figure).to_contain_text("0.0 % below 30, 50 % above 240")
    choose(page, "Source", "delighted photo")
    settled(page)
    expect(figure).to_contain_text("0.0 % above 240")
    page.keyboard.press("3")
    settled(page)
    expect(figure).to_contain_text("R, G and B")


def test_everything_is_in_reach_of_the_keys(
    served: Served, page: Page, make_photo: MakePhoto
) -> None:
    bench_of(served, page, make_photo("reach.png", seed=50), "height")
    page.keyboard.press("Control+k")
    field = page.get_by_role("combobox", name="Search commands")
    expect(field).to_be_focused()
    field.fill("show rough")
    page.keyboard.press("Enter")
    page.wait_for_url("**/roughness")
    page.keyboard.press("?")
    keys = page.get_by_role("dialog", name="Keyboard shortcuts")
    expect(keys.get_by_text("Flat view: single, tiled, compare")).to_be_visible()
    page.keyboard.press("Escape")
    expect(keys).to_have_count(0)
    page.keyboard.press("2")
    page.wait_for_url("**/height")
    page.keyboard.press("t")
    expect(page.get_by_role("radio", name="Tiled 2×2")).to_be_checked()
    page.keyboard.press("s")
    expect(page.get_by_role("radio", name="Cube")).to_be_checked()
    # Keys typed into a field stay in the field.
    page.get_by_role("textbox", name="Contrast").press("t")
    expect(page.get_by_role("radio", name="Tiled 2×2")).to_be_checked()
    page.keyboard.press("Escape")
    page.get_by_role("heading", name="reach").click()
    page.keyboard.press("Control+1")
    page.wait_for_url("**/tray")


@pytest.mark.parametrize(("as_what", "kind"), [("height", "height"), ("normal", "normal")])
def test_a_set_starts_from_height_or_normals(
    served: Served, page: Page, make_photo: MakePhoto, as_what: str, kind: str
) -> None:
    page.goto(f"{served.place}/tray")
    choose(page, "On drop", as_what)
    photo = make_photo(f"from_{kind}.png", seed=60 + len(kind) + (kind == "normal"))
    page.get_by_label("Pictures to import").set_input_files(photo)
    page.wait_for_url("**/bench/*/height")
    settled(page)
    maps = read_set(page, served)
    assert maps[kind]["how"] == "imported"
    made = {name for name, one in maps.items() if one["how"] == "derived"}
    assert {"height", "normal", "ambient_occlusion"} - {kind} <= made
