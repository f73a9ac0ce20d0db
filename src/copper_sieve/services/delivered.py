"""State of delivered files on disk: unchanged, overwritten, modified or missing.

Files are only offered or called verified if they match the delivery's manifest byte for byte.
"""

from __future__ import annotations

import hashlib
import json
import logging
from collections.abc import Iterator
from dataclasses import dataclass, replace
from pathlib import Path
from typing import Literal

from copper_sieve.core.codecs.checksums import file_signature, known_sha256
from copper_sieve.core.errors import ConflictError, DeliveryError, NotFoundError, ReplacedError
from copper_sieve.core.models.manifest import Manifest, manifest_text
from copper_sieve.services import shared_storage
from copper_sieve.services.context import Context
from copper_sieve.services.deliveries import get
from copper_sieve.services.destinations import root_of
from copper_sieve.store import deliveries
from copper_sieve.store.delivery_rows import (
    Document,
    LightPart,
    StoredDelivery,
    StoredPart,
    WrittenPart,
    why_failed,
)
from copper_sieve.store.projects import get_project

_log = logging.getLogger(__name__)
_CHUNK = 1 << 20
DiskStateName = Literal["none", "intact", "replaced", "modified", "missing"]


@dataclass(frozen=True, slots=True)
class PartDiskState:
    """State of a part's files on disk.

    disk_state : "none" if nothing was delivered, else "intact", "replaced" by a later delivery,
        "modified" or "missing"
    by : the delivery that replaced it
    text : a sentence unless it is intact
    kept : all bytes are still in the content store
    """

    disk_state: DiskStateName
    text: str = ""
    by: int | None = None
    kept: bool = False


def disk_states_of_parts(
    context: Context, found: list[StoredDelivery], *, closely: bool
) -> dict[tuple[int, int], PartDiskState]:
    """Return the disk state of each part of deliveries, by delivery and part.

    closely : compare every byte of files with a new signature, not only the manifest, names and
    sizes
    """
    return disk_states_of_delivery(
        context, [part for one in found for part in one.parts], closely=closely
    )


def disk_states_of_delivery(
    context: Context, parts: list[StoredPart], *, closely: bool
) -> dict[tuple[int, int], PartDiskState]:
    """Return the disk states of parts of one delivery."""
    if closely and context.settings.storage:
        _fetch(context, parts)
    folders = {part.folder for part in parts if part.manifest}
    with context.database.transaction() as connection:
        written = deliveries.written_to(connection, folders)
    by_place: dict[tuple[Path, str], list[WrittenPart]] = {}
    for other in written:
        by_place.setdefault((other.folder, other.manifest_name), []).append(other)
    found = {}
    for part in parts:
        one = _closed(context, part) or _standing(
            part, by_place.get((part.folder, part.manifest_name), []), closely
        )
        kept = one.disk_state not in ("intact", "none") and content_paths(context, part) is not None
        found[part.delivery_id, part.n] = replace(one, kept=kept)
    return found


def _fetch(context: Context, parts: list[StoredPart]) -> None:
    """Download the folders of parts that were delivered on other machines."""
    for folder, name in {(one.folder, one.manifest_name) for one in parts if one.manifest}:
        try:
            shared_storage.fetch(context, folder, name)
        except DeliveryError as error:
            _log.warning("%s", error.message)


def content_paths(context: Context, part: StoredPart) -> dict[str, Path] | None:
    """Return the content store's paths of a part's files by name; None unless all are stored."""
    if not part.manifest or not context.settings.kept_bytes:
        return None
    text = manifest_text(Manifest.model_validate(part.manifest))
    digests = {entry["name"]: str(entry["sha256"]) for entry in part.entries}
    digests[part.manifest_name] = hashlib.sha256(text.encode()).hexdigest()
    found = {name: context.stock.path(sha256) for name, sha256 in digests.items()}
    whole = {name: path for name, path in found.items() if path is not None}
    return whole if len(whole) == len(found) else None


