"""Measure the memory of the server during and after many previews.

Starts the demo with an empty data folder and changes parameters of all its sets through the API as
the Bench does: one map at 1024 while dragging, all maps at 2048 at every tenth. Prints the resident
memory of the server, then again after half a minute of rest.
"""

from __future__ import annotations

import json
import tempfile
import time
import urllib.request
from pathlib import Path

from tests.e2e.conftest import Served, start_demo, stop_demo

QUICK = (10, 0.0)

REST = 35.0  # seconds
MOVED = {
    "height_from_color": ("contrast", 0.5, 2.0), "normal_from_height": ("strength", 0.2, 3.0),
    "ambient_occlusion_from_height": ("intensity", 0.3, 1.5),
    "roughness_from_color": ("middle", 0.2, 0.9),
}  # fmt: skip


def resident(served: Served, what: str = "VmRSS") -> float:
    """Megabytes of the server process."""
    status = Path(f"/proc/{served.process.pid}/status").read_text()
    line = next(line for line in status.splitlines() if line.startswith(what))
    return int(line.split()[1]) / 1000


def ask(served: Served, path: str, body: dict | None = None) -> bytes:
    """An answer of the API."""
    data = None if body is None else json.dumps(body).encode()
    request = urllib.request.Request(
        served.address + path, data, {"Content-Type": "application/json"}
    )
    with urllib.request.urlopen(request, timeout=120) as answer:
        return answer.read()


def moves(one: dict) -> list[tuple[str, str, float, float]]:
    """What can be moved in a set: map, parameter, range."""
    found = []
    for each in one["maps"]:
        operation = each["definition"].get("operation")
        if operation in MOVED:
            found.append((each["kind"], *MOVED[operation]))
    return found


def main(previews: int = 5000, rest: float = REST) -> None:
    """Print a line at each tenth of the previews."""
    with tempfile.TemporaryDirectory(ignore_cleanup_errors=True) as home:
        served = start_demo(Path(home))
        try:
            sets = json.loads(ask(served, "/api/v1/projects/lantern-row/sets"))
            spots = [(one, move) for one in sets for move in moves(one)]
            print(f"before: {resident(served):.0f} MB", flush=True)
            for n in range(previews):
                one, (kind, name, low, high) = spots[(n // 25) % len(spots)]
                maps = {each["kind"]: json.loads(json.dumps(each["definition"]))
                        for each in one["maps"]}  # fmt: skip
                value = low + (high - low) * ((n * 0.6180339) % 1)
                maps[kind].setdefault("parameters", {})[name] = value
                rest = n % 10 == 9
                body = {
                    "draft": {"surface": one["surface"], "prepare": one["prepare"], "maps": maps},
                    "window": "w", "sequence": n, "longer_side": 2048 if rest else 1024,
                    "compute_side": None if rest else 1024, "kinds": None if rest else [kind],
                }  # fmt: skip
                ask(served, f"/api/v1/sets/{one['id']}/previews", body)
                if (n + 1) % max(1, previews // 10) == 0:
                    print(f"{n + 1:6} previews: {resident(served):5.0f} MB", flush=True)
            print(f"peak {resident(served, 'VmHWM'):.0f} MB")
            time.sleep(rest)
            print(f"after {rest:.0f} s of rest: {resident(served):.0f} MB")
        finally:
            stop_demo(served)
