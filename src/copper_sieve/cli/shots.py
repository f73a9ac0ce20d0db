"""./sieve shots: update the screenshots in docs/screenshots from the demo data."""

from __future__ import annotations

import argparse
import os
import re
import signal
import subprocess
import sys
import tempfile
from collections.abc import Callable
from pathlib import Path
from typing import TYPE_CHECKING

import numpy as np

from copper_sieve.cli.browser import chromium
from copper_sieve.core.codecs import write_picture
from copper_sieve.core.errors import SetupError
from copper_sieve.core.image.raster import Encoding, Picture
from copper_sieve.demo.lantern_row import SCENARIOS

if TYPE_CHECKING:
    from playwright.sync_api import Page


def run(arguments: argparse.Namespace) -> int:
    """Start the demo in a new data folder, visit each main view and save a screenshot."""
    root = Path(os.environ.get("COPPER_SIEVE_ROOT", "."))
    out = arguments.out or root / "docs" / "screenshots"
    out.mkdir(parents=True, exist_ok=True)
    with tempfile.TemporaryDirectory(prefix="sieve-shots-") as home:
        Path(home).chmod(0o755)
        environment = {**os.environ, "SIEVE_HOME": home, "SIEVE_PORT": "8520"}
        environment.pop("DATABASE_URL", None)
        demo = subprocess.Popen(
            [sys.executable, "-m", "copper_sieve.cli", "demo"],
            env=environment,
            stdout=subprocess.PIPE,
            text=True,
        )
        try:
            assert demo.stdout is not None
            found = re.search(r"http://\S+", demo.stdout.readline())
            if not found:
                raise SetupError("the demo didn't start. Run ./sieve demo to see why")
            _visit(found.group(), out)
        finally:
            demo.send_signal(signal.SIGINT)
            demo.wait(30)
    return 0


# Flat view and lit view show the set.
_SHOWN = 'main:has([data-testid="flat"][data-settled="true"]):has([data-drawn])'


def _visit(address: str, out: Path) -> None:
    with chromium() as browser:
        page = browser.new_page(viewport={"width": 1280, "height": 800})
        place = f"{address}/lantern-row"

        def shoot(name: str) -> None:
            page.wait_for_function("() => [...document.images].every((one) => one.complete)")
            page.wait_for_timeout(1500)  # software WebGL finishes its last frame
            page.screenshot(path=out / f"{name}.png")

        rows = page.request.get(f"{address}/api/v1/projects/lantern-row/sets").json()
        sets = {row["name"]: row["id"] for row in rows}

        def bench(name: str, kind: str) -> None:
            page.goto(f"{place}/bench/{sets[name]}/{kind}")
            page.locator(_SHOWN).wait_for(timeout=60_000)

        def choose(label: str, option: str) -> None:
            page.get_by_role("combobox", name=label, exact=True).click()
            page.get_by_role("option", name=option, exact=True).click()

        tatami = sets["tatami_weave"]
        page.goto(f"{place}/deliveries?sets={tatami}&targets=gltf-metal-rough,orm-y-down")
        page.get_by_role("button", name="Deliver 10 files").click(timeout=60_000)
        page.get_by_role("link", name="Download zip").wait_for(timeout=60_000)
        shoot("delivery-assay")
        bench("tatami_weave", "height")
        page.get_by_role("button", name="Histogram").click()
        shoot("bench-height")
        page.get_by_role("button", name="Histogram").click()
        _readings(page, shoot)
        _checklist(page, place, shoot)
        bench("tatami_weave", "normal")
        page.get_by_role("radio", name="Compare").click()
        choose("Compare with", "Height")
        shoot("bench-normal")
        bench("noren", "prepare")
        _lights(page, shoot)
        bench("yard_wall", "base_color")
        page.wait_for_timeout(6000)
        shoot("bench-tiles")
        bench("kettle_copper", "normal")
        choose("Environment", "row_at_dusk")
        _asset(page, place, shoot)
        bench("lace_blind", "opacity")
        page.get_by_role("button", name="Recipes…").click()
        page.get_by_role("textbox", name="Name of the recipe").fill("Thread and net")
        page.get_by_role("button", name="Save", exact=True).click()
        page.get_by_role("region", name="Saved recipes").get_by_text("Thread and net").wait_for()
        shoot("recipes")
        _blend(page, place, choose, shoot)
        _fill_intake(page, place)
        shoot("intake")
        _many(page, address, shoot)
        _targets(page, place, choose, shoot)
        _prepare(page, lambda: bench("tatami_weave", "prepare"), shoot)


