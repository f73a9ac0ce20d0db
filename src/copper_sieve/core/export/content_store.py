"""Cache of delivered files by content, so that identical files aren't computed again."""

from __future__ import annotations

from dataclasses import dataclass
from pathlib import Path
from typing import Protocol

from copper_sieve.core.models.assay import FileCheck
from copper_sieve.core.models.manifest import FileEntry


@dataclass(frozen=True, slots=True)
class StoredFile:
    """A delivered texture: its manifest entry and its verification.

    depth : of the set's height in meters, if it was measured for that delivery, by `depth_key`
    """

    entry: FileEntry
    check: FileCheck
    depth_key: str | None = None
    depth: float | None = None


class ContentStore(Protocol):
    """Stores files by their `written_key`; may discard any of them at any time."""

    def find(self, written_key: str) -> StoredFile | None:
        """Return the cached file of a key, or None."""

    def bring(self, stocked: StoredFile, path: Path) -> bool:
        """Write a cached file to a path.

        Returns
        -------
        False if the cached file was lost or modified; then nothing is left at the path

        Raises
        ------
        OSError : if the path can't be written
        """


class NoContentStore:
    """Stores nothing."""

    def find(self, written_key: str) -> StoredFile | None:
        """Return None."""
        return None

    def bring(self, stocked: StoredFile, path: Path) -> bool:
        """Return False."""
        return False
