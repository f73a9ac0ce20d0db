"""Delivered files by content, within a size limit."""

from __future__ import annotations

import hashlib
import json
import logging
from collections.abc import Mapping
from pathlib import Path
from typing import IO, Any

from pydantic import ValidationError

from copper_sieve.core.codecs.checksums import known_sha256
from copper_sieve.core.export.content_store import StoredFile
from copper_sieve.core.models.assay import FileCheck
from copper_sieve.core.models.manifest import FileEntry, Manifest, manifest_text
from copper_sieve.store.bounded_folder import BoundedFolder

_CHUNK = 1 << 20
_log = logging.getLogger(__name__)


class FolderContentStore:
    """Files by their SHA-256, and records of delivered files by their `written_key`.

    A limit of 0 bytes disables it.
    """

    def __init__(self, place: str, limit: int) -> None:
        self._folder, self._limit = BoundedFolder(place, limit), limit

    def close(self) -> None:
        """Delete unfinished entries of this process."""
        self._folder.close()

    def clear_left_behind(self) -> None:
        """Delete unfinished entries of processes that have ended."""
        self._folder.clear_left_behind()

    def find(self, written_key: str) -> StoredFile | None:
        """Return the record of a key, or None."""
        found = self._folder.read(_name(written_key), json.load)
        try:
            return None if found is None else _stocked(found)
        except (KeyError, TypeError, ValidationError):  # of another version
            return None

    def bring(self, stocked: StoredFile, path: Path) -> bool:
        """Write a stored file to a path; return False if its bytes are missing or changed."""
        return self.fetch(stocked.entry.sha256, path)

    def fetch(self, sha256: str, path: Path) -> bool:
        """Write the bytes of a digest to a path, verified during the copy.

        Return False if they are missing.

        Raises OSError if the path can't be written. Then, and for False, no file remains at the
        path.
        """
        whole = False
        try:
            with path.open("wb") as out:
                whole = self._folder.read(sha256, lambda file: _copied(file, out)) == sha256
        finally:
            if not whole:
                path.unlink(missing_ok=True)
        if not whole:
            self._folder.forget(sha256)
        return whole

    def path(self, sha256: str) -> Path | None:
        """Return the path of the bytes of a digest; None if they are missing or changed."""
        path = Path(self._folder.path(sha256))
        try:
            return path if self._folder.has(sha256) and known_sha256(path) == sha256 else None
        except OSError:
            return None

    def keep(
        self, folder: Path, name: str, manifest: Manifest, checks: Mapping[str, FileCheck]
    ) -> None:
        """Store all files of a delivery including its manifest; a full disk isn't an error.

        name : name of the manifest; checks : checks by file name
        """
        if not self._limit:
            return
        text = manifest_text(manifest).encode()
        try:
            self._keep_bytes(folder / name, hashlib.sha256(text).hexdigest(), len(text))
            for document in manifest.documents:
                self._keep_bytes(folder / document.name, document.sha256, document.bytes)
            for entry in manifest.files:
                if self._keep_bytes(folder / entry.name, entry.sha256, entry.bytes):
                    self._keep_entry(entry, checks.get(entry.name), manifest)
        except OSError as error:
            _log.warning("couldn't cache the delivered files of %s: %s", folder, error)

    def _keep_bytes(self, path: Path, sha256: str, size: int) -> bool:
        if self._folder.has(sha256):
            return True
        same = []

        def save(out: IO[bytes]) -> None:
            with path.open("rb") as file:
                if _copied(file, out) != sha256:
                    raise OSError(f"{path} was modified in the meantime")
            same.append(True)

        self._folder.write(sha256, size, save)
        return bool(same)

    def _keep_entry(self, entry: FileEntry, check: FileCheck | None, manifest: Manifest) -> None:
        if entry.written_key is None or check is None or not check.ok:
            return
        record = {
            "entry": entry.model_dump(mode="json"),
            "check": check.model_dump(mode="json"),
            "depth_key": manifest.depth_key,
            "depth": manifest.surface.depth,
        }
        data = json.dumps(record).encode()
        self._folder.write(_name(entry.written_key), len(data), lambda file: file.write(data))


def _name(written_key: str) -> str:
    return f"{written_key}.json"


def _stocked(found: dict[str, Any]) -> StoredFile:
    return StoredFile(
        FileEntry.model_validate(found["entry"]),
        FileCheck.model_validate(found["check"]),
        found["depth_key"],
        found["depth"],
    )


def _copied(source: IO[bytes], target: IO[bytes]) -> str:
    """Copy a file; return the SHA-256 of the copied bytes."""
    digest = hashlib.sha256()
    while piece := source.read(_CHUNK):
        digest.update(piece)
        target.write(piece)
    return digest.hexdigest()
