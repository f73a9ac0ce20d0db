"""Time the server with many sets: lists, facts, changes, the board, a delivery preview.

The sets are equal (one photo of 256 texels), because the timed code doesn't read pixels. A
temporary database server is used.
"""

from __future__ import annotations

import tempfile
import time
from collections.abc import Callable
from pathlib import Path
from typing import Any

from tests.conftest import photo_codes

from copper_sieve.core.codecs import write_picture
from copper_sieve.core.image.raster import Encoding, Picture
from copper_sieve.jobs.queue import migrate_all
from copper_sieve.services import board, delivery_preview, sets, sources
from copper_sieve.services.context import Context
from copper_sieve.services.delivery_preview import cells_of
from copper_sieve.services.tray import apply, changes, listing
from copper_sieve.settings import Settings
from copper_sieve.store import texture_sets
from copper_sieve.store.cluster import Cluster
from copper_sieve.store.database import Database
from copper_sieve.store.projects import ensure_project

QUICK = (20,)

PROJECT = "many"
TARGETS = ("orm-y-down", "gltf-metal-rough", "separate-png")


def main(count: int = 1000) -> None:
    """Make the sets, then time each use of them twice: the second is that of a warm server."""
    with tempfile.TemporaryDirectory(prefix="sieve-many-", ignore_cleanup_errors=True) as name:
        home = Path(name)
        home.chmod(0o755)
        cluster = Cluster(home, durable=False)
        database = Database(cluster.start())
        try:
            migrate_all(database)
            context = Context(Settings(home=home / "server"), database, lambda _, __: None)
            _time(context, _filled(context, home, count))
        finally:
            database.close()
            cluster.release()


def _filled(context: Context, home: Path, count: int) -> list[int]:
    with context.database.transaction() as connection:
        project = ensure_project(connection, PROJECT, "Many")
    photo = home / "wall.png"
    write_picture(photo, Picture(photo_codes((256, 256), 3), tuple("RGB"), Encoding.SRGB), "png")
    first = sources.import_source(context, PROJECT, photo, "wall.png").set_id
    with context.database.transaction() as connection:
        definition = texture_sets.get_set(connection, first).definition()
        for n in range(count - 1):
            named = definition.model_copy(update={"name": f"set_{n:05d}"})
            texture_sets.add_set(connection, project.id, named)
    return [row.id for row in listing.tray(context, PROJECT).rows]


def _time(context: Context, ids: list[int]) -> None:
    cells = cells_of(ids, TARGETS)

    def change(wanted: Any) -> Callable[[], object]:
        return lambda: apply.change(context, PROJECT, ids, wanted, dry=False)

    uses: dict[str, Callable[[], object]] = {
        "list": lambda: listing.tray(context, PROJECT),
        "facts of 20": lambda: sets.list_views(context, PROJECT, ids[:20]),
        "board": lambda: board.board(context, PROJECT),
        f"preview of {len(cells)} cells": lambda: delivery_preview.preview_delivery(
            context, PROJECT, cells
        ),
        "tag all": change(changes.ChangeTags(do="tags", add=["one"])),
        "undo": lambda: apply.undo(context, PROJECT, again=False),
        "redo": lambda: apply.undo(context, PROJECT, again=True),
    }
    for words, use in uses.items():
        times = []
        for _ in range(1 if words in ("tag all", "undo", "redo") else 2):
            start = time.perf_counter()
            use()
            times.append(f"{time.perf_counter() - start:.2f} s")
        print(f"{words:24} {'  '.join(times)}", flush=True)
