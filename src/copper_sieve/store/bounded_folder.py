"""A size-limited folder of entries that may be lost, shared by processes, with atomic writes."""

from __future__ import annotations

import contextlib
import os
import threading
import time
import uuid
from collections.abc import Callable
from datetime import datetime
from pathlib import Path
from typing import IO, Any, TypeVar

from copper_sieve.store.owned_folders import OwnedFolder, delete_abandoned

T = TypeVar("T")
_PARTIAL = "partial"  # the folder for entries that are being written
_TOUCH_EVERY = 60.0  # seconds
_MOST_TOUCHED = 100_000
# A process looks at the folder each time it has written this share of the limit, and leaves as much
# room as so many processes may write until they look.
_LOOK_SHARE = 1 / 32
_PROCESSES = 4


def opened(place: str) -> tuple[Any, str]:
    """Return the file system of a folder or an fsspec URL, and the path in it.

    Listings aren't cached, because other processes write to the folder.
    """
    import fsspec  # here, since the headless commands keep nothing in a folder

    files, root = fsspec.core.url_to_fs(place, use_listings_cache=False)
    return files, str(root)


class BoundedFolder:
    """Files by name in a folder or an fsspec location; thread-safe.

    The byte limit applies to all processes that share the folder: each lists the folder before it
    has written a relevant amount, and deletes the least recently used files.
    """

    def __init__(self, place: str, limit: int) -> None:
        self._files, self._root = opened(place)
        self._is_local = "file" in self._files.protocol
        self._limit = limit
        self._written: float = limit  # since the folder was looked at; first it is unknown
        self._touched: dict[str, float] = {}
        self._partial: OwnedFolder | None = None
        self._lock = threading.Lock()

    def clear_left_behind(self) -> None:
        """Delete unfinished entries of processes that have ended."""
        if self._is_local:
            delete_abandoned(Path(self._root) / _PARTIAL)

    def close(self) -> None:
        """Delete unfinished entries of this process."""
        with self._lock:
            if self._partial:
                self._partial.close()
                self._partial = None

    def path(self, name: str) -> str:
        """Return the path of an entry, or None."""
        return f"{self._root}/{name[:2]}/{name}"

    def read(self, name: str, load: Callable[[IO[bytes]], T]) -> T | None:
        """Return what `load` returns for an entry's path; None if it is missing or unreadable."""
        path = self.path(name)
        try:
            with self._files.open(path, "rb") as file:
                found = load(file)
        except Exception:  # each storage type has its own exceptions
            return None
        self._used(name, path)
        return found

    def _used(self, name: str, path: str) -> None:
        """Update a file's time on use, at intervals, so that all processes know it is in use."""
        now = time.time()
        with self._lock:
            if not self._is_local or now - self._touched.get(name, 0.0) < _TOUCH_EVERY:
                return
            if len(self._touched) >= _MOST_TOUCHED:
                self._touched.clear()
            self._touched[name] = now
        with contextlib.suppress(OSError):
            os.utime(path)

    def write(self, name: str, size: int, save: Callable[[IO[bytes]], object]) -> None:
        """Store an entry that `save` writes, unless it is larger than the limit.

        size : estimated bytes. Raises OSError; then nothing of the entry remains.
        """
        if size > self._limit:
            return
        path = self.path(name)
        partial = ""
        try:
            self._make_room(size)
            self._files.makedirs(path.rsplit("/", 1)[0], exist_ok=True)
            partial = f"{self._partial_folder()}/{uuid.uuid4().hex}"
            with self._files.open(partial, "wb") as file:
                save(file)
            self._files.mv(partial, path)
        except BaseException as error:
            with contextlib.suppress(Exception):
                if partial:
                    self._files.rm_file(partial)
            if isinstance(error, Exception) and not self._is_local:
                raise OSError(f"couldn't write {path} ({error})") from error
            raise

    def has(self, name: str) -> bool:
        """Return whether an entry exists, and mark it as used."""
        path = self.path(name)
        try:
            there = bool(self._files.exists(path))
        except Exception:
            return False
        if there:
            self._used(name, path)
        return there

    def forget(self, name: str) -> None:
        """Delete an entry if it exists."""
        with contextlib.suppress(Exception):
            self._files.rm_file(self.path(name))

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
        """List the folder before the limit could be exceeded."""
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
        """Return time of last use, size and path of every complete entry."""
        try:
            found = self._files.find(self._root, detail=True).values()
        except OSError:
            return []
        return [
            (
                _seconds(info.get("mtime") or info.get("LastModified")),
                int(info["size"] or 0),
                str(info["name"]),
            )
            for info in found
            if f"/{_PARTIAL}/" not in str(info["name"])
        ]


def _seconds(when: object) -> float:
    if isinstance(when, datetime):
        return when.timestamp()
    return float(when) if isinstance(when, int | float) else 0.0
