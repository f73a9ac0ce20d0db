"""Tiles by number: taken in as one set, seen on one sheet and on their model, delivered."""

from __future__ import annotations

import io
import re
import zipfile
from pathlib import Path

import numpy as np
import pytest
from PIL import Image
from playwright.sync_api import Page, expect

from copper_sieve.core.codecs import write_picture
from copper_sieve.demo.yard_wall import WALL_TILES, wall_pictures
from tests.e2e.conftest import Served
from tests.e2e.driving import SLOW, screen, settled
from tests.e2e.test_accessible import violations

pytestmark = pytest.mark.browser
_SIDE = 128


def _tiles(folder: Path) -> list[Path]:
    """The wall's eight files under another name, smaller."""
    paths = []
    for name, picture in wall_pictures(_SIDE).items():
        path = folder / f"{name.replace('yard_wall', 'zz_wall')}.png"
        write_picture(path, picture, "png")
        paths.append(path)
    return paths


def test_tiles_are_taken_in_together_and_delivered_one_by_one(
    served: Served, page: Page, tmp_path: Path
) -> None:
    paths = _tiles(tmp_path)
    page.goto(f"{served.place}/intake")
    page.get_by_label("Files to import").set_input_files([str(path) for path in paths])
    group = page.get_by_role("region", name="Set zz_wall")
    expect(group.get_by_role("img", name="tiles 1001, 1002, 1011, 1012")).to_be_visible()
    for path in paths:
        row = page.get_by_test_id(f"file-{path.name}")
        expect(row).to_have_attribute("data-state", "recognized", timeout=SLOW)
        number = path.stem.rpartition(".")[2]
        expect(row.get_by_label(f"Tile of {path.name}")).to_have_value(number)
    # One of them is taken back, and said to be a tile again.
    last = page.get_by_test_id("file-zz_wall_height.1012.png")
    last.get_by_role("button", name="not a tile").click()
    expect(page.get_by_role("region", name="Set zz_wall_1012")).to_be_visible()
    last.get_by_role("button", name="use as tile 1012").click()
    expect(group.get_by_text("8 files")).to_be_visible()
    assert violations(page) == []
    page.get_by_role("button", name=re.compile("Accept all")).click()
    expect(page.get_by_text("8 files added to zz_wall.")).to_be_visible()

    sets = page.request.get(f"{served.address}/api/v1/projects/lantern-row/sets").json()
    made = next(one["id"] for one in sets if one["name"] == "zz_wall")
    page.goto(f"{served.place}/bench/{made}/base_color")
    settled(page)
    expect(page.get_by_text(f"4 tiles of {_SIDE} × {_SIDE}")).to_be_visible()
    expect(page.get_by_test_id("tiles")).to_contain_text("1011")
    page.get_by_role("link", name="Deliver…").click()
    page.get_by_role("button", name="Select all cells of zz_wall").click()
    cell = page.get_by_role("cell", name="zz_wall_normal.1012.png", exact=True)
    expect(cell.first).to_be_visible(timeout=SLOW)


def test_the_sheet_lies_on_its_model_and_the_files_hold_its_tiles(
    served: Served, page: Page, tmp_path: Path
) -> None:
    api = f"{served.address}/api/v1/projects/lantern-row"
    sets = page.request.get(f"{api}/sets").json()
    wall = next(one for one in sets if one["name"] == "yard_wall")
    assert wall["sheet"]["numbers"] == list(WALL_TILES)
    page.goto(f"{served.place}/bench/{wall['id']}/base_color")
    settled(page)
    page.get_by_test_id("lit").locator("canvas").wait_for(timeout=SLOW)
    seen = screen(page, "Lit").astype(int)
    height, width = seen.shape[:2]
    upper = seen[int(height * 0.3), width // 2]
    lower = seen[int(height * 0.72), int(width * 0.47)]
    assert upper.min() > 100  # lime plaster
    assert lower[0] > 1.5 * lower[2]  # bricks: the lower tiles lie below
    page.keyboard.press("d")  # the relief moves the wall's surface
    moved = screen(page, "Lit").astype(int)
    assert (np.abs(moved - seen).max(axis=2) > 12).mean() > 0.002
    page.get_by_role("radio", name="1012", exact=True).click()
    expect(page.get_by_text("yard_wall_base_color.1012.png")).to_be_visible()
    body = {"set_ids": [wall["id"]], "target_ids": ["separate-png"]}
    asked = page.request.post(f"{api}/deliveries", data=body)
    assert asked.ok, asked.text()
    page.goto(f"{served.place}/deliveries/{asked.json()['id']}")
    link = page.get_by_role("link", name="Download zip")
    link.wait_for(timeout=SLOW)
    with page.expect_download() as waiting:
        link.click()
    waiting.value.save_as(tmp_path / "wall.zip")
    with zipfile.ZipFile(tmp_path / "wall.zip") as found:
        files = {name.rsplit("/", 1)[-1]: found.read(name) for name in found.namelist()}
    for number in WALL_TILES:
        given = wall_pictures()[f"yard_wall_base_color.{number}"]
        with Image.open(io.BytesIO(files[f"yard_wall_base_color.{number}.png"])) as picture:
            assert np.array_equal(np.asarray(picture), given.codes)
