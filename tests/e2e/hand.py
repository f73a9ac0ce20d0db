"""A hand on a slider, and how long its eye waits: from each change to the picture that shows it."""

from __future__ import annotations

from dataclasses import dataclass

import numpy as np
from playwright.sync_api import Page

from tests.e2e.driving import settled

_DELAYS = """() => {
    const marks = (name) => performance.getEntriesByName(name, "mark");
    const shown = marks("sieve:flat");
    return marks("sieve:draft").map((asked) => {
        const seen = shown.find((m) => m.detail >= asked.detail && m.startTime >= asked.startTime);
        return seen ? seen.startTime - asked.startTime : null;
    });
}"""

_ASKED = "() => performance.getEntriesByName('sieve:draft', 'mark').map((m) => m.startTime)"


@dataclass(frozen=True)
class Waits:
    """Milliseconds from a slider's event to the changed picture, for every event of a drag."""

    slider: str
    each: np.ndarray
    lit: int = 0  # frames for which the light took something new while the hand moved
    rests: int = 0  # how often it may: the hand's events were far apart, or it moved for seconds

    def __str__(self) -> str:
        median, high = np.percentile(self.each, [50, 95])
        return (
            f"{self.slider:32} median {median:4.0f} ms, 95th percentile {high:4.0f} ms, "
            f"largest {self.each.max():4.0f} ms, {len(self.each)} events"
        )


def drag(page: Page, slider: str, *, moves: int = 40, pause: float = 30) -> Waits:
    """Drag a slider of the open drawer over most of its track and let go."""
    thumb = page.get_by_role("slider", name=slider, exact=True)
    thumb.scroll_into_view_if_needed()
    box = thumb.bounding_box()
    track = thumb.locator("xpath=ancestor::*[@data-orientation][1]").bounding_box()
    assert box
    assert track
    page.evaluate("performance.clearMarks()")
    y = box["y"] + box["height"] / 2
    page.mouse.move(box["x"] + box["width"] / 2, y)
    page.mouse.down()
    for i in range(moves):
        share = 0.15 + 0.7 * abs(2 * ((i + 1) / moves) - 1)
        page.mouse.move(track["x"] + track["width"] * share, y)
        page.wait_for_timeout(pause)
    waits = page.evaluate(_DELAYS)
    lit = page.evaluate("performance.getEntriesByName('sieve:lit', 'mark').length")
    asked = np.array(page.evaluate(_ASKED))
    rests = int((np.diff(asked) >= 150).sum() + (asked[-1] - asked[0]) // 4000 + 1)
    page.mouse.up()
    settled(page)
    # The last ones are answered after the hand has let go.
    waits = [w for w in page.evaluate(_DELAYS)[: len(waits)] if w is not None]
    assert len(waits) > moves / 4, f"{slider}: only {len(waits)} events were answered"
    return Waits(slider, np.array(waits), lit, rests)
