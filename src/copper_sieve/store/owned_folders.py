"""Hidden folders for unfinished output that show whether their creator is alive."""

from __future__ import annotations

import contextlib
import fcntl
import os
import shutil
import tempfile
from collections.abc import Iterator
from pathlib import Path


class OwnedFolder:
    """A new hidden folder, locked while this process uses it and deleted when closed."""

    def __init__(self, parent: Path) -> None:
        parent.mkdir(parents=True, exist_ok=True)
        while True:  # until it is locked, another process may delete it as abandoned
            self.path = Path(tempfile.mkdtemp(dir=parent))
            try:
                self._handle = os.open(self.path, os.O_RDONLY)
            except FileNotFoundError:
                continue
            with contextlib.suppress(OSError):  # not every file system has locks
                fcntl.flock(self._handle, fcntl.LOCK_EX)
            if self.path.is_dir():
                return
            os.close(self._handle)

    def close(self) -> None:
        """Delete the folder with its contents."""
        shutil.rmtree(self.path, ignore_errors=True)
        os.close(self._handle)

    def __enter__(self) -> Path:
        return self.path

    def __exit__(self, *_: object) -> None:
        self.close()


def delete_abandoned(parent: Path) -> None:
    """Delete the owned folders of dead processes in a folder."""
    for path in abandoned_folders(parent):
        if path.is_dir():
            shutil.rmtree(path, ignore_errors=True)
        else:
            path.unlink(missing_ok=True)


def abandoned_folders(parent: Path) -> Iterator[Path]:
    """Yield the owned folders of dead processes in a folder, each locked while it is processed.

    On a file system without locks, the owner can't be determined, and nothing is yielded.
    """
    for path in parent.iterdir() if parent.is_dir() else ():
        try:
            handle = os.open(path, os.O_RDONLY)
        except OSError:
            continue
        try:
            fcntl.flock(handle, fcntl.LOCK_EX | fcntl.LOCK_NB)
        except OSError:  # its process is alive, or the state is unknown
            continue
        else:
            yield path
        finally:
            os.close(handle)
