"""How long a hand on a slider waits for its picture, in the real interface, after a cold start.

usage: PYTHONPATH=src:. .venv/bin/python benchmarks/under_the_hand.py

Starts the demo with an empty data folder, opens the Bench at 1024 x 1024 as soon as the server
answers, and drags one slider of each operation. The browser draws the light in software on the
same cores, as a machine without a graphics card does.
"""

from __future__ import annotations

import subprocess
import sys
import tempfile
import time
from pathlib import Path

import numpy as np
from tests.e2e.conftest import start_demo, stop_demo
from tests.e2e.driving import settled
from tests.e2e.hand import Waits, drag

from copper_sieve.cli.browser import chromium

SLIDERS = (
    ("height", "Contrast"), ("normal", "Intensity"), ("roughness", "Median"),
    ("base_color", "Large light"), ("ambient_occlusion", "Max. distance"),
)  # fmt: skip


def main() -> None:
    """Print a line per slider."""
    subprocess.run([sys.executable, "-m", "copper_sieve.services.warm_up"], check=True)  # as set-up
    with tempfile.TemporaryDirectory(ignore_cleanup_errors=True) as home, chromium() as browser:
        served = start_demo(Path(home))
        started = time.monotonic()
        page = browser.new_page(viewport={"width": 1280, "height": 800})
        sets = page.request.get(f"{served.address}/api/v1/projects/lantern-row/sets").json()
        tatami = next(one["id"] for one in sets if one["name"] == "tatami_weave")
        found: list[Waits] = []
        try:
            for kind, slider in SLIDERS:
                page.goto(f"{served.place}/bench/{tatami}/{kind}")
                settled(page)
                found.append(drag(page, slider))
                print(f"{time.monotonic() - started:4.0f} s after the start: {kind:18} {found[-1]}")
        finally:
            stop_demo(served)
    print(Waits("all but occlusion", np.concatenate([one.each for one in found[:-1]])))


if __name__ == "__main__":
    main()
