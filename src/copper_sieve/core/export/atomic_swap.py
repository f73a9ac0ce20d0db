"""Atomically replaces folders with staged ones: all or none, one writer per folder.

A folder is staged in a hidden sibling that its process keeps locked. To swap, the existing folder
is renamed and the staged one takes its name; the old one is only deleted after the caller recorded
the delivery. So a crashed process leaves enough to revert everything.
"""

from __future__ import annotations

import contextlib
import copy
import fcntl
import glob
import logging
import os
import shutil
import time
from collections.abc import Callable, Collection, Iterator, Sequence
from dataclasses import dataclass, field
from pathlib import Path
from typing import Self

from copper_sieve.core.errors import (
    CancelledError,
    DeliveryError,
    ForeignFileError,
    ManifestError,
    PartialDeliveryError,
    SieveError,
)
from copper_sieve.core.export.assay import read_manifest
from copper_sieve.core.models.manifest import FILE_NAME, Manifest
from copper_sieve.core.untrusted_paths import AnchoredFolder

_log = logging.getLogger(__name__)
_LOOK_AGAIN = 0.05  # seconds, for a folder that another delivery is writing
_ABANDONED = 60.0  # seconds without a change before staged files of a dead process are deleted
_TRIES = 20


def names_in_folder(manifest: Manifest | None, manifest_name: str = FILE_NAME) -> set[str]:
    """Return the names of all files of a delivery, including its manifest."""
    if manifest is None:
        return set()
    return {manifest_name, *(entry.name for entry in (*manifest.entries, *manifest.left))}


def own_files(folder: Path, manifest_name: str = FILE_NAME) -> set[str]:
    """Return the names of files that a delivery wrote, from the manifest in the folder."""
    try:
        return names_in_folder(read_manifest(folder, manifest_name), manifest_name)
    except ManifestError:
        return set()


