"""One photo through the real interface: dropped, tuned, delivered, fetched, checked."""

from __future__ import annotations

import io
import json
import shutil
import zipfile
from pathlib import Path

import numpy as np
import pytest
from PIL import Image
from playwright.sync_api import Page, expect

from tests.conftest import MakePhoto
from tests.e2e.conftest import Served
from tests.e2e.driving import SLOW, bench_of, drawn, drop, flat_key, screen, settled

pytestmark = pytest.mark.browser


def test_drop_a_photo_move_a_slider_deliver_and_check_the_zip(
    served: Served, page: Page, make_photo: MakePhoto, tmp_path: Path
) -> None:
    photo = make_photo("garden_path.png", size=(256, 256), seed=11)
    page.goto(f"{served.place}/tray?find=tatami_weave")
    expect(page.get_by_role("link", name="tatami_weave")).to_be_visible()
    drop(page, photo)
    page.wait_for_url("**/bench/*/height", timeout=SLOW)
    expect(page.get_by_role("heading", name="garden_path")).to_be_visible()
    settled(page)
    _move_the_slider(page)
    detail = float(page.get_by_role("textbox", name="Fine detail").input_value())
    assert detail < 0.2
    files = _deliver(served, page, tmp_path / "out.zip")
    _check_codes(files, photo)
    manifest = json.loads(files["orm-y-down/garden_path/manifest.json"])
    height = manifest["maps"]["height"]["definition"]["parameters"]
    assert height["detail"] == pytest.approx(detail, abs=0.006)

    # The Tray knows it, and the folder holds the same files as the zip.
    page.goto(f"{served.place}/tray?find=garden_path")
    row = page.get_by_role("row", name="garden_path")
    expect(row.get_by_text("delivered")).to_have_count(2)
    folder = served.home / "deliveries" / "lantern-row"
    for name, data in files.items():
        assert (folder / name).read_bytes() == data


def _move_the_slider(page: Page) -> None:
    """It changes flat and lit while it moves, before the hand lets go."""
    first = flat_key(page), drawn(page)
    lit_before = screen(page, "Lit")
    np.testing.assert_array_equal(screen(page, "Lit"), lit_before)
    thumb = page.get_by_role("slider", name="Fine detail").bounding_box()
    assert thumb
    x, y = thumb["x"] + thumb["width"] / 2, thumb["y"] + thumb["height"] / 2
    page.mouse.move(x, y)
    page.mouse.down()
    page.mouse.move(x - 40, y, steps=4)
    page.wait_for_function(
        """([flat, lit]) => {
            const data = (id) => document.querySelector(`[data-testid="${id}"]`).dataset;
            return data("flat").key !== flat && data("lit").drawn !== lit;
        }""",
        arg=list(first),
        timeout=SLOW,
    )
    for _ in range(100):  # what was drawn first may be of the hand's first step, hardly another
        if np.abs(screen(page, "Lit") - lit_before).max() >= 3:  # unchanged, it is exactly 0
            break
    else:
        raise AssertionError("the light shows nothing of the slider")
    middle = flat_key(page)
    page.mouse.move(x - 55, y, steps=4)
    page.wait_for_function(
        "(old) => document.querySelector('[data-testid=flat]').dataset.key !== old",
        arg=middle,
        timeout=SLOW,
    )
    page.mouse.up()
    settled(page)
    expect(page.get_by_text("saved", exact=True)).to_be_visible()


def _deliver(served: Served, page: Page, out: Path) -> dict[str, bytes]:
    """Read what will be written, deliver, watch, fetch; every file of the zip."""
    page.get_by_role("link", name="Deliver…").click()
    page.get_by_role("button", name="Select all cells of garden_path").click()
    for name in ("T_garden_path_ORM.tga", "garden_path.glb", "garden_path_normal.png"):
        expect(page.get_by_role("cell", name=name, exact=True)).to_be_visible()
    assert not (served.home / "deliveries" / "lantern-row" / "orm-y-down" / "garden_path").exists()
    page.get_by_role("button", name="Deliver 10 files").click()
    link = page.get_by_role("link", name="Download zip")
    link.wait_for(timeout=SLOW)
    expect(page.get_by_text("verified", exact=True)).to_be_visible()
    with page.expect_download() as waiting:
        link.click()
    waiting.value.save_as(out)

    with zipfile.ZipFile(out) as found:
        return {name: found.read(name) for name in found.namelist()}


def _check_codes(files: dict[str, bytes], photo: Path) -> None:
    """Code for code what the two targets say of the same set."""
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


@pytest.mark.parametrize(
    ("name", "data", "says"),
    [
        (
            "letter.png",
            b"Dear artist, this is no picture.",
            "letter.png isn't a supported picture format",
        ),
        ("nothing.png", b"", "nothing.png is empty"),
        ("half.jpg", None, "half.jpg is truncated or corrupt"),
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
    assert page.request.get(f"{served.address}/api/v1/health").ok


def test_the_same_photo_twice_opens_the_set_that_is_there(
    served: Served, page: Page, make_photo: MakePhoto
) -> None:
    photo = make_photo("stone.png", seed=12)
    page.goto(f"{served.place}/tray")
    drop(page, photo)
    page.wait_for_url("**/bench/*/height", timeout=SLOW)
    address = page.url
    page.goto(f"{served.place}/tray")
    page.get_by_label("Pictures to import").set_input_files(photo)
    page.wait_for_url("**/bench/*/height", timeout=SLOW)
    assert page.url == address
    expect(
        page.get_by_role("status").filter(has_text="was imported before, as stone")
    ).to_be_visible()


def test_a_drop_away_from_the_tray_says_where_photos_go(
    served: Served, page: Page, make_photo: MakePhoto
) -> None:
    page.goto(f"{served.place}/deliveries")
    expect(page.get_by_role("heading", name="Deliveries")).to_be_visible()
    drop(page, make_photo("stray.png", seed=20))
    expect(page.get_by_role("alert")).to_contain_text("drop pictures on Intake or the Tray")
    assert page.url.endswith("/deliveries")


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
    page.goto(f"{served.place}/tray?find=cached")
    thumbs = page.get_by_role("row", name="cached").locator("img")
    expect(thumbs).to_have_count(6)  # lit, and five maps
    for thumb in thumbs.all():  # those of other sets load when they come into sight
        thumb.scroll_into_view_if_needed()
        expect(thumb).to_have_js_property("complete", True)
        assert thumb.evaluate("image => image.naturalWidth") > 0