def _lights(page: Page, shoot: Callable[[str], None]) -> None:
    """Capture a measured set compared with one of its pictures."""
    page.get_by_role("button", name="Compare with the measured surface").click()
    page.get_by_label("Difference", exact=True).wait_for(timeout=60_000)
    shoot("bench-lights")


def _asset(page: Page, place: str, shoot: Callable[[str], None]) -> None:
    """Capture a set on the Bench on its model, and the models of the project."""
    page.keyboard.press("i")
    page.wait_for_timeout(3000)  # pictures of the other material
    shoot("bench-model")
    page.goto(f"{place}/models")
    page.get_by_role("img", name="UV view: density").nth(1).wait_for(timeout=60_000)
    page.wait_for_timeout(3000)
    shoot("models")


def _many(page: Page, address: str, shoot: Callable[[str], None]) -> None:
    """Capture all sets: the Tray with a selection, the board, the Projects page."""
    api, place = f"{address}/api/v1/projects", f"{address}/lantern-row"
    rows = page.request.get(f"{api}/lantern-row/tray").json()["rows"]
    ids = {row["name"]: row["id"] for row in rows}
    for tags, names in {
        "shop": ["terrazzo_counter", "hammered_copper"],
        "window": ["lace_blind", "paper_lantern"],
    }.items():
        body = {"set_ids": [ids[one] for one in names], "change": {"do": "tags", "add": [tags]}}
        page.request.post(f"{api}/lantern-row/changes", data=body)
    page.goto(f"{place}/tray")
    page.get_by_role("checkbox", name="Select lace_blind").click()
    page.get_by_role("checkbox", name="Select paper_lantern").click()
    shoot("tray")
    page.goto(f"{place}/deliveries")
    page.get_by_role("button", name="Select all cells of ORM packed").click()
    page.get_by_role("region", name="Files to be written").get_by_role("table").first.wait_for()
    shoot("board")
    _wall_and_compare(page, place, shoot)


def _wall_and_compare(page: Page, place: str, shoot: Callable[[str], None]) -> None:
    """Increase the relief of all sets in the preview, and capture the effect on a delivery."""
    page.goto(f"{place}/tray")
    page.get_by_role("checkbox", name="Select all displayed sets").click()
    page.get_by_role("button", name="Change", exact=True).click()
    page.get_by_role("menuitem", name="Relief").click()
    page.get_by_role("button", name="high 18°").click()
    page.get_by_role("button", name="Preview before/after…").click()
    page.get_by_role("img", name="terrazzo_counter, after").wait_for(timeout=60_000)
    page.get_by_role("button", name="tatami_weave, before").click()
    shoot("wall")
    page.get_by_role("button", name=re.compile(r"^Change \d+ sets")).click()
    page.get_by_role("status").filter(has_text="relief 18°").wait_for()
    _deliver_all(page, place)
    page.goto(f"{place}/tray")
    page.get_by_role("checkbox", name="Select paper_lantern").click()
    page.get_by_role("button", name="Change", exact=True).click()
    page.get_by_role("menuitem", name="Relief").click()
    page.get_by_role("button", name="low 4°").click()
    page.get_by_role("button", name="Change 1 set").click()
    page.get_by_role("status").filter(has_text="1 set: relief").wait_for()
    _deliver_all(page, place)
    page.goto(f"{place}/deliveries")
    page.get_by_role("button", name="History…").click()
    page.get_by_role("region", name="Delivery history").get_by_role("link").first.click()
    page.get_by_role("button", name="More").click()
    page.get_by_role("menuitem", name="Compare with another").click()
    page.get_by_role("img", name="lit").first.wait_for(timeout=60_000)
    shoot("compare")


def _deliver_all(page: Page, place: str) -> None:
    """Deliver a column of the board and wait until every cell is up to date."""
    page.goto(f"{place}/deliveries")
    page.get_by_role("button", name="Select all cells of ORM packed").click()
    page.get_by_role("button", name=re.compile(r"^Deliver \d+ files")).click()
    under_way = page.get_by_role("button", name=re.compile("for ORM packed.*(%|waiting)$"))
    under_way.first.wait_for()
    while under_way.count():
        page.wait_for_timeout(500)


def _readings(page: Page, shoot: Callable[[str], None]) -> None:
    """Capture the interpretations of the photo on the Bench."""
    page.get_by_role("button", name="Starting points…").click()
    page.get_by_role("button", name="18°").first.wait_for(timeout=60_000)
    shoot("bench-readings")
    page.keyboard.press("Escape")


