"""The caches of computed pixels: one in memory, one in a folder or behind an fsspec URL.

Both may forget anything at any time. The folder survives being deleted under the running server,
and a reader never sees a half-written entry.
"""

from __future__ import annotations

import contextlib
import logging
import threading
import uuid
from collections import OrderedDict

import fsspec
import numpy as np

from copper_sieve.core.image.raster import Float
from copper_sieve.core.pipeline.evaluate import Cache

_NPY_HEADER = 128  # bytes
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
        dropped = []
        while self._total > self._limit and len(self._sizes) > 1:
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


class FolderCache:
    """Pixels as .npy files in a folder, or at any place fsspec can reach; safe for threads."""

    def __init__(self, place: str, limit: int) -> None:
        self._files, self._root = fsspec.core.url_to_fs(place)
        self._order = _LeastRecentlyUsed(limit)
        self._lock = threading.Lock()
        with contextlib.suppress(FileNotFoundError):
            found = self._files.find(self._root, detail=True).values()
            for info in sorted(found, key=lambda entry: str(entry.get("mtime", ""))):
                name = info["name"].rsplit("/", 1)[-1]
                if name.endswith(".npy"):
                    self._drop(self._order.used(name.removesuffix(".npy"), info["size"]))

    def _drop(self, keys: list[str]) -> None:
        for key in keys:
            with contextlib.suppress(FileNotFoundError):
                self._files.rm_file(self._path(key))

    def _path(self, key: str) -> str:
        return f"{self._root}/{key[:2]}/{key}.npy"

    def get(self, key: str) -> Float | None:
        """The pixels of a key, or None when they are not there or not whole."""
        try:
            with self._files.open(self._path(key), "rb") as file:
                pixels: Float = np.load(file, allow_pickle=False)
        except (OSError, ValueError, EOFError):
            return None
        with self._lock:
            self._order.used(key)
        return pixels

    def put(self, key: str, pixels: Float) -> None:
        """Keep the pixels of a key; a full disk or a lost folder costs only time later."""
        path = self._path(key)
        partial = f"{path}.{uuid.uuid4().hex}"
        try:
            self._files.makedirs(path.rsplit("/", 1)[0], exist_ok=True)
            with self._files.open(partial, "wb") as file:
                np.save(file, pixels, allow_pickle=False)
            self._files.mv(partial, path)
            with self._lock:
                dropped = self._order.used(key, pixels.nbytes + _NPY_HEADER)
            self._drop(dropped)
        except OSError as error:
            _log.warning("the cache could not keep a map: %s", error)


class LayeredCache:
    """Memory first, then the folder; what the folder has is brought into memory."""

    def __init__(self, near: Cache, far: Cache) -> None:
        self._near, self._far = near, far

    def get(self, key: str) -> Float | None:
        """The pixels of a key, or None."""
        pixels = self._near.get(key)
        if pixels is None and (pixels := self._far.get(key)) is not None:
            self._near.put(key, pixels)
        return pixels

    def put(self, key: str, pixels: Float) -> None:
        """Keep the pixels in both."""
        self._near.put(key, pixels)
        self._far.put(key, pixels)
