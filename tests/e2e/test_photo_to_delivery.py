"""One photo through the real interface: dropped, tuned, delivered, fetched, checked."""

from __future__ import annotations

import base64
import io
import json
import shutil
import zipfile
from collections.abc import Callable
from pathlib import Path

import numpy as np
import pytest
from PIL import Image
from playwright.sync_api import Locator, Page, expect

from tests.conftest import MakePhoto
from tests.e2e.conftest import Served

pytestmark = pytest.mark.browser
SLOW = 60_000
expect.set_options(timeout=20_000)


def drop(page: Page, path: Path) -> None:
    """Drop a file on the page as the desktop would."""
    page.evaluate(
        """([name, data]) => {
            const bytes = Uint8Array.from(atob(data), (c) => c.charCodeAt(0));
            const transfer = new DataTransfer();
            transfer.items.add(new File([bytes], name));
            const how = { dataTransfer: transfer, bubbles: true, cancelable: true };
            for (const type of ["dragenter", "dragover", "drop"])
                document.body.dispatchEvent(new DragEvent(type, how));
        }""",
        [path.name, base64.b64encode(path.read_bytes()).decode()],
    )


def settled(page: Page) -> Locator:
    """The flat window once it shows the draft at full size."""
    flat = page.locator('[data-testid="flat"][data-settled="true"][data-key]')
    flat.wait_for(timeout=SLOW)
    return flat


def flat_key(page: Page) -> str | None:
    return page.locator('[data-testid="flat"]').get_attribute("data-key")


def drawn(page: Page) -> str | None:
    """What the lit window shows, once it shows what it should."""
    page.wait_for_function(
        """() => {
            const { wanted, drawn } = document.querySelector('[data-testid="lit"]').dataset;
            return wanted.trim() && wanted === drawn;
        }""",
        timeout=SLOW,
    )
    return page.locator('[data-testid="lit"]').get_attribute("data-drawn")


def screen(page: Page, window: str) -> np.ndarray:
    """What a window shows, as it is on the screen: (H, W, 3) int."""
    drawn(page)
    region = page.get_by_role("region", name=f"{window} window")
    before = b""
    for _ in range(40):  # until two pictures in a row are the same
        page.wait_for_timeout(200)
        shot = region.screenshot()
        if shot == before:
            break
        before = shot
    return np.asarray(Image.open(io.BytesIO(before)).convert("RGB")).astype(int)


