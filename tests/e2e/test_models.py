"""The asset itself: a model dropped, its sets lit on it, maps taken from it, delivered in it."""

from __future__ import annotations

import io
import json
import re
import zipfile
from pathlib import Path

import numpy as np
import pytest
from PIL import Image
from playwright.sync_api import Page, expect

from copper_sieve.core.codecs import write_picture
from copper_sieve.core.codecs.meshes.reading import read_model
from copper_sieve.core.image.raster import Encoding, Picture
from copper_sieve.demo.patches import write_model
from tests.api.test_models import named
from tests.core.mesh.solids import ball, floor
from tests.core.test_panorama import spot
from tests.e2e.conftest import Served
from tests.e2e.driving import (
    SLOW,
    bench_of,
    drawn,
    drop,
    read_set,
    screen,
    set_of,
    settled,
)
from tests.e2e.test_accessible import violations

pytestmark = pytest.mark.browser
_GROUND = 119  # of picture windows


def _model(folder: Path, name: str = "zz_globe.glb") -> Path:
    """A ball above a floor, each of its own material; the floor's islands lie over each other, and
    one of them is mirrored."""
    path = folder / name
    radius = 0.5 - sum(map(ord, name)) % 97 / 2000  # the same bytes would be the same model
    write_model(path, [named(ball(radius, rings=24, uv=(0.1, 0.1, 0.8, 0.5)), "zz_globe"),
                       named(floor(0.9, 2, height=-0.55), "zz_ground"),
                       named(floor(0.5, 1, uv=(1.0, 0.0, -1.0, 1.0), height=-0.54), "zz_ground"),
                       ])  # fmt: skip
    return path


def _bench(served: Served, page: Page, folder: Path, name: str) -> None:
    """Drop a model, make sets of its materials, and go to the ball's Bench."""
    page.goto(f"{served.place}/models")
    drop(page, _model(folder, name))
    card = page.get_by_role("listitem", name=name)
    card.get_by_role("button", name="Create 2 sets").click()
    card.get_by_role("link", name="zz_globe").first.click(timeout=SLOW)
    settled(page)


def test_a_dropped_model_tells_what_is_wrong_in_its_uvs(
    served: Served, page: Page, tmp_path: Path
) -> None:
    page.goto(f"{served.place}/models")
    drop(page, _model(tmp_path, "uvs.glb"))
    card = page.get_by_role("listitem", name="uvs.glb")
    expect(card.get_by_text("2,218 triangles")).to_be_visible(timeout=SLOW)
    islands = card.get_by_role("region", name="UV islands of zz_globe, uvs.glb")
    expect(islands.get_by_text("No UV problems found.")).to_be_visible()
    card.get_by_role("button", name="zz_ground").click()
    card.get_by_role("button", name="is covered more than once").click()
    expect(card.get_by_role("img", name="UV view: overlaps")).to_be_visible()
    card.get_by_role("button", name="islands are mirrored").click()
    expect(card.get_by_role("img", name="UV view: mirrored")).to_be_visible()
    assert violations(page) == []
    # Another file of that kind cannot be read, and says why.
    broken = tmp_path / "broken.glb"
    broken.write_bytes(_model(tmp_path, "uvs.glb").read_bytes()[:200])
    drop(page, broken)
    expect(page.get_by_text("broken.glb isn't a valid glTF file")).to_be_visible(timeout=SLOW)