def _closed(context: Context, part: StoredPart) -> PartDiskState | None:
    """Return why a folder must not be read, for one outside this server's folders."""
    if part.manifest:
        try:
            root_of(context.settings, part.folder)
        except DeliveryError as error:
            return PartDiskState("missing", error.message)
    return None


def _standing(part: StoredPart, written: list[WrittenPart], closely: bool) -> PartDiskState:
    if not part.manifest:
        return PartDiskState("none")
    folder, manifest = part.folder, part.manifest
    if not folder.is_dir():
        return PartDiskState(
            "missing", f"{folder} no longer exists. Deliver {manifest['set']} again"
        )
    try:
        disk_state = json.loads((folder / part.manifest_name).read_bytes())
    except (OSError, ValueError):
        return PartDiskState(
            "modified", f"the {part.manifest_name} in {folder} was deleted or damaged"
        )
    if disk_state != manifest:
        later = [one for one in written if one.delivery_id > part.delivery_id]
        newest = next((one for one in later if one.manifest == disk_state), None)
        if newest is None:
            return PartDiskState(
                "modified", f"{folder} contains a {part.manifest_name} from elsewhere"
            )
        number = newest.delivery_id
        return PartDiskState("replaced", f"overwritten by delivery {number}", number)
    for entry in part.entries:
        if problem := _file_problem(folder / entry["name"], entry, closely):
            return PartDiskState("modified", problem)
    return PartDiskState("intact")


def _file_problem(path: Path, entry: Document, closely: bool) -> str | None:
    try:
        if not path.is_file():
            return f"{path} no longer exists"
        same = path.stat().st_size == entry["bytes"]
        same = same and (not closely or known_sha256(path) == entry["sha256"])
    except OSError as error:
        return f"couldn't read {path} ({error.strerror})"
    return None if same else f"{path} was modified since it was delivered"


@dataclass(frozen=True, slots=True)
class DeliverySummary:
    """A delivery with short forms of its parts.

    disk_states : state on disk of each part by its index; empty while it runs, and for many parts
        unless requested
    """

    delivery: StoredDelivery
    parts: tuple[LightPart, ...]
    disk_states: dict[int, PartDiskState]

    @property
    def error(self) -> str | None:
        """Return why parts of it failed, as a sentence; None if none did."""
        return why_failed(self.parts)


def summary_of(context: Context, delivery_id: int) -> DeliverySummary:
    """Return a delivery in short. Raises NotFoundError."""
    with context.database.transaction() as connection:
        delivery, parts = deliveries.delivery_summary(connection, delivery_id)
    if delivery.state in ("queued", "running"):
        return DeliverySummary(delivery, tuple(parts), {})
    found = disk_states_of_parts(context, [get(context, delivery_id)], closely=False)
    return DeliverySummary(
        delivery, tuple(parts), {n: standing for (_, n), standing in found.items()}
    )


_LOOKED_AT = 24  # parts of a delivery whose disk state is part of the list of deliveries


def summaries(
    context: Context, project_slug: str, before: int | None = None, most: int = 50
) -> list[DeliverySummary]:
    """Return deliveries of a project in short, the newest first.

    before : only those before this delivery; most : how many. Raises NotFoundError.
    """
    with context.database.transaction() as connection:
        project = get_project(connection, project_slug)
        listed = deliveries.delivery_summaries(connection, project.id, before=before, most=most)
        small = [one.id for one, parts in listed if len(parts) <= _LOOKED_AT]
        whole = deliveries.parts_of(connection, small)
    found = disk_states_of_delivery(context, whole, closely=False)
    by_delivery: dict[int, dict[int, PartDiskState]] = {}
    for (delivery_id, n), standing in found.items():
        by_delivery.setdefault(delivery_id, {})[n] = standing
    return [
        DeliverySummary(one, tuple(parts), by_delivery.get(one.id, {})) for one, parts in listed
    ]


def delivered_part(context: Context, delivery_id: int, n: int) -> tuple[StoredPart, PartDiskState]:
    """Return a part with all fields, and its disk state by a byte comparison.

    Raises NotFoundError.
    """
    with context.database.transaction() as connection:
        part = deliveries.get_part(connection, delivery_id, n)
    return part, disk_states_of_delivery(context, [part], closely=True)[delivery_id, n]


