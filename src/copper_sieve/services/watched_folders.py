"""Folders on the server that a project imports from and watches."""

from __future__ import annotations

import json
import logging
import shutil
import time
from dataclasses import dataclass
from pathlib import Path

from copper_sieve.core.errors import ConflictError, DeliveryError, SieveError
from copper_sieve.core.graph.plan import plan
from copper_sieve.core.ingest.unpack import is_container, is_importable
from copper_sieve.core.models.texture_set import SetDefinition
from copper_sieve.core.untrusted_paths import open_file
from copper_sieve.services import arrivals
from copper_sieve.services.arrivals import CheckedPicture
from copper_sieve.services.context import Context
from copper_sieve.services.destinations import check_allowed, root_of
from copper_sieve.services.elected_poller import ElectedPoller
from copper_sieve.services.jobs.requests import ask_for_missing
from copper_sieve.store import arrivals as arrival_rows
from copper_sieve.store import texture_sets, watched_folders
from copper_sieve.store.arrivals import ArrivalOrigin
from copper_sieve.store.database import Transaction
from copper_sieve.store.projects import get_project
from copper_sieve.store.sources import source_sizes
from copper_sieve.store.watched_folders import WatchedFile, WatchedFolder

_log = logging.getLogger(__name__)
_LOCK = -3  # of whoever follows; the overseer has -2
_EVERY = 2.0  # seconds
_SETTLED = 1.5  # seconds since a file was last written: it is there whole
_MOST_FILES = 20_000


def watch_folder(context: Context, project_slug: str, path: Path, *, watching: bool) -> int:
    """Import the pictures of a folder and its subfolders, once or continuously.

    watching : also import later changes. Returns the folder's id.
    Raises DeliveryError if the folder isn't allowed, ConflictError if it isn't a folder.
    """
    if not path.is_absolute():
        raise ConflictError(f"{path} isn't an absolute path. Use an absolute path")
    found = check_allowed(context.settings, path)
    if not found.is_dir():
        raise ConflictError(f"{path} isn't a folder on the server. Choose an existing folder")
    with context.database.transaction() as connection:
        project = get_project(connection, project_slug)
        return watched_folders.put_folder(connection, project.id, found, watching=watching)


def unwatch_folder(context: Context, project_slug: str, folder_id: int) -> None:
    """Stop watching a folder; imported sets stay. Raises NotFoundError."""
    with context.database.transaction() as connection:
        project = get_project(connection, project_slug)
        watched_folders.remove_folder(connection, project.id, folder_id)


def of_project(context: Context, project_slug: str) -> list[WatchedFolder]:
    """Return the watched folders of a project. Raises NotFoundError."""
    with context.database.transaction() as connection:
        return watched_folders.of_project(connection, get_project(connection, project_slug).id)


class FolderWatcher(ElectedPoller):
    """A thread that reads the watched folders at intervals."""

    def __init__(self, context: Context, every: float = _EVERY, settled: float = _SETTLED) -> None:
        super().__init__(context, "follower", _LOCK, self.look, every)
        self._files, self._settled = context, settled

    def look(self) -> int:
        """Import new and changed files; returns the number of files read."""
        with self._context.database.transaction() as connection:
            due = watched_folders.due(connection)
        read = 0
        for folder in due:
            if self.is_stopping:
                break
            read += self._look_at(folder)
        if read:  # files in Intake that changed are to be detected again
            ask_for_missing(self._context)
        return read

    def _look_at(self, folder: WatchedFolder) -> int:
        try:
            check_allowed(self._context.settings, folder.path)
            there = _listed(self._context, folder.path)
        except SieveError as error:
            self._note(folder, error.message)
            return 0
        except OSError as error:
            self._note(folder, f"couldn't open {folder.path} ({error.strerror})")
            return 0
        with self._context.database.transaction() as connection:
            known = watched_folders.files(connection, folder.id)
            deleted = [name for name in known if name not in there and not known[name].deleted]
            back = [name for name in there if name in known and known[name].deleted]
            watched_folders.set_deleted(connection, folder.id, deleted, deleted=True)
            watched_folders.set_deleted(connection, folder.id, back, deleted=False)
        changed = [one for name, one in there.items()
                   if name not in known or known[name].stamp != one.stamp]  # fmt: skip
        now = time.time_ns()
        settled = [one for one in changed if now - one.mtime_ns >= self._settled * 1e9]
        read = 0
        for one in settled:
            if self.is_stopping:
                return read
            read += self._read(folder, one, known.get(one.name))
        if len(settled) == len(changed):  # else it is not over yet
            self._note(folder, None)
        return read

    def _note(self, folder: WatchedFolder, problem: str | None) -> None:
        with self._context.database.transaction() as connection:
            watched_folders.looked(connection, folder.id, problem)

    def _read(self, folder: WatchedFolder, file: WatchedFile, before: WatchedFile | None) -> bool:
        """Import the current version of a file; return whether it was usable."""
        one = _One(self._context, folder, file, before)
        try:
            return one.take_in()
        except OSError as error:
            _log.info("couldn't read %s in %s yet: %s", file.name, folder.path, error)
        except SieveError as error:
            # There may be others of that name in other folders.
            problem = error.message.replace(Path(file.name).name, file.name, 1)
            with self._context.database.transaction() as connection:
                # The previously imported version stays imported.
                sha256 = before.sha256 if before else None
                watched_folders.put_file(connection, folder.id, _noted(file, sha256, problem))
        return False