def _checklist(page: Page, place: str, shoot: Callable[[str], None]) -> None:
    """Capture the checklist of a photo that isn't tileable, with the previewed fix."""
    page.goto(f"{place}/tray")
    row = page.get_by_role("row").filter(has=page.get_by_role("link", name="tatami_weave"))
    row.get_by_role("link", name="Checklist").click(timeout=60_000)
    page.get_by_role("img", name="Lit and repeated: Make tileable").wait_for(timeout=60_000)
    shoot("checklist")


def _blend(
    page: Page, place: str, choose: Callable[[str, str], None], shoot: Callable[[str], None]
) -> None:
    """Blend terrazzo over copper with noise, then undo it."""
    page.goto(f"{place}/tray")
    for name in ("hammered_copper", "terrazzo_counter"):
        page.get_by_role("checkbox", name=f"Select {name}").click()
    page.get_by_role("button", name="Change", exact=True).click()
    page.get_by_role("menuitem", name="Blend two sets").click()
    page.get_by_role("textbox", name="Name").fill("worn_counter")
    page.get_by_role("button", name="Blend", exact=True).click()
    page.get_by_role("heading", name="worn_counter").wait_for(timeout=60_000)
    choose("Mask", "noise")
    page.wait_for_timeout(3000)
    page.locator('[data-testid="flat"][data-settled="true"]').wait_for(timeout=60_000)
    shoot("blend")
    page.goto(f"{place}/tray")
    page.get_by_role("checkbox", name="Select worn_counter").click()
    page.keyboard.press("Control+z")
    page.get_by_role("checkbox", name="Select worn_counter").wait_for(state="detached")


def _targets(
    page: Page, place: str, choose: Callable[[str, str], None], shoot: Callable[[str], None]
) -> None:
    """Capture a copy of a target in the packing grid with an open channel."""
    page.goto(f"{place}/targets/mask-map-y-up")
    choose("Preview with", "hammered_copper")
    page.get_by_text("hammered_copper_mask.png").wait_for(timeout=60_000)
    page.get_by_role("button", name="Duplicate and edit").click()
    page.get_by_role("textbox", name="Title of the target").wait_for()
    choose("Preview with", "hammered_copper")
    page.get_by_text("hammered_copper_mask.png").wait_for(timeout=60_000)
    page.get_by_role("button", name="Roughness in A of mask: connected, with changes").click()
    shoot("targets")
    page.goto(f"{place}/targets/offline-tiled")
    choose("Preview with", "hammered_copper")
    page.get_by_role("button", name="Compare under a light").click(timeout=60_000)
    for title in ("set", "files read back"):
        window = page.get_by_role("region", name=f"Lit, {title}")
        window.and_(page.locator("[data-drawn*=base_color]")).wait_for(timeout=60_000)
    shoot("targets-proof")


def _prepare(page: Page, opened: Callable[[], None], shoot: Callable[[str], None]) -> None:
    """Capture the photo with delighting and the suggested tiling method."""
    opened()
    page.get_by_role("textbox", name="Delight").fill("90")
    page.keyboard.press("Enter")
    best = page.get_by_role("radio").filter(has_text="suggested")
    best.wait_for(timeout=60_000)
    best.click()
    page.get_by_text("tileable").wait_for()
    page.locator('[data-testid="flat"][data-settled="true"]').wait_for(timeout=60_000)
    shoot("bench-prepare")


def _fill_intake(page: Page, place: str) -> None:
    """Import the demo pictures again under another name, including an undetermined one."""
    rooms = {"hammered_copper": "tea_kettle", "terrazzo_counter": "bar_slab"}
    with tempfile.TemporaryDirectory() as folder:
        for scenario, room in rooms.items():
            for part, picture in SCENARIOS[scenario].draw().items():
                write_picture(Path(folder) / f"{room}_{part}.png", picture, "png")
        flat = Picture(np.full((64, 64, 1), 96, np.uint8), ("Y",), Encoding.SRGB)
        write_picture(Path(folder) / "tea_kettle_lid.png", flat, "png")
        paths = sorted(Path(folder).iterdir())
        page.goto(f"{place}/intake")
        page.get_by_label("Files to import").set_input_files([str(path) for path in paths])
        for path in paths:
            row = page.get_by_test_id(f"file-{path.name}")
            row.and_(page.locator('[data-state="recognized"]')).wait_for(timeout=60_000)