def test_a_set_is_lit_on_its_model_and_takes_occlusion_from_it(
    served: Served, page: Page, tmp_path: Path
) -> None:
    _bench(served, page, tmp_path, "lit.glb")
    expect(page.get_by_role("link", name="lit.glb · zz_globe")).to_be_visible()
    expect(page.get_by_role("radio", name="Model")).to_be_checked()
    seen = screen(page, "Lit")
    height, width = seen.shape[:2]
    middle = seen[height // 2 - 20 : height // 2 + 20, width // 2 - 20 : width // 2 + 20]
    assert middle.mean() > _GROUND + 15  # the ball, lit
    assert abs(int(seen[height // 2, 20].mean()) - _GROUND) <= 1  # beside it
    page.get_by_role("button", name="Add map").click()
    page.get_by_role("menuitem", name="Occlusion").click()
    settled(page)
    assert read_set(page, served)["ambient_occlusion"] == {
        "how": "derived", "operation": "ambient_occlusion_from_model", "parameters": {}, "slots": {}
    }  # fmt: skip
    # The ball's top sees the sky, its underside the floor; v runs down.
    shade = screen(page, "Flat")[:, :, 0]
    column = shade[:, shade.shape[1] // 2]
    assert column[70:100].min() > 245
    assert column.min() < 120
    lit = screen(page, "Lit")
    assert lit[height * 2 // 3, width // 2].mean() < seen[height * 2 // 3, width // 2].mean() - 2


def test_a_point_of_the_map_is_marked_on_the_model(
    served: Served, page: Page, tmp_path: Path
) -> None:
    _bench(served, page, tmp_path, "marked.glb")
    expect(page.get_by_role("radiogroup", name="Overlay")).to_be_visible(timeout=SLOW)
    page.keyboard.press("i")
    expect(page.get_by_test_id("islands")).to_have_attribute("data-shows", "outline")
    before = screen(page, "Lit")
    box = page.get_by_test_id("flat").bounding_box()
    assert box
    page.mouse.move(box["x"] + box["width"] / 2, box["y"] + 130)
    drawn(page)
    assert np.abs(screen(page, "Lit") - before).max() > 20
    page.keyboard.press("i")
    expect(page.get_by_test_id("islands")).to_have_attribute("data-shows", "density")
    page.keyboard.press("i")
    expect(page.get_by_test_id("islands")).to_have_count(0)


def test_the_lit_window_is_saved_as_a_picture_of_any_size(
    served: Served, page: Page, tmp_path: Path
) -> None:
    _bench(served, page, tmp_path, "pictured.glb")
    window = screen(page, "Lit")
    page.get_by_role("button", name="Environment settings").click()
    field = page.get_by_role("textbox", name="Width of the picture in pixels")
    field.fill("320")
    field.press("Enter")
    with page.expect_download() as caught:
        page.get_by_role("button", name="Save picture").click()
    path = tmp_path / "lit.png"
    caught.value.save_as(path)
    page.keyboard.press("Escape")
    picture = np.asarray(Image.open(path).convert("RGB")).astype(int)
    height, width = window.shape[:2]
    assert picture.shape[1] == 320
    assert abs(picture.shape[0] - 320 * height / width) <= 1
    # What the window shows, without its controls: the same in the middle, and grey in the corners.
    small = np.asarray(Image.fromarray(window.astype(np.uint8)).resize(picture.shape[1::-1]))
    rows, columns = (slice(n * 3 // 8, n * 5 // 8) for n in picture.shape[:2])
    assert np.abs(small[rows, columns] - picture[rows, columns]).mean() < 4
    assert np.abs(picture[:20, :20] - _GROUND).max() <= 1
    assert np.abs(screen(page, "Lit") - window).mean() < 0.5  # and the window is as it was


def test_a_tie_is_changed_by_hand_and_undone(served: Served, page: Page, tmp_path: Path) -> None:
    page.goto(f"{served.place}/models")
    drop(page, _model(tmp_path, "tied.glb"))
    card = page.get_by_role("listitem", name="tied.glb")
    card.get_by_role("combobox", name="Set for zz_globe").click()
    page.get_by_role("option", name="paper_lantern").click()
    card.get_by_role("link", name="paper_lantern").click()
    settled(page)
    expect(page.get_by_role("link", name="tied.glb · zz_globe")).to_be_visible()
    expect(page.get_by_role("radio", name="Model")).to_be_checked()
    page.get_by_role("button", name="Undo").click()
    expect(page.get_by_role("link", name="tied.glb · zz_globe")).to_have_count(0)
    expect(page.get_by_role("radio", name="Sphere")).to_be_checked()


def test_the_model_is_delivered_with_its_textures(
    served: Served, page: Page, tmp_path: Path
) -> None:
    _bench(served, page, tmp_path, "sent.glb")
    set_id = int(page.url.split("/bench/")[1].split("/")[0])
    body = {"set_ids": [set_id], "target_ids": ["gltf-metal-rough"], "longer_side": 64}
    asked = page.request.post(
        f"{served.address}/api/v1/projects/lantern-row/deliveries", data=json.dumps(body),
        headers={"content-type": "application/json"},
    )  # fmt: skip
    page.goto(f"{served.place}/deliveries/{asked.json()['id']}")
    models = page.get_by_role("region", name="Models with these textures")
    inside = "sent.glb with 1 set for glTF metal/rough embedded"
    expect(models).to_contain_text(inside, timeout=SLOW)
    expect(models).to_contain_text("missing zz_ground")
    with page.expect_download() as caught:
        models.get_by_role("link", name="Download sent.gltf-metal-rough.glb").click()
    path = tmp_path / "back.glb"
    caught.value.save_as(path)
    assert read_model(path).count == read_model(_model(tmp_path, "sent.glb")).count
    page.goto(f"{served.place}/models")
    drop(page, path)  # and what came out goes in again
    expect(page.get_by_role("listitem", name="back.glb")).to_be_visible(timeout=SLOW)


def test_a_delivery_is_padded_around_the_islands_of_its_model(
    served: Served, page: Page, tmp_path: Path
) -> None:
    """Paint beyond the islands is in no file: what lies there has grown out of them."""
    side, painted = 128, tmp_path / "zz_painted_base_color.png"
    codes = np.full((side, side, 3), (200, 0, 200), np.uint8)
    rows, columns = slice(12, 77), slice(12, 116)  # what the ball's UVs touch, see _model
    codes[rows, columns] = (30, 150, 60)
    codes[rows, :, 2] += np.arange(rows.stop - rows.start, dtype=np.uint8)[:, None]
    Image.fromarray(codes).save(painted)
    bench_of(served, page, painted, "base_color")
    page.goto(f"{served.place}/models")
    drop(page, _model(tmp_path, "padded.glb"))
    card = page.get_by_role("listitem", name="padded.glb")
    card.get_by_role("combobox", name="Set for zz_globe").click()
    page.get_by_role("option", name="zz_painted").click()
    card.get_by_role("link", name="zz_painted").click()
    settled(page)
    page.get_by_role("link", name="Deliver…").click()
    page.get_by_role("button", name="Select all cells of zz_painted").click()
    page.get_by_role("button", name=re.compile(r"^Deliver \d+ files")).click()
    link = page.get_by_role("link", name="Download zip")
    link.wait_for(timeout=SLOW)
    with page.expect_download() as waiting:
        link.click()
    waiting.value.save_as(tmp_path / "padded.zip")
    with zipfile.ZipFile(tmp_path / "padded.zip") as found:
        name = next(n for n in found.namelist() if re.search("base_?color.*png", n, re.I))
        written = np.asarray(Image.open(io.BytesIO(found.read(name))).convert("RGB"))
    inside = (slice(14, 75), slice(14, 114))
    assert np.array_equal(written[inside], codes[inside])  # nothing is changed where it counts
    assert written.shape == codes.shape
    assert np.abs(written[..., :2].astype(int) - (30, 150)).max() == 0  # no magenta anywhere
    # The nearest covered texel: of the first rows above, of the last ones below.
    shades = written[:, 20:108, 2].astype(int)
    assert shades[0].min() >= 60
    assert shades[0].max() <= 63
    assert shades[-1].min() >= 121  # 60 + 64 in the last one


def _highlight(toward: np.ndarray, turn: float) -> np.ndarray:
    """Where a mirror ball of radius 1 shows a place, once the surrounding is turned: x, y (up)."""
    angle = np.radians(turn)
    x, y, z = toward
    turned = np.array([np.cos(angle) * x + np.sin(angle) * z, y,
                       -np.sin(angle) * x + np.cos(angle) * z])  # fmt: skip
    halfway = turned + np.array([0, 0, 1])
    return np.asarray((halfway / np.linalg.norm(halfway))[:2])


def test_an_own_surrounding_lights_the_set_and_is_turned(
    served: Served, page: Page, tmp_path: Path
) -> None:
    """Its bright place is mirrored where the law of reflection has it, before and after a turn."""
    toward = np.array([0.3, 0.35, 0.89])
    path = tmp_path / "one_lamp.hdr"
    light = spot((0.3, 0.35, 0.89), size=0.12)
    write_picture(path, Picture(light, ("R", "G", "B"), Encoding.LINEAR), "hdr")
    photo = tmp_path / "chrome.png"
    Image.fromarray(np.full((32, 32, 3), 230, np.uint8)).save(photo)
    bench_of(served, page, photo, "metallic")
    address = f"{served.address}/api/v1/sets/{set_of(page)}"
    kept = page.request.get(address).json()
    values = {"base_color": [0.8, 0.8, 0.8], "metallic": [1.0], "roughness": [0.1]}
    mirror = {kind: {"how": "constant", "value": value} for kind, value in values.items()}
    body = {"version": kept["version"], "surface": kept["surface"], "maps": mirror}
    assert page.request.put(address, data=body).ok
    page.reload()
    settled(page)
    page.get_by_role("radio", name="Sphere").click()
    page.get_by_role("button", name="Environment settings").click()
    page.get_by_label("Environment file").set_input_files(path)
    expect(page.get_by_role("combobox", name="Environment", exact=True)).to_contain_text("one_lamp")
    page.keyboard.press("Escape")
    page.get_by_role("slider", name="Light", exact=True).press("ArrowLeft")  # by hand: it stays
    before = screen(page, "Lit").mean(axis=2)
    for _ in range(4):
        page.keyboard.press("]")
    expect(page.get_by_role("slider", name="Environment rotation")).to_have_attribute(
        "aria-valuenow", "60"
    )
    after = screen(page, "Lit").mean(axis=2)
    height, width = before.shape
    # The sphere's radius on the screen: 1 at a distance of 4.6, seen by an eye of 30 degrees.
    radius = height / 2 / np.tan(np.radians(15)) / np.sqrt(4.6**2 - 1)
    for gained, turn in ((before - after, 0), (after - before, 60)):
        bright = np.maximum(gained - 40, 0)
        bright[:60], bright[-60:] = 0, 0  # controls
        rows, columns = np.nonzero(bright)
        weight = bright[rows, columns]
        at = np.array([(columns * weight).sum(), (rows * weight).sum()]) / weight.sum()
        seen = (at - [width / 2, height / 2]) / radius * [1, -1]
        np.testing.assert_allclose(seen, _highlight(toward / np.linalg.norm(toward), turn),
                                   atol=0.1)  # fmt: skip


def test_two_surroundings_are_seen_beside_each_other(
    served: Served, page: Page, tmp_path: Path
) -> None:
    photo = tmp_path / "plaster.png"
    Image.fromarray(np.full((32, 32, 3), 200, np.uint8)).save(photo)
    bench_of(served, page, photo, "height")
    page.get_by_role("radio", name="Plane").click()
    page.get_by_role("button", name="Environment settings").click()
    page.get_by_role("combobox", name="Environment of the second half").click()
    page.get_by_role("option", name="Room at night").click()
    page.keyboard.press("Escape")
    window = page.get_by_role("region", name="Lit view")
    expect(window.get_by_text("Room at night")).to_be_visible()
    expect(window.locator("canvas")).to_have_count(2)
    page.wait_for_function(
        "() => [...document.querySelectorAll('[data-testid=lit] canvas')]"
        ".every((one) => one.dataset.wanted === one.dataset.drawn)",
        timeout=SLOW,
    )
    shot = screen(page, "Lit").mean(axis=2)
    height, width = shot.shape
    rows = slice(height * 2 // 5, height * 3 // 5)
    left = shot[rows, width * 3 // 8 : width * 15 // 32].mean()
    right = shot[rows, width * 17 // 32 : width * 5 // 8].mean()
    assert right > left + 15  # by day, and by one lamp at night
