"""The caches of computed pixels: one in memory, one in a folder or behind an fsspec URL.

Both may forget anything at any time. The folder survives being deleted under the running server,
and a reader never sees a half-written entry.
"""

from __future__ import annotations

import contextlib
import logging
import os
import threading
import time
import uuid
from collections import OrderedDict
from datetime import datetime
from pathlib import Path

import numpy as np

from copper_sieve.core.graph.evaluate import Cache
from copper_sieve.core.image.raster import Float
from copper_sieve.store.owned import OwnedFolder, clear_dead

_NPY_HEADER = 128  # bytes
_PARTIAL = "partial"  # the folder for entries that are being written
_TOUCH_EVERY = 60.0  # seconds
_MOST_TOUCHED = 100_000
# A process looks at the folder each time it has written this share of the limit, and leaves as much
# room as so many processes may write until they look.
_LOOK_SHARE = 1 / 32
_PROCESSES = 4
_log = logging.getLogger(__name__)


class _LeastRecentlyUsed:
    """Sizes by key in order of use; says what to drop to stay within the limit."""

    def __init__(self, limit: int) -> None:
        self._limit = limit
        self._sizes: OrderedDict[str, int] = OrderedDict()
        self._total = 0

    def used(self, key: str, size: int | None = None) -> list[str]:
        if size is not None:
            self.forget(key)
            self._sizes[key] = size
            self._total += size
        elif key in self._sizes:
            self._sizes.move_to_end(key)
        return self.beyond(self._limit)

    def beyond(self, limit: int) -> list[str]:
        """What to drop, the least recently used first, to stay within a limit."""
        dropped: list[str] = []
        while self._total > limit and len(self._sizes) > 1:
            dropped.append(next(iter(self._sizes)))
            self.forget(dropped[-1])
        return dropped

    def forget(self, key: str) -> None:
        self._total -= self._sizes.pop(key, 0)


class MemoryCache:
    """Pixels in memory, the least recently used dropped first; safe for threads."""

    def __init__(self, limit: int = 512 * 1024 * 1024) -> None:
        self._kept: dict[str, Float] = {}
        self._order = _LeastRecentlyUsed(limit)
        self._lock = threading.Lock()

    def get(self, key: str) -> Float | None:
        """The pixels of a key, or None."""
        with self._lock:
            self._order.used(key)
            return self._kept.get(key)

    def put(self, key: str, pixels: Float) -> None:
        """Keep the pixels of a key; they must not be changed afterwards."""
        pixels.setflags(write=False)
        with self._lock:
            self._kept[key] = pixels
            for dropped in self._order.used(key, pixels.nbytes):
                del self._kept[dropped]

    def shrink(self, limit: int) -> None:
        """Drop what was used least recently until so many bytes are left."""
        with self._lock:
            for dropped in self._order.beyond(limit):
                del self._kept[dropped]