@dataclass(slots=True)
class StagedFolder:
    """An output folder and its hidden siblings; links are resolved.

    Parameters
    ----------
    wanted : path of the output folder
    token : of the delivery, by which later runs find the remains of a dead process
    manifest_name : of the manifest file
    root : folder that all files must stay inside, links resolved. All operations are relative to
        its open descriptor, so that a link created later can't lead outside

    Raises
    ------
    UnsafeNameError : if the folder isn't inside the root
    """

    wanted: Path
    token: str
    manifest_name: str = FILE_NAME
    root: Path | None = None
    real: Path = field(init=False)
    folder: Path = field(init=False)
    _anchor: AnchoredFolder | None = field(default=None, init=False)
    _handle: int | None = field(default=None, init=False)

    def __post_init__(self) -> None:
        self.real = self.folder = self.wanted.resolve()
        if self.root is not None:
            self._hold(self.root)

    def _hold(self, root: Path) -> None:
        """Open the folder and its siblings through their parent's descriptor."""
        self._anchor = AnchoredFolder(root, self.real.parent)
        self.folder = self._anchor.path / self.real.name

    def shown(self, path: Path) -> Path:
        """Return the real path of the folder, of something in it or of a sibling, for messages."""
        if path.is_relative_to(self.folder):
            return self.real / path.relative_to(self.folder)
        return self.real.parent / path.name

    @property
    def working(self) -> Path:
        """The hidden sibling in which it is staged."""
        return self.folder.parent / f".{self.folder.name}.part-{self.token}"

    @property
    def aside(self) -> Path:
        """The previous folder, until the delivery is recorded."""
        return self.folder.parent / f".{self.folder.name}.old-{self.token}"

    @property
    def nothing(self) -> Path:
        """An empty file that marks that there was no previous folder."""
        return self.folder.parent / f".{self.folder.name}.new-{self.token}"

    @property
    def lock(self) -> Path:
        """A file that is locked by whoever puts the folder in place."""
        return self.folder.parent / f".{self.folder.name}.lock"

    def settle_the_dead(self) -> None:
        """Revert unfinished swaps of processes that died."""
        name = glob.escape(self.folder.name)
        for mark in ("old", "new"):
            start = f".{self.folder.name}.{mark}-"
            for path in sorted(self.folder.parent.glob(f".{name}.{mark}-*")):
                self._of(path.name.removeprefix(start)).take_back()
        self._forget_abandoned(self.folder.parent, f".{self.folder.name}.part-")

    def _forget_abandoned(self, folder: Path, start: str) -> None:
        """Delete staged folders of processes that died long ago.

        A worker on another machine may have continued their delivery without seeing this folder.
        """
        for path in folder.glob(f"{glob.escape(start)}*"):
            other = self._of(path.name.removeprefix(start))
            with contextlib.suppress(OSError):
                old = time.time() - path.stat().st_mtime > _ABANDONED
                if old and other.token != self.token and not other.is_staged_by_another():
                    shutil.rmtree(path, ignore_errors=True)

    def _of(self, token: str) -> Self:
        """Return the folder of another delivery below the same root."""
        other = copy.copy(self)
        other.token, other._handle = token, None
        return other

    def stage(self) -> Path:
        """Create the hidden folder and lock it for the lifetime of the process."""
        shutil.rmtree(self.working, ignore_errors=True)
        self.working.mkdir(parents=True)
        for _ in range(_TRIES):  # processes that only check the lock release it immediately
            with contextlib.suppress(BlockingIOError):
                self._handle = _locked(self.working)
                return self.working
            time.sleep(_LOOK_AGAIN)
        raise DeliveryError(f"{self.real} is being written by another process. Try again later")

    def is_staged_by_another(self) -> bool:
        """Return True while another process writes to the hidden folder."""
        if self._handle is not None or not self.working.is_dir():
            return False
        try:
            handle = _locked(self.working)
        except BlockingIOError:
            return True
        if handle is not None:
            os.close(handle)
        return False

    def discard(self) -> None:
        """Delete the hidden folder, if it exists."""
        shutil.rmtree(self.working, ignore_errors=True)
        if self._handle is not None:
            os.close(self._handle)
            self._handle = None

    def close(self) -> None:
        """Close the root folder's descriptor; the object can't be used afterward."""
        if self._anchor is not None:
            self._anchor.close()

    def swap(self) -> None:
        """Move unrelated files to the hidden folder, flush it, and rename it to the final name."""
        if self.folder.is_symlink():
            raise DeliveryError(f"{self.real} was replaced by a link. Remove the link")
        ours, new = own_files(self.folder), own_files(self.working)
        for path in sorted(self.folder.iterdir()) if self.folder.is_dir() else ():
            if path.name in ours:
                continue
            if path.name in new:
                raise ForeignFileError(
                    f"{self.shown(path)} exists now and wasn't written by a delivery. Move "
                    "it or choose another folder"
                )
            _bring(path, self.working / path.name)
        for path in self.working.iterdir():
            if path.is_file() and not path.is_symlink():
                flush(path)
        flush(self.working)
        if self.folder.exists():
            shutil.copymode(self.folder, self.working)
            self.folder.rename(self.aside)
        else:
            self.nothing.touch()
        self.working.rename(self.folder)
        flush(self.folder.parent)

    def keep(self) -> None:
        """Finish: delete the previous folder, except for files added since."""
        if self.aside.is_dir():
            _move_new_ones(self.aside, self.folder, own_files(self.aside))
            shutil.rmtree(self.aside, ignore_errors=True)
        self.nothing.unlink(missing_ok=True)

    def take_back(self) -> None:
        """Revert a partial or complete swap. Raises OSError."""
        if self.aside.is_dir():
            if self.folder.exists():
                _move_new_ones(self.folder, self.aside, own_files(self.folder))
                shutil.rmtree(self.folder)
            self.aside.rename(self.folder)
            flush(self.folder.parent)
        elif self.nothing.exists():
            for name in own_files(self.folder):
                (self.folder / name).unlink(missing_ok=True)
            with contextlib.suppress(OSError):  # files of others came into it
                self.folder.rmdir()
            self.nothing.unlink()


@contextlib.contextmanager
def swapped_in(
    places: Sequence[StagedFolder],
    *,
    is_cancelled: Callable[[], bool] | None = None,
    undecided: tuple[type[BaseException], ...] = (),
) -> Iterator[None]:
    """Swap all staged folders; the body of the `with` block records the delivery.

    An error here or in the body reverts all swaps. After an `undecided` error (it is unknown
    whether the delivery was recorded), they are left for `clear_left_behind`.

    Parameters
    ----------
    places : staged folders
    is_cancelled : returns True to cancel
    undecided : exception types

    Raises
    ------
    DeliveryError : if a folder can't be replaced
    PartialDeliveryError : if swaps can't be reverted
    CancelledError : if cancelled while another delivery writes to one of the folders
    """
    with contextlib.ExitStack() as locks:
        for place in sorted(places, key=lambda one: str(one.real)):
            locks.enter_context(_one_writer(place.lock, is_cancelled))
            place.settle_the_dead()
        begun: list[StagedFolder] = []
        try:
            for place in places:
                begun.append(place)
                place.swap()
            yield
        except undecided:
            raise
        except BaseException as error:
            stuck = _take_back(begun)
            if stuck:
                raise PartialDeliveryError(_told(begun[-1], error, stuck)) from error
            if isinstance(error, OSError):
                raise DeliveryError(_told(begun[-1], error, stuck)) from error
            raise
        for place in places:
            place.keep()


