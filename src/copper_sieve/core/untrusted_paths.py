"""The policy for names and paths from untrusted sources.

Archives, manifests, project files, lists, destinations and uploads contain file names. Each must be
a portable file name, or a path inside the archive or folder that it belongs to.
"""

from __future__ import annotations

import os
import re
from collections.abc import Sequence
from contextlib import suppress
from pathlib import Path, PurePosixPath
from typing import BinaryIO

from copper_sieve.core.errors import UnsafeNameError

LONGEST_NAME = 200  # bytes of a file name in UTF-8
_LONGEST_PATH = 2000  # bytes
_RESERVED = re.compile(r'[<>:"/\\|?*\x00-\x1f]')
_DEVICES = {"con", "prn", "aux", "nul"} | {f"{d}{i}" for d in ("com", "lpt") for i in range(1, 10)}
_OPEN_FOLDERS = Path("/proc/self/fd")


def is_device_name(name: str) -> bool:
    """Return whether a name is a reserved device name on some systems, with any extension."""
    return name.split(".", maxsplit=1)[0].rstrip(" ").lower() in _DEVICES


def portable_name_problem(name: str) -> str | None:
    """Return why a new file can't have a name on every system, or None if it can."""
    stem = name.split(".", maxsplit=1)[0]
    if not stem:
        return "it is empty"
    if found := _RESERVED.search(name):
        return f"it contains {found.group()!r}, which some systems don't allow"
    if is_device_name(name):
        return f"{stem} is a reserved device name on some systems"
    if name[-1] in ". ":
        return "it ends in a dot or a space, which some systems remove"
    if _bytes_of(name) > LONGEST_NAME:
        return f"it has more than {LONGEST_NAME} bytes"
    return None


def check_inside_folder(name: str) -> str:
    """Return a name if it is that of an entry directly in a folder.

    Raises
    ------
    UnsafeNameError : if it leads to another folder, is empty, too long, or contains control
        characters
    """
    if name in ("", ".", "..") or re.search(r"[/\\\x00-\x1f]", name) or _is_too_long(name):
        raise UnsafeNameError(f"{_shown(name)} isn't the name of a file in the same folder")
    return name


def inside_archive(name: str) -> PurePosixPath:
    """Return the path of an archive's entry if it stays inside the archive.

    Raises
    ------
    UnsafeNameError : if it is absolute, leaves the archive, is too long, or contains control
        characters
    """
    inner = PurePosixPath(name.replace("\\", "/"))
    unsafe = inner.is_absolute() or ".." in inner.parts or ":" in name or inner == PurePosixPath()
    if unsafe or re.search(r"[\x00-\x1f]", name) or any(map(_is_too_long, inner.parts)):
        raise UnsafeNameError(f"{_shown(name)} points outside the archive or isn't a file name")
    return inner


def safe_file_name(name: str) -> str:
    """Return the name under which an uploaded file is stored.

    It contains no folders or control characters and at most 200 bytes; its extension is kept.
    """
    last = re.split(r"[/\\]", name)[-1]
    kept = "".join(letter for letter in last if letter.isprintable()).strip()
    while _bytes_of(kept) > LONGEST_NAME:
        kept = kept[1:]
    return kept.lstrip(".") or "picture"


def local_path(text: str, base: Path) -> Path:
    """Return the path in a line of a list, relative to the folder of the list.

    Raises
    ------
    UnsafeNameError : if no file can have this path
    """
    if "\0" in text or _bytes_of(text) > _LONGEST_PATH or any(map(_is_too_long, Path(text).parts)):
        raise UnsafeNameError(f"{_shown(text)} isn't a file path")
    return base / text


class AnchoredFolder:
    """A folder that is held open, so that later operations reach it even if its path changes.

    Parameters
    ----------
    root : Path
        An absolute allowed root folder; links in its path are followed.
    folder : Path
        Absolute path of a folder inside it, without links. Missing folders are created.

    Raises
    ------
    UnsafeNameError
        The folder isn't inside the root, or its path contains a link.
    OSError
        A folder can't be created or opened.
    """

    def __init__(self, root: Path, folder: Path) -> None:
        self._descriptor: int | None = None
        try:
            parts = folder.relative_to(root).parts
        except ValueError as error:
            raise UnsafeNameError(f"{folder} isn't inside {root}") from error
        self._descriptor = _open_below(root, parts)
        # The kernel opens this path as the folder itself, not as what its name leads to.
        held = _OPEN_FOLDERS / str(self._descriptor)
        self.path = held if _OPEN_FOLDERS.is_dir() else folder

    def close(self) -> None:
        """Close the folder's descriptor; the object can't be used afterward."""
        if self._descriptor is not None:
            os.close(self._descriptor)
            self._descriptor = None


def open_file(root: Path, file: Path) -> BinaryIO:
    """Open a file inside a root for reading, even if links are swapped into its path.

    Parameters
    ----------
    root : Path
        An absolute allowed root folder.
    file : Path
        Absolute path inside it, without links.

    Raises
    ------
    UnsafeNameError
        The file isn't inside the root, or its path contains a link.
    OSError
        The file can't be opened.
    """
    try:
        parts = file.relative_to(root).parts
    except ValueError as error:
        raise UnsafeNameError(f"{file} isn't inside {root}") from error
    parent = _open_below(root, parts[:-1], create=False)
    try:
        # Not blocking: a pipe in its place would wait for a writer.
        flags = os.O_RDONLY | os.O_NOFOLLOW | os.O_NONBLOCK | os.O_CLOEXEC
        return os.fdopen(os.open(parts[-1], flags, dir_fd=parent), "rb")
    finally:
        os.close(parent)


def _open_below(root: Path, parts: Sequence[str], *, create: bool = True) -> int:
    """Open a folder component by component without following links."""
    if create:
        root.mkdir(parents=True, exist_ok=True)
    descriptor = os.open(root, os.O_RDONLY | os.O_DIRECTORY | os.O_CLOEXEC)
    for n, name in enumerate(parts):
        try:
            inner = _open_folder(descriptor, name, create=create)
        except NotADirectoryError as error:
            shown = root.joinpath(*parts[: n + 1])
            raise UnsafeNameError(
                f"{shown} is a link or a file instead of a folder. Remove it"
            ) from error
        finally:
            os.close(descriptor)
        descriptor = inner
    return descriptor


def _open_folder(parent: int, name: str, *, create: bool) -> int:
    flags = os.O_RDONLY | os.O_DIRECTORY | os.O_NOFOLLOW | os.O_CLOEXEC
    try:
        return os.open(name, flags, dir_fd=parent)
    except FileNotFoundError:
        if not create:
            raise
        with suppress(FileExistsError):  # somebody else was faster
            os.mkdir(name, dir_fd=parent)
        return os.open(name, flags, dir_fd=parent)


def _bytes_of(text: str) -> int:
    return len(text.encode("utf-8", "replace"))


def _is_too_long(name: str) -> bool:
    return _bytes_of(name) > 255


def _shown(name: str) -> str:
    return repr(name if len(name) <= 80 else f"{name[:80]}…")