class FolderCache:
    """Pixels as .npy files in a folder, or at any place fsspec can reach; safe for threads.

    The limit holds for all processes that use the folder together: each looks at what really lies
    there before it has written so much that it matters, and drops what was used least recently.
    """

    def __init__(self, place: str, limit: int) -> None:
        import fsspec  # here, since the headless commands keep their pixels in memory

        self._files, self._root = fsspec.core.url_to_fs(place)
        self._is_local = "file" in self._files.protocol
        self._limit = limit
        self._written: float = limit  # since the folder was looked at; first it is unknown
        self._touched: dict[str, float] = {}
        self._partial: OwnedFolder | None = None
        self._lock = threading.Lock()

    def clear_left_behind(self) -> None:
        """Remove entries that processes left half-written which are gone."""
        if self._is_local:
            clear_dead(Path(self._root) / _PARTIAL)

    def close(self) -> None:
        """Leave nothing of ours in the folder but whole entries."""
        with self._lock:
            if self._partial:
                self._partial.close()
                self._partial = None

    def _path(self, key: str) -> str:
        return f"{self._root}/{key[:2]}/{key}.npy"

    def get(self, key: str) -> Float | None:
        """The pixels of a key, or None when they are not there or not whole."""
        path = self._path(key)
        try:
            with self._files.open(path, "rb") as file:
                pixels: Float = np.load(file, allow_pickle=False)
        except (OSError, ValueError, EOFError):
            return None
        self._used(key, path)
        return pixels

    def _used(self, key: str, path: str) -> None:
        """What is used stays: the file's time says so to all processes, though not at each use."""
        now = time.time()
        with self._lock:
            if not self._is_local or now - self._touched.get(key, 0.0) < _TOUCH_EVERY:
                return
            if len(self._touched) >= _MOST_TOUCHED:
                self._touched.clear()
            self._touched[key] = now
        with contextlib.suppress(OSError):
            os.utime(path)

    def put(self, key: str, pixels: Float) -> None:
        """Keep the pixels of a key; a full disk or a lost folder costs only time later. What is
        larger than all that may be kept is not written at all."""
        if pixels.nbytes > self._limit:
            return
        path = self._path(key)
        partial = ""
        try:
            self._make_room(pixels.nbytes + _NPY_HEADER)
            self._files.makedirs(path.rsplit("/", 1)[0], exist_ok=True)
            partial = f"{self._partial_folder()}/{uuid.uuid4().hex}"
            with self._files.open(partial, "wb") as file:
                np.save(file, pixels, allow_pickle=False)
            self._files.mv(partial, path)
        except OSError as error:
            _log.warning("the cache could not keep a map: %s", error)
            with contextlib.suppress(OSError):
                if partial:
                    self._files.rm_file(partial)

    def _partial_folder(self) -> str:
        if not self._is_local:
            folder = f"{self._root}/{_PARTIAL}"
            self._files.makedirs(folder, exist_ok=True)
            return folder
        with self._lock:
            if self._partial is None or not self._partial.path.is_dir():
                self._partial = OwnedFolder(Path(self._root) / _PARTIAL)
            return str(self._partial.path)

    def _make_room(self, size: int) -> None:
        """Before so much more is written that the limit could be passed, look what lies there."""
        with self._lock:
            self._written += size
            if self._written < self._limit * _LOOK_SHARE:
                return
            self._written = 0
            entries = sorted(self._entries(), key=lambda entry: entry[0])
            # Room for what all processes may write until they look again.
            total = sum(one for _, one, _ in entries) + size
            keep = self._limit * (1 - _LOOK_SHARE * _PROCESSES)
            for _, one, path in entries:
                if total <= keep:
                    break
                with contextlib.suppress(OSError):
                    self._files.rm_file(path)
                total -= one

    def _entries(self) -> list[tuple[float, int, str]]:
        """Time of last use, size and path of every whole entry."""
        try:
            found = self._files.find(self._root, detail=True).values()
        except OSError:
            return []
        return [
            (_seconds(info.get("mtime")), int(info["size"] or 0), str(info["name"]))
            for info in found
            if str(info["name"]).endswith(".npy")
        ]


def _seconds(when: object) -> float:
    if isinstance(when, datetime):
        return when.timestamp()
    return float(when) if isinstance(when, int | float) else 0.0


class LayeredCache:
    """Memory first, then the folder; what the folder has is brought into memory.

    only_near : nothing is put into the folder: what is computed once for a long batch would drive
        out what people look at
    """

    def __init__(self, near: Cache, far: Cache, *, only_near: bool = False) -> None:
        self._near, self._far, self._only_near = near, far, only_near

    def get(self, key: str) -> Float | None:
        """The pixels of a key, or None."""
        pixels = self._near.get(key)
        if pixels is None and (pixels := self._far.get(key)) is not None:
            self._near.put(key, pixels)
        return pixels

    def put(self, key: str, pixels: Float) -> None:
        """Keep the pixels in both, as far as they are kept."""
        self._near.put(key, pixels)
        if not self._only_near:
            self._far.put(key, pixels)
