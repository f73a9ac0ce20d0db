"""One surface under several lights: noticed, measured, its lights changed by hand, delivered."""

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

from copper_sieve.core.image.raster import Float
from copper_sieve.core.measuring.ball import Ball
from copper_sieve.demo import lamp_pictures as drawn
from tests.e2e.conftest import Served
from tests.e2e.driving import SLOW, screen, settled
from tests.e2e.test_accessible import violations

pytestmark = pytest.mark.browser
_SIDE = 256
_BALL = Ball(214, 210, 24, "shiny")


def _pictures(folder: Path) -> tuple[list[Path], Float]:
    """Eight pictures of pebbles, a ball in a corner; and the normals, (H, W, 3)."""
    rng = np.random.default_rng(31)
    surface = drawn.pebbles(_SIDE, rng)
    codes, _ = drawn.pictures_of(surface, drawn.ring_of_lamps(8), rng, ball=_BALL)
    paths = [folder / f"zz_bed_{n + 1:02}.png" for n in range(len(codes))]
    for path, one in zip(paths, codes, strict=True):
        Image.fromarray(one).save(path)
    return paths, surface.normal


def _difference(page: Page) -> float:
    """The figure of the comparison, once it is there."""
    shown = page.get_by_label("Difference", exact=True)
    shown.wait_for(timeout=SLOW)
    return float((shown.text_content() or "").removeprefix("ΔE "))


def _taken_in(served: Served, page: Page, paths: list[Path]) -> int:
    page.goto(f"{served.place}/intake")
    page.get_by_label("Files to import").set_input_files([str(path) for path in paths])
    offer = page.get_by_role("region", name="8 pictures of one surface, zz_bed")
    expect(offer).to_contain_text("mirror ball detected", timeout=SLOW)
    expect(offer.get_by_role("img", name="Detected ball")).to_be_visible()
    assert violations(page) == []
    offer.get_by_role("button", name="Measure as one set").click()
    expect(page.get_by_text("8 pictures were added to zz_bed.")).to_be_visible()
    expect(offer).to_have_count(0)
    sets = page.request.get(f"{served.address}/api/v1/projects/lantern-row/sets").json()
    return int(next(one["id"] for one in sets if one["name"] == "zz_bed"))


