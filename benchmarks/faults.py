"""Kill processes during deliveries and verify that every delivery is complete and correct.

A demo with an empty data folder delivers sets repeatedly: three sets to two targets, or with
several workers all sets to every target (84 parts), copied until there are at least PARTS.
Environments and files are imported in parallel. At random times a process is killed with SIGKILL: a
worker (its supervisor or a lane), the server (which is restarted), a backend of PostgreSQL, or its
postmaster. At the end, every delivery must be done or have an error, every folder must equal an
undisturbed delivery of the same sets byte for byte, every job must be done, every file detected,
and no hidden folder, worker or temporary folder may remain.
"""

from __future__ import annotations

import hashlib
import json
import os
import random
import signal
import tempfile
import time
import urllib.error
import urllib.request
from collections import Counter
from pathlib import Path
from typing import Any

import numpy as np
from tests.e2e.conftest import Served, start_demo, stop_demo

from copper_sieve.core.codecs import write_picture
from copper_sieve.core.image.raster import Encoding, Picture
from copper_sieve.store.owned_folders import abandoned_folders

QUICK = (1,)

SETS = ("cedar_lattice", "hammered_copper", "terrazzo_counter")
TARGETS = ["orm-y-down", "separate-png"]
WHAT = ("worker", "server", "backend", "postmaster")
PATIENCE = 420.0  # seconds for the last deliveries of 84 parts


def call(
    served: Served, path: str, body: dict[str, Any] | bytes | None = None, tries: int = 60
) -> Any:
    """An answer, however often it has to be asked for; a body of bytes is a file."""
    is_file = isinstance(body, bytes)
    data = body if is_file or body is None else json.dumps(body).encode()
    headers = {"Content-Type": "application/octet-stream" if is_file else "application/json"}
    for left in range(tries, 0, -1):
        try:
            request = urllib.request.Request(served.address + path, data, headers)
            with urllib.request.urlopen(request, timeout=30) as answer:
                return json.load(answer)
        except urllib.error.HTTPError as error:
            if error.code != 503 or left == 1:
                raise
        except (OSError, TimeoutError):
            if left == 1:
                raise
        time.sleep(0.5)
    raise AssertionError


def of_home(home: Path, word: bytes) -> list[int]:
    """Processes that belong to a data folder and have a word in their command line."""
    found = []
    for entry in Path("/proc").iterdir():
        try:
            command = (entry / "cmdline").read_bytes()
            about = command + (entry / "environ").read_bytes()
        except OSError:
            continue
        if entry.name.isdigit() and word in command and str(home).encode() in about:
            found.append(int(entry.name))
    return [number for number in found if number != os.getpid()]


def postmaster(home: Path) -> int | None:
    """The process that PostgreSQL's own file names."""
    try:
        return int((home / "postgres/data/postmaster.pid").read_text().splitlines()[0])
    except (OSError, ValueError, IndexError):
        return None


def victim(served: Served, what: str) -> int | None:
    """A process to be killed, or None where there is none just now."""
    if what == "server":
        return served.process.pid
    if what == "worker":
        living = of_home(served.home, b"copper_sieve.cli\0work")
        return random.choice(living) if living else None
    parent = postmaster(served.home)
    if what == "postmaster" or parent is None:
        return parent
    children = Path(f"/proc/{parent}/task/{parent}/children")
    try:
        numbers = [int(one) for one in children.read_text().split()]
    except OSError:
        return None
    clients = []
    for number in numbers:
        try:
            title = Path(f"/proc/{number}/cmdline").read_bytes()
        except OSError:
            continue
        if b"sieve_app" in title:
            clients.append(number)
    return random.choice(clients) if clients else None


def digests(folder: Path) -> dict[str, str]:
    """SHA-256 of every file under a folder, by its path there."""
    return {
        str(path.relative_to(folder)): hashlib.sha256(path.read_bytes()).hexdigest()
        for path in sorted(folder.rglob("*"))
        if path.is_file()
    }


def ask(served: Served, ids: list[int], targets: list[str]) -> int:
    """Create a delivery of sets to targets with `rewrite`; return its id."""
    body = {"set_ids": ids, "target_ids": targets, "rewrite": True}
    return int(call(served, "/api/v1/projects/lantern-row/deliveries", body)["id"])