def _listed(context: Context, path: Path) -> dict[str, WatchedFile]:
    """Return the files of a folder that may be or contain pictures, by relative path."""
    found = {}
    for one in sorted(path.rglob("*")):
        name = one.relative_to(path).as_posix()
        if any(part.startswith(".") for part in Path(name).parts) or not is_importable(one.name):
            continue
        try:
            if one.is_symlink():
                check_allowed(context.settings, one)
            if not one.is_file():
                continue
            stat = one.stat()
        except (OSError, DeliveryError):  # it has just deleted, or leads out
            continue
        found[name] = WatchedFile(name, stat.st_size, stat.st_mtime_ns)
        if len(found) > _MOST_FILES:
            raise ConflictError(
                f"{path} contains more than {_MOST_FILES} files. Watch its subfolders instead"
            )
    return found


def _noted(file: WatchedFile, sha256: str | None, problem: str | None = None) -> WatchedFile:
    return WatchedFile(file.name, file.size, file.mtime_ns, sha256, problem)


@dataclass(frozen=True, slots=True)
class _One:
    """A new or changed file of a watched folder."""

    context: Context
    folder: WatchedFolder
    file: WatchedFile
    before: WatchedFile | None

    def take_in(self) -> bool:
        """Import the file, in one transaction, so that nothing is imported twice after a crash."""
        with self.context.incoming() as passing:
            copy = passing / Path(self.file.name).name
            real = (self.folder.path / self.file.name).resolve()
            root = root_of(self.context.settings, real)
            with open_file(root, real) as source, copy.open("wb") as out:
                shutil.copyfileobj(source, out, 1 << 20)
            unpacked = passing / "inside"
            unpacked.mkdir()
            many = is_container(copy)
            found, refused = arrivals.examined(self.context, copy, unpacked)
            problem = "; ".join(one.message for one in refused) or None
            with self.context.database.transaction() as connection:
                done = self._put(connection, found, many=many)
                sha256 = None if many else found[0].sha256
                watched_folders.put_file(
                    connection, self.folder.id, _noted(self.file, sha256, problem)
                )
            return done

    def _put(self, connection: Transaction, found: list[CheckedPicture], *, many: bool) -> bool:
        before = self.before.sha256 if self.before else None
        if before and not many and found[0].sha256 == before:
            return False  # only its time has changed
        if before and not many:
            arrivals.keep_source(connection, found[0])
            origin = ArrivalOrigin(
                self.folder.project_id, self._batch, self._inside, found[0].file.name
            )
            sets = arrival_rows.replace_source(connection, origin, before, found[0].sha256)
            if sets is not None:
                for set_id in sets:
                    self._replace(connection, set_id, before, found[0].sha256)
                return True
        if many:  # of a changed archive, only new files are imported
            there = arrival_rows.arrived_since(connection, self.folder.project_id, self._batch)
            found = [one for one in found if one.sha256 not in there]
        arrivals.put(
            self.context, connection, self.folder.project_id, found, self._inside, self._batch
        )
        return bool(found)

    @property
    def _batch(self) -> str:
        return f"folder {self.folder.id}"

    @property
    def _inside(self) -> str:
        """Return the subfolders that contain it, starting at the watched folder."""
        return Path(self.folder.path.name, self.file.name).parent.as_posix()

    def _replace(self, connection: Transaction, set_id: int, before: str, sha256: str) -> None:
        """Replace the file in its set, as one change that can be undone."""
        kept = texture_sets.get_set(connection, set_id, deleted=True)
        text = json.dumps(kept.stored).replace(before, sha256)
        changed = SetDefinition.model_validate_json(text)
        plan(changed.checked(), source_sizes(connection, changed.sources()))
        texture_sets.update_set(connection, set_id, kept.version, changed)
