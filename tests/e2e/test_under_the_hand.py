"""Every event of a dragged slider is answered by a changed picture; the log says how soon.

The figures depend on the machine, so there is no bound here: benchmarks/under_the_hand.py measures
them on the demo's sets after a cold start, with the same sliders.
"""

from __future__ import annotations

import pytest
from benchmarks.under_the_hand import SLIDERS, label_of
from playwright.sync_api import Page, expect

from tests.conftest import MakePhoto
from tests.e2e.conftest import Served
from tests.e2e.driving import bench_of, flat_key
from tests.e2e.hand import drag

pytestmark = pytest.mark.browser


@pytest.mark.parametrize(
    ("kind", "operation", "parameter"), [one for one in SLIDERS if one[0] != "base_color"]
)
def test_a_picture_follows_the_slider(
    served: Served,
    page: Page,
    make_photo: MakePhoto,
    kind: str,
    operation: str,
    parameter: str,
    capsys: pytest.CaptureFixture[str],
) -> None:
    bench_of(served, page, make_photo("hand.png", size=(1024, 1024), seed=70), kind)
    before = flat_key(page)
    waits = drag(page, label_of(operation, parameter), moves=25)
    with capsys.disabled():
        print(f"\n{kind}: {waits}")
    assert len(waits.each) >= 20
    # Where the processor draws it, a frame of the light takes the time of what computes: none while
    # the hand moves, however often the Bench is drawn anew; one when it rests.
    assert waits.lit <= waits.rests
    assert flat_key(page) != before
    expect(page.get_by_text("saved", exact=True)).to_be_visible()
