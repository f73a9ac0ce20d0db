"""What every use case needs: settings, database, caches, and a way to hand work to the queue."""

from __future__ import annotations

import shutil
import tempfile
from collections.abc import Callable
from dataclasses import dataclass, field
from pathlib import Path

from copper_sieve.core.codecs import read_picture
from copper_sieve.core.image.raster import Picture
from copper_sieve.settings import Settings
from copper_sieve.store.cache import FolderCache, LayeredCache, MemoryCache
from copper_sieve.store.database import Database
from copper_sieve.store.sources import get_source, read_chunks


@dataclass
class Context:
    """One per process.

    enqueue(delivery_id) puts the delivery in the queue, unless it waits there already
    """

    settings: Settings
    database: Database
    enqueue: Callable[[int], None]
    memory: MemoryCache = field(default_factory=MemoryCache)
    cache: LayeredCache = field(init=False)

    def __post_init__(self) -> None:
        folder = FolderCache(self.settings.cache_place, self.settings.cache_bytes)
        self.cache = LayeredCache(self.memory, folder)

    def load_source(self, sha256: str) -> Picture:
        """The codes of a source: its bytes are streamed to a passing file and decoded there."""
        with self.incoming() as folder:
            path = folder / "source"
            with self.database.transaction() as connection:
                path = folder / get_source(connection, sha256)["facts"]["file_name"]
                with path.open("wb") as file:
                    for chunk in read_chunks(connection, sha256):
                        file.write(chunk)
            return read_picture(path, self.settings.limits)[1]

    def incoming(self) -> PassingFolder:
        """A folder for files on their way in or out, gone at the end of the `with` block."""
        return PassingFolder(self.settings.home / "passing")


class PassingFolder:
    """A temporary folder under a given one, on the same disk as our data."""

    def __init__(self, parent: Path) -> None:
        self._parent = parent
        self._folder: Path | None = None

    def __enter__(self) -> Path:
        self._parent.mkdir(parents=True, exist_ok=True)
        self._folder = Path(tempfile.mkdtemp(dir=self._parent))
        return self._folder

    def __exit__(self, *_: object) -> None:
        if self._folder:
            shutil.rmtree(self._folder, ignore_errors=True)