def test_drop_a_photo_move_a_slider_deliver_and_check_the_zip(
    served: Served, page: Page, make_photo: MakePhoto, tmp_path: Path
) -> None:
    photo = make_photo("garden_path.png", size=(256, 256), seed=11)
    page.goto(f"{served.place}/tray")
    expect(page.get_by_role("link", name="tatami_weave")).to_be_visible()
    drop(page, photo)
    page.wait_for_url("**/bench/*/height", timeout=SLOW)
    expect(page.get_by_role("heading", name="garden_path")).to_be_visible()
    settled(page)

    # A slider changes flat and lit while it moves, before the hand lets go.
    first = flat_key(page), drawn(page)
    lit_before = screen(page, "Lit")
    np.testing.assert_array_equal(screen(page, "Lit"), lit_before)
    thumb = page.get_by_role("slider", name="Contrast").bounding_box()
    assert thumb
    x, y = thumb["x"] + thumb["width"] / 2, thumb["y"] + thumb["height"] / 2
    page.mouse.move(x, y)
    page.mouse.down()
    page.mouse.move(x + 20, y, steps=4)
    page.wait_for_function(
        """([flat, lit]) => {
            const data = (id) => document.querySelector(`[data-testid="${id}"]`).dataset;
            return data("flat").key !== flat && data("lit").drawn !== lit;
        }""",
        arg=list(first),
        timeout=SLOW,
    )
    assert np.abs(screen(page, "Lit") - lit_before).max() > 10  # unchanged, it is exactly 0
    middle = flat_key(page)
    page.mouse.move(x + 45, y, steps=4)
    page.wait_for_function(
        "(old) => document.querySelector('[data-testid=flat]').dataset.key !== old",
        arg=middle,
        timeout=SLOW,
    )
    page.mouse.up()
    settled(page)
    expect(page.get_by_text("saved", exact=True)).to_be_visible()
    contrast = float(page.get_by_role("textbox", name="Contrast").input_value())
    assert contrast > 1.2

    # Read what will be written, deliver, watch, fetch.
    page.get_by_role("link", name="Deliver…").click()
    for target in ("glTF metal/rough", "ORM packed"):
        page.get_by_role("checkbox", name=target).check()
    for name in ("T_garden_path_ORM.tga", "garden_path.glb", "garden_path_normal.png"):
        expect(page.get_by_role("cell", name=name, exact=True)).to_be_visible()
    assert not (served.home / "deliveries" / "lantern-row" / "orm-y-down" / "garden_path").exists()
    page.get_by_role("button", name="Deliver 9 files").click()
    link = page.get_by_role("link", name="Download zip")
    link.wait_for(timeout=SLOW)
    expect(page.get_by_text("proven", exact=True)).to_be_visible()
    with page.expect_download() as waiting:
        link.click()
    waiting.value.save_as(tmp_path / "out.zip")

    with zipfile.ZipFile(tmp_path / "out.zip") as found:
        files = {name: found.read(name) for name in found.namelist()}
    codes = {
        name.rsplit("/", 1)[-1]: np.asarray(Image.open(io.BytesIO(data))).astype(int)
        for name, data in files.items()
        if name.endswith((".tga", ".png"))
    }
    source = np.asarray(Image.open(photo)).astype(int)
    np.testing.assert_array_equal(codes["T_garden_path_BC.tga"], source)
    np.testing.assert_array_equal(codes["garden_path_base_color.png"], source)
    np.testing.assert_array_equal(codes["T_garden_path_ORM.tga"], codes["garden_path_orm.png"])
    down, up = codes["T_garden_path_N.tga"], codes["garden_path_normal.png"]
    np.testing.assert_array_equal(down, np.where([0, 1, 0], 255 - up, up))
    assert (codes["garden_path_orm.png"][:, :, 2] == 0).all()
    manifest = json.loads(files["orm-y-down/garden_path/manifest.json"])
    height = manifest["maps"]["height"]["definition"]["parameters"]
    assert height["contrast"] == pytest.approx(contrast, abs=0.006)

    # The Tray knows it, and the folder holds the same files as the zip.
    page.goto(f"{served.place}/tray")
    row = page.get_by_role("row", name="garden_path")
    expect(row.get_by_text("delivered")).to_have_count(2)
    folder = served.home / "deliveries" / "lantern-row"
    for name, data in files.items():
        assert (folder / name).read_bytes() == data