def test_pictures_of_one_surface_become_a_measured_set(
    served: Served, page: Page, tmp_path: Path
) -> None:
    paths, true = _pictures(tmp_path)
    made = _taken_in(served, page, paths)
    page.goto(f"{served.place}/bench/{made}/uncertainty")
    settled(page)
    shade = screen(page, "Flat")[60:-10]
    inside = shade[:, shade.shape[1] // 2 - 60 : shade.shape[1] // 2 + 60, 0]
    assert inside.mean() < 60  # sure nearly everywhere
    assert inside.max() > 60  # and not in the gaps between pebbles

    # The light of a picture is dragged: it is said by hand, and nothing fits as well any more.
    page.goto(f"{served.place}/bench/{made}/prepare")
    settled(page)
    light = page.get_by_role("slider", name="Light of picture 3", exact=True)
    light.focus()
    page.get_by_role("button", name="Compare with the measured surface").click()
    right = _difference(page)
    assert right < 4
    kept = page.request.get(f"{served.address}/api/v1/sets/{made}").json()["captures"]
    assert (kept["ball"]["kind"], kept["captures"][2]["light_origin"]) == ("shiny", "ball")
    box = light.bounding_box()
    assert box
    page.mouse.move(box["x"] + box["width"] / 2, box["y"] + box["height"] / 2)
    page.mouse.down()
    page.mouse.move(box["x"] + 30, box["y"] + 70, steps=4)
    page.mouse.up()
    expect(page.get_by_text("set manually")).to_be_visible()
    expect(page.get_by_text("saved", exact=True)).to_be_visible()
    moved = page.request.get(f"{served.address}/api/v1/sets/{made}").json()["captures"]["captures"][
        2
    ]
    assert moved["light_origin"] == "manual"
    assert moved["lamp"] != kept["captures"][2]["lamp"]
    page.wait_for_function(
        "was => { const shown = document.querySelector('output[aria-label=Difference]');"
        " return shown && Number(shown.textContent.slice(3)) > was + 1; }",
        arg=right, timeout=SLOW,
    )  # fmt: skip
    assert violations(page) == []
    page.get_by_role("checkbox", name="Use this picture").uncheck()
    expect(page.get_by_text("7 of 8 pictures used.")).to_be_visible()
    for _ in range(2):
        page.get_by_role("button", name="Undo").click()
        expect(page.get_by_text("saved", exact=True)).to_be_visible()
    expect(page.get_by_text("detected from the ball")).to_be_visible()
    _asked_by_other_means(served, page, made)
    _delivered(served, page, made, true)


def _asked_by_other_means(served: Served, page: Page, made: int) -> None:
    """A grey card, a lamp that is said to be near, a fit; and all of it taken back."""
    page.get_by_role("button", name="Pick gray card").click()
    dot = page.get_by_role("button", name="Position of the gray card")
    dot.focus()
    dot.press("ArrowRight")
    expect(page.get_by_text(re.compile(r"^light color \d\.\d\d : "))).to_be_visible(timeout=SLOW)
    page.get_by_role("button", name="Done").click()
    away = page.get_by_role("textbox", name="Distance")
    away.fill("3")
    away.press("Enter")
    expect(page.get_by_text("distance 3.0 widths")).to_be_visible()
    expect(page.get_by_text("saved", exact=True)).to_be_visible()
    kept = page.request.get(f"{served.address}/api/v1/sets/{made}").json()["captures"]
    assert kept["gray_card"]["reflectance"] == 0.18 and kept["captures"][2]["lamp"]["distance"] == 3
    page.get_by_role("button", name="Refine lights").click()
    expect(page.get_by_text("refined")).to_be_visible(timeout=SLOW)
    for _ in range(3):
        page.get_by_role("button", name="Undo").click()
        expect(page.get_by_text("saved", exact=True)).to_be_visible()
    expect(page.get_by_text("detected from the ball")).to_be_visible()


def _delivered(served: Served, page: Page, made: int, true: Float) -> None:
    """Its normals in the files are those of the surface, but for the ball, which is filled."""
    body = {"set_ids": [made], "target_ids": ["separate-png"]}
    asked = page.request.post(
        f"{served.address}/api/v1/projects/lantern-row/deliveries", data=json.dumps(body),
        headers={"content-type": "application/json"},
    )  # fmt: skip
    page.goto(f"{served.place}/deliveries/{asked.json()['id']}")
    link = page.get_by_role("link", name="Download zip")
    link.wait_for(timeout=SLOW)
    with page.expect_download() as waiting:
        link.click()
    with zipfile.ZipFile(waiting.value.path()) as found:
        name = next(one for one in found.namelist() if re.search("normal.*png", one))
        codes = np.asarray(Image.open(io.BytesIO(found.read(name))).convert("RGB"))
    normal = codes / 255 * 2 - 1
    normal /= np.linalg.norm(normal, axis=2, keepdims=True)
    off = np.degrees(np.arccos(np.clip((normal * true).sum(2), -1, 1)))
    off[_BALL.mask((_SIDE, _SIDE), wider=1.4)] = np.nan
    assert np.nanmean(off[8:-8, 8:-8]) <= 2.5


def test_different_things_are_sorted_one_by_one(served: Served, page: Page, tmp_path: Path) -> None:
    rng = np.random.default_rng(4)
    surface = drawn.dimples(128, rng)
    codes, _ = drawn.pictures_of(surface, drawn.ring_of_lamps(4), rng)
    page.goto(f"{served.place}/intake")
    paths = [tmp_path / f"zz_pits_{n}.png" for n in range(4)]
    for path, one in zip(paths, codes, strict=True):
        Image.fromarray(one).save(path)
    page.get_by_label("Files to import").set_input_files([str(path) for path in paths])
    offer = page.get_by_role("region", name="4 pictures of one surface, zz_pits")
    expect(offer).to_contain_text(
        "4 pictures are too few to estimate light directions", timeout=SLOW
    )
    offer.get_by_role("button", name="Import as separate files").click()
    expect(offer).to_have_count(0)
    for path in paths:
        row = page.get_by_test_id(f"file-{path.name}")
        expect(row).to_be_visible()
        row.get_by_role("button", name=re.compile("from Intake")).click()
        expect(row).to_have_count(0)
