"""What lies in the folders of a delivery now: its own files, those of a later one, or others.

Nothing is handed out or called proven that is not byte for byte what the delivery's manifest says.
"""

from __future__ import annotations

import json
import threading
from collections.abc import Iterator
from dataclasses import dataclass
from pathlib import Path
from typing import Literal

from copper_sieve.core.codecs.checksums import file_sha256
from copper_sieve.core.errors import ConflictError, NotFoundError, ReplacedError
from copper_sieve.core.models.manifest import FILE_NAME
from copper_sieve.services.context import Context
from copper_sieve.services.deliveries import get
from copper_sieve.store import deliveries
from copper_sieve.store.deliveries import Document, KeptDelivery, KeptPart, WrittenPart

_CHUNK = 1 << 20
_MOST_KNOWN = 50_000
_Signature = tuple[int, int, int, int]  # device, inode, size, time of change in ns
Lies = Literal["nothing", "own", "replaced", "changed", "gone"]


@dataclass(frozen=True, slots=True)
class Standing:
    """How a part of a delivery lies there now.

    lies : "nothing" was delivered (yet), its "own" files, "replaced" by a later delivery, "changed"
        by hand, or "gone"
    by : the delivery that replaced it
    text : a sentence where it is not its own
    """

    lies: Lies
    text: str = ""
    by: int | None = None


class _Digests:
    """SHA-256 of files, computed once for as long as a file is not touched; safe for threads."""

    def __init__(self) -> None:
        self._known: dict[Path, tuple[_Signature, str]] = {}
        self._lock = threading.Lock()

    def of(self, path: Path) -> tuple[_Signature, str]:
        """Signature and digest. Raises OSError."""
        signature = _signature(path)
        with self._lock:
            known = self._known.get(path)
        if known and known[0] == signature:
            return known
        found = (signature, file_sha256(path))
        with self._lock:
            if len(self._known) >= _MOST_KNOWN:
                self._known.clear()
            self._known[path] = found
        return found


_digests = _Digests()


def _signature(path: Path) -> _Signature:
    found = path.stat()
    return found.st_dev, found.st_ino, found.st_size, found.st_mtime_ns


def standings(
    context: Context, found: list[KeptDelivery], *, closely: bool
) -> dict[tuple[int, int], Standing]:
    """How each part of deliveries lies there now, by delivery and part.

    closely : compare every byte (of files that were touched since the last time), not only which
        manifest lies there and which files, how large
    """
    return standings_of(context, [part for one in found for part in one.parts], closely=closely)


def standings_of(
    context: Context, parts: list[KeptPart], *, closely: bool
) -> dict[tuple[int, int], Standing]:
    """The same of some parts."""
    folders = {part.folder for part in parts if part.manifest}
    with context.database.transaction() as connection:
        written = deliveries.written_to(connection, folders)
    by_folder: dict[Path, list[WrittenPart]] = {}
    for other in written:
        by_folder.setdefault(other.folder, []).append(other)
    return {
        (part.delivery_id, part.n): _standing(part, by_folder.get(part.folder, []), closely)
        for part in parts
    }


def _standing(part: KeptPart, written: list[WrittenPart], closely: bool) -> Standing:
    if not part.manifest:
        return Standing("nothing")
    folder, manifest = part.folder, part.manifest
    if not folder.is_dir():
        return Standing("gone", f"{folder} is no longer there: deliver {manifest['set']} again")
    try:
        lies = json.loads((folder / FILE_NAME).read_bytes())
    except (OSError, ValueError):
        return Standing("changed", f"the {FILE_NAME} of {folder} was taken away or damaged")
    if lies != manifest:
        later = [one for one in written if one.delivery_id > part.delivery_id]
        newest = next((one for one in later if one.manifest == lies), None)
        if newest is None:
            return Standing("changed", f"{folder} holds a {FILE_NAME} of another origin")
        number = newest.delivery_id
        return Standing("replaced", f"replaced by delivery {number}", number)
    for entry in part.entries:
        if problem := _file_problem(folder / entry["name"], entry, closely):
            return Standing("changed", problem)
    return Standing("own")


def _file_problem(path: Path, entry: Document, closely: bool) -> str | None:
    try:
        if not path.is_file():
            return f"{path} is no longer there"
        same = path.stat().st_size == entry["bytes"]
        same = same and (not closely or _digests.of(path)[1] == entry["sha256"])
    except OSError as error:
        return f"{path} cannot be read ({error.strerror})"
    return None if same else f"{path} was changed since it was delivered"


def _own(context: Context, delivery: KeptDelivery) -> None:
    """Make sure that all of a delivery lies there as it wrote it. Raises ReplacedError."""
    lying = standings(context, [delivery], closely=True)
    for part in delivery.parts:
        standing = lying[delivery.id, part.n]
        if standing.lies != "own":
            raise ReplacedError(
                f"{part.set_name} for {part.target_id} is not there any more as delivery "
                f"{delivery.id} wrote it: {standing.text}; deliver it again"
            )


def delivered_files(context: Context, delivery_id: int) -> list[tuple[Path, str]]:
    """Path on disk and path in the zip of every file of a finished delivery.

    Raises ConflictError when it is not finished, ReplacedError when any of its files is not there
    any more byte for byte.
    """
    delivery = get(context, delivery_id)
    if delivery.state != "done":
        raise ConflictError(
            f"delivery {delivery_id} is {delivery.state}: there is nothing to fetch"
        )
    _own(context, delivery)
    return [
        (part.folder / name, f"{part.target_id}/{part.set_name}/{name}")
        for part in delivery.parts
        for name in (FILE_NAME, *(entry["name"] for entry in part.entries))
    ]


def contents(path: Path) -> Iterator[bytes]:
    """The bytes of a file as it is now, even if it is given much later. Raises ReplacedError then,
    if somebody has replaced it in between."""
    signature = _signature(path)

    def pieces() -> Iterator[bytes]:
        try:
            with path.open("rb") as file:
                if _signature(path) != signature:
                    raise ReplacedError(f"{path} was replaced while it was fetched")
                while piece := file.read(_CHUNK):
                    yield piece
        except OSError as error:
            raise ReplacedError(f"{path} went away while it was fetched") from error

    return pieces()


def delivered_file(context: Context, delivery_id: int, n: int, name: str) -> Path:
    """The path of one delivered texture, to be looked at: also one that was changed by hand, since
    that is how it is seen in what. Raises NotFoundError, ReplacedError."""
    delivery = get(context, delivery_id)
    part = next((one for one in delivery.parts if one.n == n), None)
    files = (part.manifest or {}).get("files", ()) if part else ()
    if part is None or all(entry["name"] != name for entry in files):
        raise NotFoundError(f"delivery {delivery_id} has no file {name}")
    path = part.folder / name
    standing = standings(context, [delivery], closely=False)[delivery_id, n]
    if standing.lies == "replaced":
        raise ReplacedError(f"{name} was {standing.text}")
    if not path.is_file():
        raise ReplacedError(f"{path} is no longer there: deliver {part.set_name} again")
    return path
