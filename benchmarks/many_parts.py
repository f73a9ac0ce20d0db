"""Time deliveries of many parts: a loop over the core, one worker, two; and later deliveries.

Each set has a unique base color and normal map of 1024², from which four maps are derived, and is
delivered to two targets: for the first time, again without changes, and with one changed set. No
cache is kept between the runs.
"""

from __future__ import annotations

import os
import subprocess
import sys
import tempfile
import time
from collections.abc import Callable, Iterator
from contextlib import contextmanager
from pathlib import Path

import numpy as np
from tests.conftest import photo_codes

from copper_sieve.core.codecs import write_picture
from copper_sieve.core.export.deliver import deliver
from copper_sieve.core.image.map_kind import MapKind
from copper_sieve.core.image.raster import Encoding, Picture
from copper_sieve.core.models.texture_set import Constant
from copper_sieve.jobs.queue import enqueuer, migrate_all
from copper_sieve.services import deliveries, delivery_preview, sets, sources
from copper_sieve.services.context import Context
from copper_sieve.services.deliveries import DeliveryRequest
from copper_sieve.services.delivery_preview import Cell, cells_of
from copper_sieve.settings import Settings
from copper_sieve.store.cache import MemoryCache
from copper_sieve.store.cluster import Cluster
from copper_sieve.store.database import Database
from copper_sieve.store.projects import ensure_project

PROJECT = "many"
TARGETS = ("orm-y-down", "gltf-metal-rough")
QUICK = (1, 64)


def main(count: int = 200, side: int = 1024) -> None:
    """Make the sets, deliver them in every way, print times and ratios."""
    with tempfile.TemporaryDirectory(prefix="sieve-parts-", ignore_cleanup_errors=True) as name:
        home = Path(name)
        home.chmod(0o755)
        cluster = Cluster(home, durable=False)
        dsn = cluster.start()
        database = Database(dsn)
        try:
            migrate_all(database)
            settings = Settings(home=home / "server")
            context = Context(settings, database, enqueuer())
            ids = _filled(context, home, count, side)
            _time(context, dsn, ids, home)
        finally:
            database.close()
            cluster.release()


def _filled(context: Context, home: Path, count: int, side: int) -> list[int]:
    with context.database.transaction() as connection:
        ensure_project(connection, PROJECT, "Many")
    base = photo_codes((side, side), 3)
    ids = []
    for n in range(count):
        codes = np.roll(base, (n * 37 % side, n * 11 % side), (0, 1))
        photo = home / "photo.png"
        write_picture(photo, Picture(codes, tuple("RGB"), Encoding.SRGB), "png")
        set_id = sources.import_source(context, PROJECT, photo, f"set_{n:04d}.png").set_id
        normal = np.full_like(codes, 128)
        normal[:, :, :2] = 118 + codes[:, :, :2] // 13
        normal[:, :, 2] = 252
        path = home / "normal.png"
        write_picture(path, Picture(normal, tuple("RGB"), Encoding.LINEAR), "png")
        _, imported = sources.import_map(context, path, f"set_{n:04d}_n.png", MapKind.NORMAL)
        view = sets.get_view(context, set_id)
        changed = view.texture_set.with_map(MapKind.NORMAL, imported)
        sets.change(context, set_id, view.version, changed)
        ids.append(set_id)
    return ids


def _time(context: Context, dsn: str, ids: list[int], home: Path) -> None:
    cells = cells_of(ids, TARGETS)
    some = cells[: 2 * min(len(ids), 3)]
    _plain(context, some, home / "warm")
    plain = _plain(context, cells, home / "plain")
    times = {"a plain loop over the core": plain}
    for workers in (1, 2):
        with _workers(dsn, context, workers) as (peak, busy):
            _delivered(context, some)  # kernels are loaded
            before = busy()
            wall = times[f"{workers} worker{'s' * (workers > 1)}"] = _delivered(context, cells)
            cores = (busy() - before) / wall
            print(f"{workers}: peak of all {peak() / 1e9:.2f} GB, {cores:.2f} cores busy")
    with _workers(dsn, context, 1):
        times["again, nothing changed"] = _delivered(context, cells, rewrite=False)
        view = sets.get_view(context, ids[0])
        metal = view.texture_set.with_map(MapKind.METALLIC, Constant(value=(0.5,)))
        sets.change(context, ids[0], view.version, metal)
        times["again, one set changed"] = _delivered(context, cells, rewrite=False)
    for words, seconds in times.items():
        print(f"{words:32} {seconds:7.1f} s {seconds / len(cells) * 1000:7.0f} ms a part")
    one, two = times["1 worker"], times["2 workers"]
    print(f"one worker / plain {one / plain:.2f}, one / two {one / two:.2f}")


def _plain(context: Context, cells: list[Cell], out: Path) -> float:
    started = time.perf_counter()
    planned = delivery_preview.preview_files(context, PROJECT, cells)
    cache, last = MemoryCache(1 << 30), 0
    for part in planned:
        if part.set_id != last:
            cache, last = MemoryCache(1 << 30), part.set_id
        assert part.export, part.error
        deliver(
            part.export, out / part.target_id / part.set_name, sizes=part.sizes,
            load_source=context.load_source, token="plain", cache=cache,
        )  # fmt: skip
    return time.perf_counter() - started


def _delivered(context: Context, cells: list[Cell], *, rewrite: bool = True) -> float:
    started = time.perf_counter()
    asked = deliveries.create_delivery(context, PROJECT, cells, DeliveryRequest(rewrite=rewrite))
    state = asked.state
    while state in ("queued", "running"):
        time.sleep(0.05)
        found = [one.delivery for one in deliveries.under_way(context, PROJECT)]
        state = found[0].state if found else "done"
    done = deliveries.get(context, asked.id)
    assert done.state == "done", done.error
    return time.perf_counter() - started


@contextmanager
def _workers(
    dsn: str, context: Context, count: int
) -> Iterator[tuple[Callable[[], int], Callable[[], float]]]:
    environment = {
        **os.environ, "DATABASE_URL": dsn, "SIEVE_HOME": str(context.settings.home),
        "NUMBA_NUM_THREADS": str(max(1, (os.cpu_count() or 1) // count)),  # as the server does
    }  # fmt: skip
    command = [sys.executable, "-m", "copper_sieve.cli", "work"]
    started = [subprocess.Popen(command, env=environment) for _ in range(count)]

    def busy() -> float:
        """Seconds of all cores that they have used."""
        ticks = 0
        for one in started:
            fields = Path(f"/proc/{one.pid}/stat").read_text("ascii").rsplit(")", 1)[1].split()
            ticks += int(fields[11]) + int(fields[12])
        return ticks / os.sysconf("SC_CLK_TCK")

    def peak() -> int:
        total = 0
        for one in started:
            text = Path(f"/proc/{one.pid}/status").read_text("ascii")
            total += int(text.split("VmHWM:")[1].split()[0]) * 1024
        return total

    try:
        yield peak, busy
    finally:
        for one in started:
            one.terminate()
        for one in started:
            one.wait(30)