@pytest.mark.parametrize(
    ("name", "data", "says"),
    [
        ("letter.png", b"Dear artist, this is no picture.", "letter.png is no picture"),
        ("nothing.png", b"", "nothing.png is an empty file"),
        ("half.jpg", None, "half.jpg is cut short or damaged"),
    ],
)
def test_bad_files_are_refused_on_the_page_and_the_server_stays(
    served: Served,
    page: Page,
    make_photo: MakePhoto,
    tmp_path: Path,
    name: str,
    data: bytes | None,
    says: str,
) -> None:
    if data is None:
        whole = make_photo("whole.jpg", size=(300, 300)).read_bytes()
        data = whole[: len(whole) // 2]
    path = tmp_path / name
    path.write_bytes(data)
    page.goto(f"{served.place}/tray")
    drop(page, path)
    alert = page.get_by_role("alert")
    expect(alert).to_contain_text(says, timeout=SLOW)
    assert page.request.get(f"{served.address}/api/health").ok


def test_the_same_photo_twice_opens_the_set_that_is_there(
    served: Served, page: Page, make_photo: MakePhoto
) -> None:
    photo = make_photo("stone.png", seed=12)
    page.goto(f"{served.place}/tray")
    drop(page, photo)
    page.wait_for_url("**/bench/*/height", timeout=SLOW)
    address = page.url
    page.goto(f"{served.place}/tray")
    page.get_by_label("Pictures to take in").set_input_files(photo)
    page.wait_for_url("**/bench/*/height", timeout=SLOW)
    assert page.url == address
    expect(page.get_by_role("status").filter(has_text="already here, as stone")).to_be_visible()


def bench_of(served: Served, page: Page, photo: Path, kind: str = "height") -> None:
    """Take a photo in and open its Bench."""
    answer = page.request.post(
        f"{served.address}/api/projects/lantern-row/sources?name={photo.name}",
        data=photo.read_bytes(),
        headers={"content-type": "application/octet-stream"},
    )
    page.goto(f"{served.place}/bench/{answer.json()['set_id']}/{kind}")
    settled(page)


def test_bumps_are_lit_from_where_the_lamp_is(served: Served, page: Page, tmp_path: Path) -> None:
    y, x = np.mgrid[-1:1:256j, -1:1:256j]
    bump = np.exp(-(x * x + y * y) / 0.1)
    codes = (90 + 130 * bump).astype(np.uint8)
    Image.fromarray(np.repeat(codes[:, :, None], 3, axis=2)).save(tmp_path / "bump.png")
    bench_of(served, page, tmp_path / "bump.png")
    page.get_by_role("radio", name="Plane").click()
    lamp = page.get_by_role("slider", name="Lamp")
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
    strength = page.get_by_role("textbox", name="Strength")
    assert strength.input_value() == "1.00"
    page.get_by_role("slider", name="Strength").focus()
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
    page.get_by_role("slider", name="Strength").dblclick()
    expect(strength).to_have_value("1.00")
    page.get_by_role("radio", name="Yes").click()
    settled(page)
    page.get_by_role("button", name="All as at first").click()
    expect(page.get_by_role("radio", name="No")).to_be_checked()


def test_a_map_by_another_way_and_back_keeps_its_settings(
    served: Served, page: Page, make_photo: MakePhoto, tmp_path: Path
) -> None:
    bench_of(served, page, make_photo("ways.png", seed=18), "roughness")
    middle = page.get_by_role("textbox", name="Middle")
    middle.fill("0.9")
    middle.press("Enter")

    def choose(way: str) -> None:
        page.get_by_role("combobox", name="Made").click()
        page.get_by_role("option", name=way).click()

    choose("one value")
    field = page.get_by_role("textbox", name="Roughness")
    field.fill("0.25")
    field.press("Enter")
    Image.fromarray(np.full((48, 64), 200, np.uint8)).save(tmp_path / "mine.png")
    with page.expect_file_chooser() as chooser:
        choose("a picture")
    chooser.value.set_files(tmp_path / "mine.png")
    expect(page.get_by_text("mine.png")).to_be_visible()
    settled(page)
    flat = screen(page, "Flat")
    assert np.abs(flat[flat.shape[0] // 2, flat.shape[1] // 2] - 200).max() <= 1
    choose("out of base color")
    expect(middle).to_have_value("0.900")
    choose("one value")
    expect(field).to_have_value("0.250")
    expect(page.get_by_text("saved", exact=True)).to_be_visible()
    page.reload()
    choose("a picture")
    expect(page.get_by_text("mine.png")).to_be_visible()


def test_undo_and_redo_survive_a_reload(served: Served, page: Page, make_photo: MakePhoto) -> None:
    bench_of(served, page, make_photo("undone.png", seed=17), "normal")
    first = flat_key(page)
    field = page.get_by_role("textbox", name="Strength")
    undo, redo = (page.get_by_role("button", name=name) for name in ("Undo", "Redo"))
    expect(undo).to_be_disabled()
    for value in ("2", "3"):
        field.fill(value)
        with page.expect_response(lambda answer: answer.request.method == "PUT"):
            field.press("Enter")
    page.get_by_role("slider", name="Strength").focus()
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
    read_out = page.get_by_role("region", name="Flat window").locator("output")
    expect(read_out).to_contain_text("255 128 0")
    expect(read_out).to_contain_text("reflects 36.7 %")  # 0.2126 + 0.7152 * 0.2159
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
    expect(alert).to_contain_text("was changed elsewhere")
    alert.get_by_role("button", name="Show it as it is now").click()
    expect(second.get_by_role("textbox", name="Metallic")).to_have_value("0.500")


def test_deleting_the_cache_while_the_server_runs_loses_nothing(
    served: Served, page: Page, make_photo: MakePhoto
) -> None:
    bench_of(served, page, make_photo("cached.png", seed=16))
    before = flat_key(page)
    picture = screen(page, "Flat")
    shutil.rmtree(served.home / "cache")
    page.reload()
    settled(page)
    assert flat_key(page) == before
    np.testing.assert_array_equal(screen(page, "Flat"), picture)
    page.goto(f"{served.place}/tray")
    thumbs = page.get_by_role("row", name="cached").locator("img")
    expect(thumbs).to_have_count(5)
    page.wait_for_function("[...document.images].every((i) => i.complete && i.naturalWidth > 0)")