def _copied(served: Served, ids: list[int], targets: int, parts: int) -> list[int]:
    """The sets, and copies of them until they make so many parts."""
    every = [*ids]
    while len(every) * targets < parts:
        some = ids[: -(-parts // targets) - len(every)]
        body = {"set_ids": some, "change": {"do": "duplicate"}}
        call(served, "/api/v1/projects/lantern-row/changes", body)
        every = [one["id"] for one in call(served, "/api/v1/projects/lantern-row/sets")]
    return every


def ask_jobs(served: Served, n: int) -> None:
    """Import an environment, and a file into Intake, each with unique bytes."""
    project = "/api/v1/projects/lantern-row"
    light = np.random.default_rng(n).random((256, 512, 3), np.float32)
    with tempfile.TemporaryDirectory() as name:
        path = Path(name) / "sky.hdr"
        write_picture(path, Picture(light, ("R", "G", "B"), Encoding.LINEAR), "hdr")
        call(served, f"{project}/environments?kind=panorama&name=sky_{n}.hdr", path.read_bytes())
        codes = (light * 255).astype(np.uint8)
        write_picture(path, Picture(codes, ("R", "G", "B"), Encoding.SRGB), "png")
        call(served, f"{project}/arrivals?batch=killed&name=plank_{n}_color.png", path.read_bytes())


def jobs_went_wrong(served: Served, asked: int) -> list[str]:
    """Return the problems of jobs when none is left."""
    project = "/api/v1/projects/lantern-row"
    end = time.monotonic() + PATIENCE
    while (
        any(one["state"] in ("queued", "running") for one in call(served, f"{project}/jobs"))
        or (table := call(served, f"{project}/arrivals"))["waiting"]
    ):
        assert time.monotonic() < end, call(served, f"{project}/jobs")
        time.sleep(0.3)
    wrong = [str(one) for one in call(served, f"{project}/jobs") if one["state"] == "failed"]
    skies = [one["name"] for one in call(served, f"{project}/environments")]
    imported = sorted({name for name in skies if name.startswith("sky_")})
    if len(imported) != asked:
        wrong.append(f"{len(imported)} of {asked} environments are there")
    planks = [row for row in table["rows"] if row["name"].startswith("plank_")]
    found = {row["name"] for row in planks if row["state"] == "recognized"}
    if len(found) != asked:
        wrong.append(f"{len(found)} of {asked} files detected")
    return wrong


def state(served: Served, number: int) -> dict[str, Any]:
    """Return the current state of a delivery."""
    found: dict[str, Any] = call(served, f"/api/v1/deliveries/{number}")
    return found


def _disturbed(  # noqa: PLR0917
    served: Served, first: int, ids: list[int], targets: list[str], killed: Counter[str], kills: int
) -> tuple[list[int], Served]:
    """Deliver again and again and kill; the deliveries, and the server as it runs at the end."""
    asked = [first]
    while sum(killed.values()) < kills:
        if state(served, asked[-1])["state"] not in ("queued", "running"):
            asked.append(ask(served, ids, targets))
        ask_jobs(served, sum(killed.values()))
        time.sleep(random.uniform(0.05, 2.5))
        what = WHAT[sum(killed.values()) % len(WHAT)]
        number = victim(served, what)
        if number is None:
            continue
        os.kill(number, signal.SIGKILL)
        killed[what] += 1
        if what == "server":
            served.process.wait()
            served = start_demo(served.home)
    return asked, served


def main(kills: int = 40, workers: int = 1, parts: int = 0) -> int:
    """Print the kills, the results of the deliveries, and differences or remains."""
    random.seed(7)
    os.environ["SIEVE_WORKERS"] = str(workers)
    killed: Counter[str] = Counter()
    ends: Counter[str] = Counter()
    errors: list[str] = []
    with tempfile.TemporaryDirectory(ignore_cleanup_errors=True) as name:
        served = start_demo(Path(name))
        try:
            sets = call(served, "/api/v1/projects/lantern-row/sets")
            ids = [one["id"] for one in sets if workers > 1 or one["name"] in SETS]
            targets = TARGETS
            if workers > 1:
                targets = [one["id"] for one in call(served, "/api/v1/targets")]
            ids = _copied(served, ids, len(targets), parts)
            first = ask(served, ids, targets)
            while state(served, first)["state"] in ("queued", "running"):
                time.sleep(0.2)
            root = served.home / "deliveries"
            due = digests(root)
            asked, served = _disturbed(served, first, ids, targets, killed, kills)
            end = time.monotonic() + PATIENCE * max(1.0, len(ids) * len(targets) / 84)
            for number in asked:
                while (row := state(served, number))["state"] in ("queued", "running"):
                    assert time.monotonic() < end, f"delivery {number} is still {row['state']}"
                    time.sleep(0.3)
                ends[row["state"]] += 1
                errors += [row["error"]] if row["error"] else []
            wrong = jobs_went_wrong(served, kills)
            now = digests(root)
            differs = [path for path in {*due, *now} if due.get(path) != now.get(path)]
            hidden = [str(path.relative_to(root)) for path in root.rglob(".*")]
            passing = list(
                abandoned_folders(served.home / "passing")
            )  # the server checks sets in other processes
        finally:
            stop_demo(served)
            os.environ.pop("SIEVE_WORKERS")
        left = of_home(served.home, b"copper_sieve") + of_home(served.home, b"postgres")
    parts = len(ids) * len(targets)
    print(f"killed: {dict(killed)}; {len(asked)} deliveries of {parts} parts, {workers} workers")
    print(f"ended: {dict(ends)}; told: {errors}")
    print(f"of {len(due)} files {len(differs)} differ from an undisturbed run {differs[:3]}")
    print(f"jobs: {2 * kills} asked for, wrong: {wrong}")
    print(f"left: {hidden} hidden, {passing} passing, processes {left}")
    return (
        1 if differs or wrong or hidden or passing or left or ends["failed"] != len(errors) else 0
    )
