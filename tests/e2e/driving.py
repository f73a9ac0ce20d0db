"""Driving the interface as a person does: drop, wait, look."""

from __future__ import annotations

import base64
import io
from pathlib import Path

import numpy as np
from PIL import Image
from playwright.sync_api import Locator, Page, expect

from tests.e2e.conftest import Served

SLOW = 60_000
expect.set_options(timeout=20_000)


def drop(page: Page, path: Path) -> None:
    """Drop a file on the page as the desktop would, once the place is there."""
    page.get_by_role("heading", level=1).first.wait_for(timeout=SLOW)
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
            const window = document.querySelector('[data-testid="lit"]');  // it comes later
            const canvas = window?.querySelector("canvas");  // the light, the eye, the shape too
            return window?.dataset.wanted?.trim() && window.dataset.wanted === window.dataset.drawn
                && canvas?.dataset.wanted && canvas.dataset.wanted === canvas.dataset.drawn;
        }""",
        polling=50,  # by frames, every look would have the whole page drawn once more
        timeout=SLOW,
    )
    return page.locator('[data-testid="lit"]').get_attribute("data-drawn")


def screen(page: Page, window: str) -> np.ndarray:
    """What a window shows, as it is on the screen: (H, W, 3) int."""
    drawn(page)
    region = page.get_by_role("region", name=f"{window} view")
    before = b""
    for _ in range(40):  # until two pictures in a row are the same
        page.wait_for_timeout(200)
        shot = region.screenshot()
        if shot == before:
            break
        before = shot
    return np.asarray(Image.open(io.BytesIO(before)).convert("RGB")).astype(int)


def bench_of(served: Served, page: Page, photo: Path, kind: str = "height") -> None:
    """Take a photo in and open its Bench."""
    answer = page.request.post(
        f"{served.address}/api/v1/projects/lantern-row/sources?name={photo.name}",
        data=photo.read_bytes(),
        headers={"content-type": "application/octet-stream"},
    )
    page.goto(f"{served.place}/bench/{answer.json()['set_id']}/{kind}")
    settled(page)


def choose(page: Page, label: str, option: str) -> None:
    """Choose in a folded choice."""
    page.get_by_role("combobox", name=label, exact=True).click()
    page.get_by_role("option", name=option, exact=True).click()


def set_of(page: Page) -> str:
    """The number of the set on the Bench."""
    return page.url.split("/bench/")[1].split("/")[0]


def read_set(page: Page, served: Served) -> dict[str, dict]:
    """The definitions of the maps of the set on the Bench, as the server has them."""
    one = page.request.get(f"{served.address}/api/v1/sets/{set_of(page)}").json()
    return {each["kind"]: each["definition"] for each in one["maps"]}


def choose_target(page: Page, title: str) -> None:
    """Give a target a column of its own on the Tray and the board."""
    page.get_by_role("button", name="Columns").click()
    page.get_by_role("menuitemcheckbox", name=title).click()
    page.keyboard.press("Escape")
