"""Drop many files: time until Intake lists and has detected all of them, and the server's memory.

Uploads 500 files of 64 MB in total to a running demo, four in parallel as the page does, and
requests the table as the page does.
"""

from __future__ import annotations

import io
import json
import tempfile
import threading
import time
import urllib.parse
import urllib.request
from concurrent.futures import ThreadPoolExecutor
from pathlib import Path

import numpy as np
from PIL import Image
from tests.core.recognition.maps import encoded, normals, relief
from tests.e2e.conftest import Served, start_demo, stop_demo

QUICK = (4,)

SIDE = 256
_PARTS = ("albedo", "normal", "roughness", "ao", "height")


def _files(count: int) -> list[tuple[str, bytes]]:
    """Draw sets of five maps; noise keeps the files at about 128 kB each."""
    rng = np.random.default_rng(1)
    fields = [relief("stones", seed, SIDE) for seed in range(4)]
    files = []
    for n in range(count):
        field = np.roll(fields[n % 4], (n * 7, n * 13), (0, 1))
        vectors = encoded(normals(field, 0.5, down=n % 2 == 0))
        for part in _PARTS:
            codes = vectors if part == "normal" else np.dstack([field * 200] * 3).astype(np.uint8)
            noise = rng.integers(0, 4 if part == "normal" else 16, codes.shape)
            held = io.BytesIO()
            Image.fromarray(np.clip(codes + noise, 0, 255).astype(np.uint8)).save(held, "PNG")
            files.append((f"set{n:03}_{part}.png", held.getvalue()))
    return files


def _memory(process: int) -> float:
    """Return the peak resident memory of the server process in MB."""
    lines = Path(f"/proc/{process}/status").read_text("utf-8").splitlines()
    return next(int(line.split()[1]) / 1024 for line in lines if line.startswith("VmHWM"))


def _send(served: Served, name: str, data: bytes) -> None:
    query = urllib.parse.urlencode({"name": name, "batch": "benchmark"})
    address = f"{served.address}/api/v1/projects/lantern-row/arrivals?{query}"
    urllib.request.urlopen(urllib.request.Request(address, data, method="POST")).read()


def _table(served: Served) -> dict:
    address = f"{served.address}/api/v1/projects/lantern-row/arrivals"
    return json.loads(urllib.request.urlopen(address).read())


def main(count: int = 100) -> None:
    """Print the measurements for sets of five maps."""
    files = _files(count)
    print(f"{len(files)} files, {sum(len(data) for _, data in files) / 1e6:.0f} MB")
    with tempfile.TemporaryDirectory(ignore_cleanup_errors=True) as home:
        served = start_demo(Path(home))
        try:
            _watch(served, files)
        finally:
            stop_demo(served)


def _watch(served: Served, files: list[tuple[str, bytes]]) -> None:
    before, started = _memory(served.process.pid), time.monotonic()
    first = threading.Event()

    def send_all() -> None:
        with ThreadPoolExecutor(4) as pool:
            list(pool.map(lambda one: _send(served, *one), files))
        first.set()

    sender = threading.Thread(target=send_all)
    sender.start()
    sent = None
    slowest = 0.0
    while True:
        asked = time.monotonic()
        table = _table(served)
        slowest = max(slowest, time.monotonic() - asked)
        if first.is_set() and sent is None:
            sent = time.monotonic() - started
        if sent and len(table["rows"]) == len(files) and not table["waiting"]:
            break
        time.sleep(0.5)
    right = sum(row["map"] != "none" and not row["problem"] for row in table["rows"])
    ended, most = time.monotonic() - started, _memory(served.process.pid)
    print(f"all in the table after {sent:.1f} s, all recognized after {ended:.1f} s")
    print(f"the table was answered in {slowest:.2f} s at most")
    print(f"{right} of {len(files)} settled automatically")
    print(f"server {before:.0f} MB before, {most:.0f} MB at most")