def clear_left_behind(places: Sequence[StagedFolder], *, done: bool = False) -> list[str] | None:
    """Finish the swaps of a dead process: keep them if the delivery was recorded, else revert them.

    Parameters
    ----------
    places : staged folders of the process
    done : True if the delivery was recorded

    Returns
    -------
    descriptions of swaps that couldn't be reverted; None if the process is alive, which changes
        nothing
    """
    if any(place.is_staged_by_another() for place in places):
        return None
    stuck: list[str] = []
    for place in places:
        with _one_writer(place.lock):
            if done:
                place.keep()
            else:
                stuck += _take_back([place])
            place.discard()
    return stuck


def _take_back(places: Sequence[StagedFolder]) -> list[str]:
    stuck = []
    for place in places:
        try:
            place.take_back()
        except OSError as error:
            before = (
                f"; its previous files are in {place.shown(place.aside)}"
                if place.aside.is_dir()
                else ""
            )
            stuck.append(f"{place.real} ({error.strerror or error}{before})")
    return stuck


def _told(at: StagedFolder, error: BaseException, stuck: list[str]) -> str:
    if isinstance(error, SieveError):
        reason = error.message
    else:
        why = error.strerror if isinstance(error, OSError) and error.strerror else str(error)
        reason = f"couldn't replace {at.real} ({why}). Check free space and permissions"
    if not stuck:
        return f"{reason}. Nothing was changed"
    return f"{reason}. These changes couldn't be reverted: {'; '.join(stuck)}"


@contextlib.contextmanager
def _one_writer(path: Path, is_cancelled: Callable[[], bool] | None = None) -> Iterator[None]:
    """Wait until no other process swaps a folder, and lock it for this process."""
    while True:
        if is_cancelled and is_cancelled():
            raise CancelledError
        path.parent.mkdir(parents=True, exist_ok=True)
        path.touch()
        try:
            handle = _locked(path)
        except BlockingIOError:
            time.sleep(_LOOK_AGAIN)
            continue
        except FileNotFoundError:  # its holder has just gone
            continue
        if handle is None or _is_still(path, handle):
            break
        os.close(handle)
    try:
        yield
    finally:
        path.unlink(missing_ok=True)
        if handle is not None:
            os.close(handle)


def _is_still(path: Path, handle: int) -> bool:
    """Return True if the path still refers to the locked file."""
    try:
        return os.fstat(handle).st_ino == path.stat().st_ino
    except FileNotFoundError:
        return False


def _locked(path: Path) -> int | None:
    """Return a handle that holds a lock until it is closed or the process ends; None without locks.

    Raises BlockingIOError while another process holds it.
    """
    handle = os.open(path, os.O_RDONLY)
    try:
        fcntl.flock(handle, fcntl.LOCK_EX | fcntl.LOCK_NB)
    except BlockingIOError:
        os.close(handle)
        raise
    except OSError as error:
        _log.debug("file locking isn't available at %s: %s", path, error)
        os.close(handle)
        return None
    return handle


def _bring(path: Path, target: Path) -> None:
    """Link or copy an entry to another folder; links stay links."""
    if path.is_symlink():
        target.symlink_to(path.readlink())
    elif path.is_dir():
        shutil.copytree(path, target, symlinks=True, copy_function=_linked)
    else:
        _linked(path, target)


def _linked(source: str | Path, target: str | Path) -> None:
    try:
        os.link(source, target, follow_symlinks=False)
    except OSError:
        shutil.copy2(source, target, follow_symlinks=False)


def _move_new_ones(source: Path, target: Path, ours: Collection[str]) -> None:
    """Move unrelated files that appeared during the swap to the current folder."""
    for path in source.iterdir():
        there = target / path.name
        if path.name not in ours and not (there.exists() or there.is_symlink()):
            path.rename(there)


def flush(path: Path) -> None:
    """Flush a file or folder to disk."""
    with contextlib.suppress(OSError):  # not every file system can flush a folder
        handle = os.open(path, os.O_RDONLY)
        try:
            os.fsync(handle)
        finally:
            os.close(handle)
