"""Replace files one by one in a folder that several deliveries or other programs share.

A folder of one set is replaced as a whole (`atomic_swap`). If several sets share a folder, or it
belongs to an engine's project, only the delivery's own files are touched: they are linked into a
hidden folder with a list first, so that all changes can be reverted.
"""

from __future__ import annotations

import contextlib
import glob
import json
import os
import shutil
from dataclasses import dataclass
from pathlib import Path

from copper_sieve.core.errors import ForeignFileError
from copper_sieve.core.export.atomic_swap import StagedFolder, flush, own_files
from copper_sieve.core.models.manifest import FILE_NAME
from copper_sieve.core.untrusted_paths import AnchoredFolder, check_inside_folder

_LIST = "list.json"


def staged_folder_for(
    folder: Path, token: str, manifest_name: str = FILE_NAME, root: Path | None = None
) -> StagedFolder:
    """Return the staged folder of an output folder; see `StagedFolder`.

    A folder is replaced as a whole, or file by file if several sets share it, which is the case if
    the manifest has another name.

    Parameters
    ----------
    folder : output folder
    token : of the process
    manifest_name : of the manifest file
    root : folder that all files must stay inside

    Returns
    -------
    StagedFolder

    Raises
    ------
    UnsafeNameError : if the folder isn't inside the root
    """
    return (StagedFolder if manifest_name == FILE_NAME else SharedStagedFolder)(
        folder, token, manifest_name, root
    )


@dataclass(slots=True)
class SharedStagedFolder(StagedFolder):
    """A shared folder with two hidden folders inside it."""

    def _hold(self, root: Path) -> None:
        self._anchor = AnchoredFolder(root, self.real)
        self.folder = self._anchor.path

    @property
    def working(self) -> Path:
        """The hidden folder in which it is staged."""
        return self.folder / f".sieve-part-{self.token}"

    @property
    def aside(self) -> Path:
        """The previous files, and the list of replaced ones."""
        return self.folder / f".sieve-old-{self.token}"

    @property
    def lock(self) -> Path:
        """A file that is locked by whoever puts files in place here."""
        return self.folder / ".sieve-lock"

    def settle_the_dead(self) -> None:
        """Revert unfinished swaps of processes that died."""
        start = ".sieve-old-"
        for path in sorted(self.folder.glob(f"{glob.escape(start)}*")):
            self._of(path.name.removeprefix(start)).take_back()
        self._forget_abandoned(self.folder, ".sieve-part-")

    def swap(self) -> None:
        """Rename each file to its final name, the manifest last; unchanged files aren't touched."""
        ours = own_files(self.folder, self.manifest_name)
        new = own_files(self.working, self.manifest_name)
        for name in sorted(new - ours):
            if _is_there(self.folder / name):
                raise ForeignFileError(
                    f"{self.real / name} exists and wasn't written by this set's delivery. "
                    "Move it, or change the file names or the folder"
                )
        staged = [path.name for path in self.working.iterdir()]
        placed = sorted(
            (name for name in staged if not _is_same(self.working / name, self.folder / name)),
            key=lambda name: name == self.manifest_name,
        )
        gone = sorted(name for name in ours - new - set(staged) if _is_there(self.folder / name))
        for name in placed:
            flush(self.working / name)
        self._note(placed, gone)
        for name in placed:
            (self.working / name).replace(self.folder / name)
        for name in gone:
            (self.folder / name).unlink()
        flush(self.folder)

    def _note(self, placed: list[str], gone: list[str]) -> None:
        """Link the replaced files, then write the list, which marks the replacement's start."""
        self.aside.mkdir()
        before = [name for name in (*placed, *gone) if _is_there(self.folder / name)]
        for name in before:
            _link(self.folder / name, self.aside / name)
        text = json.dumps({"before": before, "new": sorted(set(placed) - set(before))})
        half = self.aside / f".{_LIST}"
        half.write_text(text, "utf-8")
        flush(half)
        half.rename(self.aside / f".{_LIST}.done")
        flush(self.aside)

    def keep(self) -> None:
        """Finish: delete the previous files."""
        shutil.rmtree(self.aside, ignore_errors=True)

    def take_back(self) -> None:
        """Revert a partial or complete swap. Raises OSError."""
        done = self.aside / f".{_LIST}.done"
        if done.is_file():
            held = json.loads(done.read_text("utf-8"))
            for name in (*held["new"], *held["before"]):  # anybody can write into a shared folder
                check_inside_folder(name)
            for name in held["new"]:
                if not _is_there(self.working / name):  # it was placed
                    (self.folder / name).unlink(missing_ok=True)
            for name in held["before"]:
                if _is_there(self.aside / name):
                    (self.aside / name).replace(self.folder / name)
            flush(self.folder)
        shutil.rmtree(self.aside, ignore_errors=True)

    def discard(self) -> None:
        """Delete the hidden folder, and the shared one if it is empty."""
        StagedFolder.discard(self)
        with contextlib.suppress(OSError):
            self.real.rmdir()


def _is_there(path: Path) -> bool:
    return path.exists() or path.is_symlink()


def _is_same(staged: Path, there: Path) -> bool:
    """Return True for the same file, or its copy where links aren't available."""
    try:
        one, other = staged.stat(), there.lstat()
    except FileNotFoundError:
        return False
    if (one.st_dev, one.st_ino) == (other.st_dev, other.st_ino):
        return True
    return (one.st_size, one.st_mtime_ns) == (other.st_size, other.st_mtime_ns)


def _link(source: Path, target: Path) -> None:
    try:
        os.link(source, target, follow_symlinks=False)
    except OSError:
        shutil.copy2(source, target, follow_symlinks=False)
