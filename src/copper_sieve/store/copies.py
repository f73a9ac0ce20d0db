"""Copies of deliveries to fsspec locations such as object storage, and back.

Folders can't be swapped there: files are uploaded one by one and read back, and the manifest is
written last. So a manifest only lists existing files; readers of a copy in progress detect changes
by the checksums of the old manifest. A list of pending files identifies them as written by this
program after a failure.
"""

from __future__ import annotations

import hashlib
import json
import shutil
from collections.abc import Callable
from contextlib import suppress
from dataclasses import dataclass
from pathlib import Path

from pydantic import ConfigDict

from copper_sieve.core.codecs.checksums import known_sha256
from copper_sieve.core.errors import CancelledError, DeliveryError, ForeignFileError, SieveError
from copper_sieve.core.export.atomic_swap import swapped_in
from copper_sieve.core.export.shared_folder import staged_folder_for
from copper_sieve.core.models.base import FileName, Model
from copper_sieve.store.bounded_folder import opened

_CHUNK = 1 << 20


@dataclass(frozen=True, slots=True)
class CopyCounts:
    """Number of uploaded, unchanged and deleted files."""

    sent: int
    kept: int
    removed: int


def copy_to(
    place: str,
    folder: Path,
    manifest_name: str,
    *,
    is_cancelled: Callable[[], bool] | None = None,
) -> CopyCounts:
    """Upload the files of a folder's manifest, and the manifest, to a location of the same layout.

    place : fsspec URL of the destination folder
    Files there that no manifest of ours lists are left alone. Raises ForeignFileError if one of
    them has the name of a file to be uploaded, DeliveryError if the location can't be reached or
    returns other bytes than were sent, CancelledError.
    """
    try:
        return _Sending(place, folder, manifest_name, is_cancelled or (lambda: False)).send()
    except SieveError:
        raise
    except Exception as error:  # each storage type has its own exceptions
        raise DeliveryError(f"couldn't write {place} ({_why(error)})") from error


def fetch_copy(
    place: str, folder: Path, manifest_name: str, *, token: str, root: Path | None = None
) -> bool:
    """Update a folder from the copy at a location; return whether a file had to be downloaded.

    place : as in `copy_to`
    token : names the hidden folder in which files are collected
    root : a folder that the files must stay below
    Files that the folder already has aren't downloaded. All files are put in place, or none. Raises
    DeliveryError if the location can't be reached or is being written to.
    """
    try:
        return _fetch(place, folder, manifest_name, token, root)
    except SieveError:
        raise
    except Exception as error:  # each storage type has its own exceptions
        raise DeliveryError(f"couldn't read {place} ({_why(error)})") from error


def _fetch(place: str, folder: Path, manifest_name: str, token: str, root: Path | None) -> bool:
    files, base = opened(place)
    try:
        manifest = files.cat_file(f"{base.rstrip('/')}/{manifest_name}")
    except FileNotFoundError:
        return False
    with suppress(OSError):
        if (folder / manifest_name).read_bytes() == manifest:
            return False
    into = staged_folder_for(folder, token, manifest_name, root)
    try:
        working = into.stage()
        for name, entry in _named(manifest).items():
            path, here = working / name, into.folder / name
            if here.is_file() and known_sha256(here) == entry.sha256:
                shutil.copyfile(here, path)
                continue
            files.get_file(f"{base.rstrip('/')}/{name}", str(path))
            if known_sha256(path) != entry.sha256:
                raise DeliveryError(f"{place}/{name} is being written. Try again")
        (working / manifest_name).write_bytes(manifest)
        with swapped_in([into]):
            pass
    finally:
        into.discard()
        into.close()
    return True


class _Sending:
    def __init__(
        self, place: str, folder: Path, manifest_name: str, is_cancelled: Callable[[], bool]
    ) -> None:
        self._files, self._root = opened(place)
        self._place, self._folder, self._name = place, folder, manifest_name
        self._list = f".{manifest_name}.sending"
        self._is_cancelled = is_cancelled

    def send(self) -> CopyCounts:
        own = (self._folder / self._name).read_bytes()
        due, there = _named(own), self._there()
        todo = {
            name: entry
            for name, entry in due.items()
            if name not in there
            or there[name].sha256 != entry.sha256
            or not self._lies(name, entry)
        }
        self._files.makedirs(self._root, exist_ok=True)
        self._begin([name for name in todo if name not in there])
        for name, entry in todo.items():
            if self._is_cancelled():
                raise CancelledError
            self._send(name, entry.sha256)
        # What somebody has changed there since is theirs, and stays.
        gone = [name for name, one in there.items() if name not in due and self._lies(name, one)]
        for name in gone:
            self._files.rm_file(self._at(name))
        self._files.pipe_file(self._at(self._name), own)
        with suppress(FileNotFoundError):
            self._files.rm_file(self._at(self._list))
        return CopyCounts(len(todo), len(due) - len(todo), len(gone))

    def _begin(self, new: list[str]) -> None:
        """Record names that are new at the location; none of them may be a foreign file."""
        try:
            begun = set(json.loads(self._files.cat_file(self._at(self._list))))
        except (FileNotFoundError, ValueError):
            begun = set()
        for name in new:
            if name not in begun and self._files.exists(self._at(name)):
                raise ForeignFileError(
                    f"{name} already exists at {self._place} and wasn't written by a "
                    "delivery. Move it"
                )
        if new:
            names = json.dumps(sorted(begun | set(new))).encode()
            self._files.pipe_file(self._at(self._list), names)

    def _there(self) -> dict[str, _Sent]:
        """Return the files of the manifest at the location; empty if it is missing or invalid."""
        try:
            return _named(self._files.cat_file(self._at(self._name)))
        except (FileNotFoundError, ValueError):
            return {}

    def _lies(self, name: str, entry: _Sent) -> bool:
        try:
            return bool(self._files.size(self._at(name)) == entry.bytes)
        except FileNotFoundError:
            return False

    def _send(self, name: str, sha256: str) -> None:
        self._files.put_file(str(self._folder / name), self._at(name))
        digest = hashlib.sha256()
        with self._files.open(self._at(name), "rb") as file:
            while piece := file.read(_CHUNK):
                digest.update(piece)
        if digest.hexdigest() != sha256:
            raise DeliveryError(
                f"{self._place} returned different bytes of {name} than were written"
            )

    def _at(self, name: str) -> str:
        return f"{self._root.rstrip('/')}/{name}"


class _Sent(Model):
    """A file listed in a manifest, without the other fields of its entry."""

    model_config = ConfigDict(extra="ignore")
    name: FileName
    sha256: str
    bytes: int


class _Named(Model):
    """The files that a manifest of any version lists."""

    model_config = ConfigDict(extra="ignore")
    files: tuple[_Sent, ...] = ()
    documents: tuple[_Sent, ...] = ()
    left: tuple[_Sent, ...] = ()


def _named(text: bytes) -> dict[str, _Sent]:
    """Return the files that a manifest lists, each directly in its folder. Raises ValueError."""
    found = _Named.model_validate_json(text)
    return {one.name: one for one in (*found.files, *found.documents, *found.left)}


def _why(error: Exception) -> str:
    return str(getattr(error, "strerror", None) or error or type(error).__name__)
