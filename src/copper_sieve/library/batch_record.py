"""Record of the sets that a batch delivered, so that unchanged sets are skipped."""

from __future__ import annotations

import json
from collections.abc import Iterable, Mapping, Sequence
from pathlib import Path
from typing import Any

from copper_sieve.core.codecs.checksums import file_sha256, known_sha256
from copper_sieve.core.errors import ManifestError, WriteError
from copper_sieve.core.export.assay import read_manifest
from copper_sieve.core.models.manifest import FILE_NAME

RECORD = ".sieve-made.json"


class BatchRecord:
    """Record of the delivered sets in an output folder.

    Parameters
    ----------
    out : output folder of the batch
    digest : digest of the batch options; a record of other options is ignored
    """

    def __init__(self, out: Path, digest: str) -> None:
        self._path, self._digest = out / RECORD, digest
        self._sets: dict[str, Any] = {}
        try:
            held = json.loads(self._path.read_bytes())
            if held["version"] == 1 and held["way"] == digest:
                self._sets = dict(held["sets"])
        except (OSError, ValueError, KeyError, TypeError):
            pass  # no record, or one of other options: everything is delivered

    def is_same(self, name: str, files: Sequence[Path]) -> bool:
        """Return True if the input files and the delivered files of a set are unchanged."""
        held = self._sets.get(name)
        if not held or held["files"] != signatures(files):
            return False
        return all(_is_unchanged(Path(folder), sha) for folder, sha in held["folders"].items())

    def put(self, name: str, folders: Iterable[str], files: Mapping[str, list[int]]) -> None:
        """Store the result of a set immediately.

        Parameters
        ----------
        name : name of the set
        folders : delivered folders
        files : signatures of the input files from before reading, so that later changes are
            detected

        Raises
        ------
        WriteError : if the record can't be written
        """
        self._sets[name] = {
            "files": files,
            "folders": {folder: file_sha256(Path(folder) / FILE_NAME) for folder in folders},
        }
        text = json.dumps({"version": 1, "way": self._digest, "sets": self._sets}, indent=1)
        half = self._path.with_suffix(".half")
        try:
            half.write_text(text, "utf-8")
            half.replace(self._path)
        except OSError as error:
            raise WriteError(f"couldn't write {self._path} ({error.strerror})") from error


def signatures(files: Sequence[Path]) -> dict[str, list[int]]:
    """Return size in bytes and modification time in ns of each readable file, by path."""
    found = {}
    for path in files:
        try:
            stat = path.stat()
        except OSError:
            continue
        found[str(path)] = [stat.st_size, stat.st_mtime_ns]
    return found


def _is_unchanged(folder: Path, sha256: str) -> bool:
    try:
        if known_sha256(folder / FILE_NAME) != sha256:
            return False
        manifest = read_manifest(folder)
        return all(known_sha256(folder / one.name) == one.sha256 for one in manifest.entries)
    except (OSError, ManifestError):
        return False
