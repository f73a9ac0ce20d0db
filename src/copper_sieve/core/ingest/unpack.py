"""Import of folders, zip archives and glTF files: yields their pictures one by one, safely."""

from __future__ import annotations

import errno
import lzma
import shutil
import struct
import zipfile
import zlib
from collections.abc import Iterator
from contextlib import contextmanager
from dataclasses import dataclass
from pathlib import Path, PurePosixPath

from copper_sieve.core.codecs.gltf_file import is_gltf
from copper_sieve.core.codecs.gltf_textures import gltf_textures
from copper_sieve.core.codecs.spec import DEFAULT_LIMITS, Limits
from copper_sieve.core.errors import (
    NotAPictureError,
    PictureTooLargeError,
    SieveError,
    UnsafeNameError,
)
from copper_sieve.core.untrusted_paths import inside_archive

MOST_FILES = 5000
MOST_BYTES = 8 * 1024**3  # expanded, of one archive
_LONGEST_ENDING = 16
_MOST_RATIO = 1000  # expanded bytes to one packed
_NO_PICTURES = {".txt", ".json", ".md", ".pdf", ".html", ".url", ".ini", ".db", ".bin", ".mtlx",
                ".usda", ".usd", ".usdc", ".usdz", ".xml", ".csv", ".ds_store"}  # fmt: skip


@dataclass(frozen=True, slots=True)
class Unpacked:
    """One picture file: its current path, its name, and its container and folder."""

    path: Path
    name: str
    inside: str = ""


def is_container(path: Path) -> bool:
    """Return True for a folder, a zip archive or a glTF file, by its first bytes."""
    if path.is_dir():
        return True
    if not path.is_file():
        return False
    with path.open("rb") as file:
        head = file.read(64)
    return head[:4] in (b"PK\x03\x04", b"PK\x05\x06") or is_gltf(head, path.name)


def unpack(path: Path, into: Path, limits: Limits = DEFAULT_LIMITS) -> Iterator[Unpacked]:
    """Yield the pictures of a container, unpacked to an existing folder; a picture yields itself.

    Texts and documents are skipped.

    Parameters
    ----------
    path : picture, folder, archive or glTF file
    into : existing folder
    limits : largest size of a picture

    Raises
    ------
    PictureError : before the first picture, if an archive is invalid, too large, or unsafe
    """
    if path.is_dir():
        files = sorted(one for one in path.rglob("*") if one.is_file() and one.name[0] != ".")
        for one in files:
            if not _is_no_picture(one.name):
                inside = Path(path.name, one.parent.relative_to(path))
                yield Unpacked(one, one.name, inside.as_posix())
    elif not is_container(path):
        yield Unpacked(path, path.name)
    elif _starts(path, b"PK"):
        yield from _unzip(path, into, limits)
    else:
        for n, texture in enumerate(gltf_textures(path)):
            target = into / f"{n}{Path(texture.name).suffix[:_LONGEST_ENDING]}"
            target.write_bytes(texture.data)
            yield Unpacked(target, texture.name, path.name)


def _starts(path: Path, magic: bytes) -> bool:
    with path.open("rb") as file:
        return file.read(len(magic)) == magic


def is_importable(name: str) -> bool:
    """Return False if the file name shows that it contains no pictures, such as a text."""
    return not _is_no_picture(name)


def _is_no_picture(name: str) -> bool:
    return Path(name).suffix.lower() in _NO_PICTURES or name.startswith((".", "__MACOSX"))


def _unzip(path: Path, into: Path, limits: Limits) -> Iterator[Unpacked]:
    with archive_errors(path.name), zipfile.ZipFile(path) as archive:
        entries = files_in(archive, path)
        for n, entry in enumerate(entries):
            inner = inside_archive(entry.filename)
            if _is_no_picture(inner.name) or "__MACOSX" in inner.parts:
                continue
            if entry.file_size > limits.max_bytes:
                raise PictureTooLargeError(
                    f"{path.name}: {inner.name} is {entry.file_size / 1e6:.0f} MB; "
                    f"the limit is {limits.max_bytes / 1e6:.0f} MB. Reduce it, or "
                    "raise SIEVE_MAX_BYTES"
                )
            target = into / f"{n}{inner.suffix[:_LONGEST_ENDING]}"
            with archive.open(entry) as source, target.open("wb") as file:
                shutil.copyfileobj(source, file, 1 << 20)
            folder = PurePosixPath(path.name, inner.parent)
            yield Unpacked(target, inner.name, folder.as_posix())


@contextmanager
def archive_errors(
    name: str,
    kind: type[SieveError] = NotAPictureError,
    advice: str = "Create the zip archive again, without a password",
) -> Iterator[None]:
    """Convert errors of an unreadable or hostile zip archive to one error.

    Parameters
    ----------
    name : str
        Name of the archive in the message.
    kind : type of SieveError
        Raised error. Full disks and errors of this package aren't converted.
    advice : str
        Remedy for an unreadable archive.
    """
    try:
        yield
    except UnsafeNameError as error:
        raise kind(
            f"Couldn't read {name}: {error.message}. Unpack it yourself and import the files "
            "that you trust"
        ) from error
    except SieveError:
        raise
    except _UNREADABLE as error:
        if isinstance(error, OSError) and error.errno in (errno.ENOSPC, errno.EDQUOT):
            raise
        # Not the text of an OSError: it holds paths of this machine.
        reason = error.strerror if isinstance(error, OSError) else str(error)
        raise kind(
            f"Couldn't unpack {name} ({reason or 'the file is truncated'}). {advice}"
        ) from error


_UNREADABLE = (
    zipfile.BadZipFile, zlib.error, lzma.LZMAError, OSError, RuntimeError, ValueError, EOFError,
    OverflowError, struct.error,
)  # fmt: skip


def files_in(
    archive: zipfile.ZipFile, path: Path, most_files: int = MOST_FILES
) -> list[zipfile.ZipInfo]:
    """Return the files of an archive after checking their stated names and sizes.

    Parameters
    ----------
    archive : open archive
    path : for error messages
    most_files : limit

    Raises
    ------
    UnsafeNameError, PictureTooLargeError
    """
    for entry in archive.infolist():
        inside_archive(entry.filename)
    entries = [one for one in archive.infolist() if not one.is_dir()]
    if len(entries) > most_files:
        raise PictureTooLargeError(
            f"{path.name} contains {len(entries)} files; the limit is {most_files}. Split it"
        )
    expanded = sum(entry.file_size for entry in entries)
    packed = sum(entry.compress_size for entry in entries)
    if expanded > MOST_BYTES or expanded > _MOST_RATIO * max(packed, 1024):
        raise PictureTooLargeError(
            f"{path.name} would expand from {packed / 1e6:.1f} MB to "
            f"{expanded / 1e6:.0f} MB. Unpack it yourself and import the files that "
            "you trust"
        )
    return entries
