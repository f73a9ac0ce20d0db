"""Contents of a backup besides the database, and their verification.

With deliveries a backup is a tar file: `database.dump`, and each delivered file at
`files/NAME/PATH`, where NAME is the folder of the server that it is in (see
`store.delivery_locations`).
"""

from __future__ import annotations

import hashlib
import shutil
import tarfile
from collections.abc import Iterator, Mapping
from dataclasses import dataclass, field
from pathlib import Path, PurePosixPath
from typing import IO, Any

import psycopg

from copper_sieve.core.codecs.checksums import file_sha256
from copper_sieve.core.errors import SetupError, SieveError, UnsafeNameError
from copper_sieve.core.models.manifest import Manifest, manifest_text
from copper_sieve.core.untrusted_paths import AnchoredFolder, inside_archive

DUMP = "database.dump"
_FILES = "files"
_NEWEST = (
    "select distinct on (folder, manifest_name) folder as place, manifest_name, manifest"
    " from delivery_part where manifest is not null"
    " order by folder, manifest_name, finished_at desc nulls last"
)
_CHUNK = 1 << 20


@dataclass(frozen=True, slots=True)
class DeliveredFile:
    """A file that a delivery wrote.

    place : name of the server's folder that it is in; path : in that folder
    """

    place: str
    path: PurePosixPath
    sha256: str

    @property
    def member(self) -> str:
        """Return its name in the tar file."""
        return f"{_FILES}/{self.place}/{self.path}"


def delivered_files(connection: psycopg.Connection[Any]) -> Iterator[DeliveredFile]:
    """Return the files of the newest delivery into each folder, their manifests included."""
    for stored, name, manifest in connection.execute(_NEWEST).fetchall():
        place, mark, inner = str(stored).partition(":")
        if not mark or str(stored).startswith("/"):
            continue  # in no folder of the server
        found = Manifest.model_validate(manifest)
        folder = PurePosixPath(inner)
        for entry in found.entries:
            yield DeliveredFile(place, folder / entry.name, entry.sha256)
        text = manifest_text(found).encode()
        yield DeliveredFile(place, folder / str(name), hashlib.sha256(text).hexdigest())


@dataclass(slots=True)
class BackupCounts:
    """Verified files: number of unchanged ones, and names of the others."""

    good: int = 0
    missing: list[str] = field(default_factory=list)
    changed: list[str] = field(default_factory=list)

    def words(self) -> str:
        """Return a sentence."""
        text = f"{self.good} delivered files"
        for some, word in ((self.changed, "modified since"), (self.missing, "missing")):
            if some:
                more = f" and {len(some) - 1} more" if some[1:] else ""
                text += f", {len(some)} {word} ({some[0]}{more})"
        return text


def add_files(
    archive: tarfile.TarFile, files: Iterator[DeliveredFile], folders: Mapping[str, Path]
) -> BackupCounts:
    """Add delivered files to a backup, except for those that were modified since."""
    counts = BackupCounts()
    for one in files:
        path = folders.get(one.place, Path("/nonexistent")) / one.path
        if not path.is_file():
            counts.missing.append(one.member)
        elif file_sha256(path) != one.sha256:
            counts.changed.append(one.member)
        else:
            archive.add(path.resolve(), one.member, recursive=False)
            counts.good += 1
    return counts


def restore_files(archive: tarfile.TarFile, folders: Mapping[str, Path]) -> BackupCounts:
    """Write the delivered files of a backup to this server's folders.

    Existing files stay; one with other contents counts as changed, and so does a file whose folder
    this server doesn't have.

    Raises
    ------
    SetupError
        A file can't be written, or the backup names one outside of the folders.
    """
    counts = BackupCounts()
    for member in archive:
        if not member.isfile() or member.name == DUMP:
            continue
        try:
            kind, place, *inner = inside_archive(member.name).parts
        except (UnsafeNameError, ValueError) as error:
            raise SetupError(
                f"the backup contains {member.name[:100]!r}, which no backup of Copper Sieve "
                "contains"
            ) from error
        if kind != _FILES or not inner or place not in folders:
            counts.missing.append(member.name)
            continue
        root = folders[place].resolve()
        folder = root.joinpath(*inner[:-1])
        try:
            anchor = AnchoredFolder(root, folder)
            try:
                _put(archive, member, anchor.path / inner[-1], counts)
            finally:
                anchor.close()
        except (OSError, SieveError) as error:
            raise SetupError(f"couldn't write {folder / inner[-1]} ({error})") from error
    return counts


def _put(
    archive: tarfile.TarFile, member: tarfile.TarInfo, path: Path, counts: BackupCounts
) -> None:
    source = archive.extractfile(member)
    assert source is not None
    if path.exists() or path.is_symlink():
        same = path.is_file() and file_sha256(path) == _digest(source)
        counts.good += same
        if not same:
            counts.changed.append(member.name)
        return
    partial = path.with_name(f".{path.name}.restoring")
    try:
        with partial.open("wb") as out:
            shutil.copyfileobj(source, out, _CHUNK)
        partial.rename(path)
    finally:
        partial.unlink(missing_ok=True)
    counts.good += 1


def check_files(archive: tarfile.TarFile, files: Iterator[DeliveredFile]) -> BackupCounts:
    """Compare the delivered files of a backup with its database."""
    due = {one.member: one.sha256 for one in files}
    counts = BackupCounts()
    for member in archive:
        if member.name in due and (source := archive.extractfile(member)) is not None:
            if _digest(source) == due.pop(member.name):
                counts.good += 1
            else:
                counts.changed.append(member.name)
    counts.missing += due
    return counts


def check_originals(connection: psycopg.Connection[Any]) -> int:
    """Compare every original with its SHA-256; return their number.

    Raises
    ------
    SetupError
        An original is corrupt.
    """
    count = 0
    for sha256, name in connection.execute("select sha256, name from source").fetchall():
        digest = hashlib.sha256()
        chunks = connection.cursor()
        chunks.execute("select data from source_chunk where sha256 = %s order by n", [sha256])
        for row in chunks:
            digest.update(row[0])
        if digest.hexdigest() != sha256:
            raise SetupError(f"the backup's original {name} ({sha256[:12]}) is corrupt")
        count += 1
    return count


def _digest(source: IO[bytes]) -> str:
    return hashlib.file_digest(source, "sha256").hexdigest()  # type: ignore[arg-type]
