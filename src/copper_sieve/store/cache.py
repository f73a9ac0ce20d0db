"""Caches of computed pixels: one in memory, one in a folder or behind an fsspec URL.

Both may drop any entry at any time. The folder can be deleted while the server runs, and a reader
never gets a half-written entry.
"""

from __future__ import annotations

import logging
import threading
from collections import OrderedDict
from typing import Any

import numpy as np
from numpy.typing import NDArray

from copper_sieve.core.graph.evaluate import Cache
from copper_sieve.core.image.raster import Float
from copper_sieve.store.bounded_folder import BoundedFolder

_NPY_HEADER = 128  # bytes
_log = logging.getLogger(__name__)


class _LeastRecentlyUsed:
    """Sizes by key in order of use."""

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
        """Return the keys to drop, the least recently used first, to stay within a limit."""
        dropped: list[str] = []
        while self._total > limit and len(self._sizes) > 1:
            dropped.append(next(iter(self._sizes)))
            self.forget(dropped[-1])
        return dropped

    def forget(self, key: str) -> None:
        self._total -= self._sizes.pop(key, 0)


class MemoryCache:
    """Pixels in memory with a size limit, least recently used dropped first; thread-safe."""

    def __init__(self, limit: int = 512 * 1024 * 1024) -> None:
        self._kept: dict[str, Float] = {}
        self._order = _LeastRecentlyUsed(limit)
        self._lock = threading.Lock()

    def get(self, key: str) -> Float | None:
        """Return the pixels of a key, or None."""
        with self._lock:
            self._order.used(key)
            return self._kept.get(key)

    def put(self, key: str, pixels: Float) -> None:
        """Store the pixels of a key; they must not be changed afterwards."""
        pixels.setflags(write=False)
        with self._lock:
            self._kept[key] = pixels
            for dropped in self._order.used(key, pixels.nbytes):
                del self._kept[dropped]

    def shrink(self, limit: int) -> None:
        """Drop the least recently used entries until this many bytes are left."""
        with self._lock:
            for dropped in self._order.beyond(limit):
                del self._kept[dropped]


class FolderCache:
    """Pixels as .npy files in a folder or an fsspec location; thread-safe."""

    def __init__(self, place: str, limit: int) -> None:
        self._folder = BoundedFolder(place, limit)

    def clear_left_behind(self) -> None:
        """Delete unfinished entries of processes that have ended."""
        self._folder.clear_left_behind()

    def close(self) -> None:
        """Delete unfinished entries of this process."""
        self._folder.close()

    def get(self, key: str) -> Float | None:
        """Return the pixels of a key; None if they are missing or incomplete."""
        return self._folder.read(f"{key}.npy", lambda file: np.load(file, allow_pickle=False))

    def has(self, key: str) -> bool:
        """Return whether a key has an entry, without reading it."""
        return self._folder.has(f"{key}.npy")

    def put(self, key: str, pixels: NDArray[Any]) -> None:
        """Store the pixels of a key; a full disk or a missing folder isn't an error. Pixels larger
        than the limit aren't stored.
        """
        size = pixels.nbytes + _NPY_HEADER
        try:
            self._folder.write(
                f"{key}.npy", size, lambda file: np.save(file, pixels, allow_pickle=False)
            )
        except OSError as error:
            _log.warning("couldn't cache a map: %s", error)


class LayeredCache:
    """A memory cache in front of a folder cache; maps found in the folder are loaded into memory.

    only_near : don't write to the folder, because results of long batches would evict previews
    """

    def __init__(self, near: Cache, far: Cache, *, only_near: bool = False) -> None:
        self._near, self._far, self._only_near = near, far, only_near

    def get(self, key: str) -> Float | None:
        """Return the pixels of a key, or None."""
        pixels = self._near.get(key)
        if pixels is None and (pixels := self._far.get(key)) is not None:
            self._near.put(key, pixels)
        return pixels

    def put(self, key: str, pixels: Float) -> None:
        """Store the pixels in both, within their limits."""
        self._near.put(key, pixels)
        if not self._only_near:
            self._far.put(key, pixels)
