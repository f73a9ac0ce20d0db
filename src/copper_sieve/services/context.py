"""Shared resources of all use cases: settings, database, caches, queue."""

from __future__ import annotations

import threading
from collections.abc import Callable
from dataclasses import dataclass, field
from pathlib import Path
from typing import Any

from copper_sieve.core.codecs import read_picture
from copper_sieve.core.detection.classify import Recognition
from copper_sieve.core.image.raster import Picture
from copper_sieve.core.ingest.model_files import read_model_file
from copper_sieve.core.mesh.mesh import Mesh
from copper_sieve.core.targets.target_preset import TargetPreset
from copper_sieve.services.loaded_models import LoadedModels
from copper_sieve.settings import Settings
from copper_sieve.store.cache import FolderCache, LayeredCache, MemoryCache
from copper_sieve.store.content_store import FolderContentStore
from copper_sieve.store.database import Database, Transaction
from copper_sieve.store.delivery_locations import DeliveryLocations
from copper_sieve.store.jobs import StoredJob
from copper_sieve.store.models import file_of
from copper_sieve.store.owned_folders import OwnedFolder, delete_abandoned
from copper_sieve.store.sources import get_source, read_chunks


@dataclass
class Context:
    """Shared resources, one instance per process.

    enqueue : function (connection, delivery id) that adds a delivery to the queue if missing
    start_job : function (connection, job) that adds the task of a job to the queue
    recognitions : detection results of files in Intake; see `arrange`
    compared : results of comparing a delivered preset with a target; see `delivered_of`
    problems : version of each set and why it can't be read, or None; see `unreadable`
    models : models in memory; see `load_model`
    closing : set when the process ends; previews stop
    looked_at : the last viewed channel; see `channel_planes`
    """

    settings: Settings
    database: Database
    enqueue: Callable[[Transaction, int], None]
    memory: MemoryCache = field(default_factory=MemoryCache)
    start_job: Callable[[Transaction, StoredJob], None] = lambda *_: None
    recognitions: dict[tuple[int, str], Recognition] = field(default_factory=dict)
    compared: dict[tuple[str, str], tuple[TargetPreset, bool]] = field(default_factory=dict)
    problems: dict[int, tuple[int, str | None]] = field(default_factory=dict)
    looked_at: tuple[str, Any] | None = None
    models: LoadedModels = field(default_factory=LoadedModels)
    closing: threading.Event = field(default_factory=threading.Event)
    _places: tuple[tuple[Path, str], DeliveryLocations] | None = field(default=None, init=False)
    folder: FolderCache = field(init=False)
    cache: LayeredCache = field(init=False)
    batch_cache: LayeredCache = field(init=False)
    stock: FolderContentStore = field(init=False)

    def __post_init__(self) -> None:
        self.database.use_places(self.places)
        self.folder = FolderCache(self.settings.cache_place, self.settings.cache_bytes)
        self.cache = LayeredCache(self.memory, self.folder)
        self.batch_cache = LayeredCache(self.memory, self.folder, only_near=True)
        self.stock = FolderContentStore(str(self.settings.home / "kept"), self.settings.kept_bytes)

    def places(self) -> DeliveryLocations:
        """Return the folders of this server by name."""
        key = (self.settings.delivery_root, self.settings.roots)
        if self._places is None or self._places[0] != key:
            self._places = key, DeliveryLocations(self.settings.open_folders)
        return self._places[1]

    def clear_left_behind(self) -> None:
        """Delete unfinished uploads of processes that have ended."""
        delete_abandoned(self._passing)
        self.folder.clear_left_behind()
        self.stock.clear_left_behind()

    def close(self) -> None:
        """Delete this process's unfinished files in shared folders."""
        self.folder.close()
        self.stock.close()

    def load_source(self, sha256: str) -> Picture:
        """Decode a source: its bytes are streamed to a temporary file."""
        with self.incoming() as folder:
            return read_picture(self.fetch_source(sha256, folder), self.settings.limits)[1]

    def fetch_source(self, sha256: str, folder: Path) -> Path:
        """Write a source's original bytes into a folder, under its original name."""
        with self.database.transaction() as connection:
            name = get_source(connection, sha256).facts.file_name
        return self._written(sha256, folder / name)

    def load_model(self, sha256: str) -> Mesh:
        """Return the triangles of a model, by its file. Raises NotFoundError, MeshError."""

        def read() -> Mesh:
            with self.incoming() as folder:
                path = self.fetch_model(sha256, folder)
                inside = folder / "inside"
                inside.mkdir()
                return read_model_file(path, inside, self.settings.model_limits)

        return self.models.get(sha256, read)

    def fetch_model(self, sha256: str, folder: Path) -> Path:
        """Write a model's original bytes into a folder, under its original name."""
        with self.database.transaction() as connection:
            name, _ = file_of(connection, sha256)
        return self._written(sha256, folder / name)

    def _written(self, sha256: str, path: Path) -> Path:
        with path.open("wb") as file:
            for chunk in read_chunks(self.database, sha256):
                file.write(chunk)
        return path

    def incoming(self) -> OwnedFolder:
        """Create a temporary folder for uploads and downloads, deleted at the end of the block."""
        return OwnedFolder(self._passing)

    @property
    def _passing(self) -> Path:
        return self.settings.home / "passing"