def files_of_part(context: Context, part: StoredPart) -> dict[str, Path]:
    """Return the paths of a part's unchanged files by name. Raises ReplacedError."""
    standing = disk_states_of_delivery(context, [part], closely=True)[part.delivery_id, part.n]
    return _paths(context, part, standing)


def _paths(context: Context, part: StoredPart, standing: PartDiskState) -> dict[str, Path]:
    """Return the paths of a part's unchanged files by name. Raises ReplacedError."""
    if standing.disk_state == "intact":
        names = (part.manifest_name, *(str(entry["name"]) for entry in part.entries))
        return {name: part.folder / name for name in names}
    if kept := content_paths(context, part):
        return kept
    raise ReplacedError(
        f"{part.set_name} for {part.target_id} was changed since delivery "
        f"{part.delivery_id}: {standing.text}. Deliver it again"
    )


@dataclass(frozen=True, slots=True)
class DeliveredFiles:
    """Files of a delivery that are unchanged byte for byte.

    files : path on disk and path in the zip of each
    missing : reason for each part that is no longer available
    """

    files: tuple[tuple[Path, str], ...]
    missing: tuple[str, ...]


def delivered_files(context: Context, delivery_id: int) -> DeliveredFiles:
    """Return the files of a finished delivery, of all parts that are still there.

    Files that were replaced come from the bytes that are kept by content.

    Raises
    ------
    ConflictError
        The delivery isn't finished.
    ReplacedError
        No part is there any more.
    """
    delivery = get(context, delivery_id)
    done = [part for part in delivery.parts if part.manifest]
    if delivery.state in ("queued", "running") or not done:
        raise ConflictError(
            f"Delivery {delivery_id} has no files to download. Its state is {delivery.state}"
        )
    states = disk_states_of_parts(context, [delivery], closely=True)
    files: list[tuple[Path, str]] = []
    missing: list[str] = []
    for part in delivery.parts:
        if not part.manifest:
            missing.append(f"{part.set_name} for {part.target_id}: {part.error or part.state}")
            continue
        try:
            found = _paths(context, part, states[delivery.id, part.n])
        except ReplacedError as error:
            missing.append(error.message)
            continue
        files += [
            (path, f"{part.target_id}/{part.set_name}/{name}") for name, path in found.items()
        ]
    if not files:
        more = f" (and {len(missing) - 1} more)" if missing[1:] else ""
        raise ReplacedError(f"{missing[0]}{more}")
    return DeliveredFiles(tuple(files), tuple(missing))


def contents(path: Path) -> Iterator[bytes]:
    """Read the current bytes of a file in chunks.

    Raises ReplacedError if it was replaced before.
    """
    signature = file_signature(path)[:4]  # an additional hard link isn't a change

    def pieces() -> Iterator[bytes]:
        try:
            with path.open("rb") as file:
                if file_signature(path)[:4] != signature:
                    raise ReplacedError(f"{path} was overwritten during the download")
                while piece := file.read(_CHUNK):
                    yield piece
        except OSError as error:
            raise ReplacedError(f"{path} was deleted during the download") from error

    return pieces()


def delivered_file(context: Context, delivery_id: int, n: int, name: str) -> Path:
    """Return the path of one delivered texture, also of one that was modified since.

    Raises NotFoundError, ReplacedError, DeliveryError if a link leads out of the allowed folders.
    """
    delivery = get(context, delivery_id)
    part = next((one for one in delivery.parts if one.n == n), None)
    files = (part.manifest or {}).get("files", ()) if part else ()
    if part is None or all(entry["name"] != name for entry in files):
        raise NotFoundError(f"delivery {delivery_id} has no file {name}")
    path = part.folder / name
    standing = disk_states_of_parts(context, [delivery], closely=False)[delivery_id, n]
    if standing.disk_state == "replaced":
        raise ReplacedError(f"{name} was {standing.text}")
    root_of(context.settings, path)
    if not path.is_file():
        raise ReplacedError(f"{path} no longer exists. Deliver {part.set_name} again")
    return path
