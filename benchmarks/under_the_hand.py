"""How long a hand on a slider waits for its picture, in the real interface, after a cold start.

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
from copper_sieve.core.operations import OPERATIONS

QUICK = (10, 1)

# Map of the set, its operation, and a parameter of that.
SLIDERS = (
    ("height", "height_from_color", "contrast"), ("normal", "normal_from_height", "strength"),
    ("roughness", "roughness_from_surface", "median"),
    ("base_color", "base_color_from_photo", "lighting_scale"),
    ("ambient_occlusion", "ambient_occlusion_from_height", "radius"),
)  # fmt: skip


def label_of(operation: str, parameter: str) -> str:
    """Return the label of a parameter's slider."""
    return next(one.label for one in OPERATIONS[operation].parameters if one.name == parameter)


def main(moves: int = 40, count: int = len(SLIDERS)) -> None:
    """Print a line for each of the first sliders, with so many moves of the pointer each."""
    subprocess.run([sys.executable, "-m", "copper_sieve.services.warm_up"], check=True)  # as set-up
    with tempfile.TemporaryDirectory(ignore_cleanup_errors=True) as home, chromium() as browser:
        served = start_demo(Path(home))
        started = time.monotonic()
        page = browser.new_page(viewport={"width": 1280, "height": 800})
        sets = page.request.get(f"{served.address}/api/v1/projects/lantern-row/sets").json()
        tatami = next(one["id"] for one in sets if one["name"] == "tatami_weave")
        found: list[Waits] = []
        try:
            for kind, operation, parameter in SLIDERS[:count]:
                page.goto(f"{served.place}/bench/{tatami}/{kind}")
                settled(page)
                found.append(drag(page, label_of(operation, parameter), moves=moves))
                print(f"{time.monotonic() - started:4.0f} s after the start: {kind:18} {found[-1]}")
        finally:
            stop_demo(served)
    fast = found[:4]  # occlusion takes longer
    print(Waits("all but occlusion", np.concatenate([one.each for one in fast])))
