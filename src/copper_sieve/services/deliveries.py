"""Deliveries: say what will be written, ask for it, do it in a worker, prove it, repeat safely."""

from __future__ import annotations

import logging
import threading
import time
from collections.abc import Callable, Iterable
from dataclasses import dataclass
from pathlib import Path

from copper_sieve.core.errors import (
    CancelledError,
    ConflictError,
    DeliveryError,
    NotFoundError,
    SieveError,
)
from copper_sieve.core.pipeline.deliver import clear_left_behind, deliver, replaced_files
from copper_sieve.core.pipeline.pack import pack
from copper_sieve.core.pipeline.packed import Packing
from copper_sieve.core.presets.manifest import FILE_NAME
from copper_sieve.core.presets.target_preset import TargetPreset
from copper_sieve.core.presets.texture_set import SetDefinition
from copper_sieve.services.context import Context
from copper_sieve.services.targets import find_target
from copper_sieve.store import deliveries, texture_sets
from copper_sieve.store.database import Row
from copper_sieve.store.projects import get_project
from copper_sieve.store.sources import source_sizes

_log = logging.getLogger(__name__)
_MOST_ATTEMPTS = 3
_REPORT_EVERY = 0.2  # seconds


@dataclass(frozen=True, slots=True)
class DryRunPart:
    """What one set for one target would write, and the state of each name in its folder."""

    set_id: int
    packing: Packing | None
    preset: TargetPreset
    set_name: str
    folder: Path
    states: dict[str, str]
    error: str | None

    @property
    def target_id(self) -> str:
        """The id of its target."""
        return self.preset.id


def dry_run(
    context: Context,
    project_slug: str,
    set_ids: Iterable[int],
    target_ids: Iterable[str],
    longer_side: int | None = None,
) -> list[DryRunPart]:
    """Every file that a delivery would write, before anything is computed or written.

    What cannot be delivered has an `error` instead of a packing. Raises NotFoundError.
    """
    parts = []
    with context.database.transaction() as connection:
        presets = [find_target(connection, target_id) for target_id in dict.fromkeys(target_ids)]
        project = get_project(connection, project_slug)
        for set_id in dict.fromkeys(set_ids):
            row = texture_sets.get_set(connection, set_id)
            if row["project_id"] != project["id"]:
                raise NotFoundError(f"there is no texture set {set_id} in {project_slug}")
            texture_set = SetDefinition.model_validate(row["definition"])
            sizes = source_sizes(connection, texture_set.sources())
            for preset in presets:
                folder = context.settings.delivery_root / project_slug / preset.id / row["name"]
                number = 1 + deliveries.asked_before(connection, set_id, preset.id)
                parts.append(
                    _dry_part(set_id, texture_set, preset, sizes, folder, project_slug,
                              longer_side, number)
                )  # fmt: skip
    return parts


def _dry_part(  # noqa: PLR0917
    set_id: int,
    texture_set: SetDefinition,
    preset: TargetPreset,
    sizes: dict[str, tuple[int, int]],
    folder: Path,
    project_slug: str,
    longer_side: int | None,
    number: int,
) -> DryRunPart:
    packing, states, error = None, {}, None
    try:
        packing = pack(preset, texture_set, sizes, longer_side=longer_side, project=project_slug,
                       delivery=number)  # fmt: skip
        states = replaced_files(folder, packing)
        if foreign := [name for name, state in states.items() if state == "foreign"]:
            error = (
                f"{foreign[0]} is already in {folder} and was not written by a delivery: "
                "move it away"
            )
    except SieveError as problem:
        error = problem.message
    return DryRunPart(set_id, packing, preset, texture_set.name, folder, states, error)


def ask(
    context: Context,
    project_slug: str,
    set_ids: Iterable[int],
    target_ids: Iterable[str],
    longer_side: int | None = None,
) -> Row:
    """Ask for a delivery of sets x targets as they are now; it waits in the queue.

    Raises DeliveryError when any part cannot be delivered; then nothing is asked for.
    """
    planned = dry_run(context, project_slug, set_ids, target_ids, longer_side)
    if not planned:
        raise DeliveryError("nothing to deliver: choose at least one set and one target")
    for part in planned:
        if part.error:
            raise DeliveryError(f"{part.set_name} for {part.target_id}: {part.error}")
    with context.database.transaction() as connection:
        project = get_project(connection, project_slug)
        definitions = {
            part.set_id: texture_sets.get_set(connection, part.set_id)["definition"]
            for part in planned
        }
        delivery_id = deliveries.add_delivery(
            connection,
            project["id"],
            [
                {
                    "set_id": part.set_id,
                    "target_id": part.target_id,
                    "definition": definitions[part.set_id],
                    "preset": part.preset.model_dump(mode="json"),
                    "longer_side": longer_side,
                    "folder": str(part.folder),
                }
                for part in planned
            ],
        )
    context.enqueue(delivery_id)
    return get(context, delivery_id)


def get(context: Context, delivery_id: int) -> Row:
    """One delivery with its parts. Raises NotFoundError."""
    with context.database.transaction() as connection:
        return deliveries.get_delivery(connection, delivery_id)


def list_all(context: Context, project_slug: str) -> list[Row]:
    """The deliveries of a project, newest first."""
    with context.database.transaction() as connection:
        project = get_project(connection, project_slug)
        return deliveries.list_deliveries(connection, project["id"])


def cancel(context: Context, delivery_id: int) -> Row:
    """Ask a delivery to stop. Raises ConflictError when it has ended already."""
    with context.database.transaction() as connection:
        state = deliveries.ask_cancel(connection, delivery_id)
        if state == "queued":
            deliveries.finish(connection, delivery_id, "cancelled", None)
        row = deliveries.get_delivery(connection, delivery_id)
    if state is None:
        raise ConflictError(f"delivery {delivery_id} has ended already: {row['state']}")
    return row


def run(
    context: Context, delivery_id: int, is_stopping: Callable[[], bool] = lambda: False
) -> None:
    """Carry a delivery out, in a worker.

    An advisory lock is held throughout, so that no second worker can write the same folders and
    that everybody can see at once when this process dies. A worker that is told to stop puts the
    delivery back in the queue.
    """
    with context.database.held_lock(delivery_id) as held:
        if not held:
            return
        with context.database.transaction() as connection:
            if not deliveries.begin(connection, delivery_id):
                return
            row = deliveries.get_delivery(connection, delivery_id)
        reporter = _Reporter(context, delivery_id, len(row["parts"]))
        state, error = "done", None
        try:
            for part in row["parts"]:
                _run_part(context, part, reporter, lambda: reporter.cancelled or is_stopping())
        except CancelledError:
            state = "cancelled"
        except SieveError as problem:
            state, error = "failed", problem.message
        except MemoryError:
            state, error = "failed", "not enough memory for this size: deliver it smaller"
        except Exception as problem:
            _log.exception("delivery %s failed", delivery_id)
            state, error = "failed", f"unexpected error: {problem}"
        with context.database.transaction() as connection:
            if state == "cancelled" and is_stopping() and not reporter.cancelled:
                deliveries.requeue(connection, delivery_id)
            else:
                deliveries.finish(connection, delivery_id, state, error)


class _Reporter:
    """Stores the progress now and then and learns in return if a cancel was asked for."""

    def __init__(self, context: Context, delivery_id: int, parts: int) -> None:
        self._context, self._id, self._parts = context, delivery_id, parts
        self._last = 0.0
        self._lock = threading.Lock()
        self.cancelled = False

    def report(self, part: Row, share: float, step: str) -> None:
        with self._lock:
            now = time.monotonic()
            if now - self._last < _REPORT_EVERY and share < 1:
                return
            self._last = now
            progress = (part["n"] + share) / self._parts
            text = f"{part['definition']['name']}, {part['target_id']}: {step}"
            with self._context.database.transaction() as connection:
                self.cancelled = deliveries.report(connection, self._id, progress, text)


def packing_of(context: Context, part: Row) -> tuple[Packing, dict[str, tuple[int, int]]]:
    """What a part of a delivery writes, of the set and by the preset as they were when it was asked
    for; and the sizes of the set's sources."""
    texture_set = SetDefinition.model_validate(part["definition"])
    with context.database.transaction() as connection:
        sizes = source_sizes(connection, texture_set.sources())
        earlier = deliveries.asked_before(
            connection, part["set_id"], part["target_id"], part["delivery_id"]
        )
    packing = pack(
        TargetPreset.model_validate(part["preset"]),
        texture_set,
        sizes,
        longer_side=part["longer_side"],
        project=Path(part["folder"]).parent.parent.name,
        delivery=1 + earlier,
    )
    return packing, sizes


def _run_part(
    context: Context, part: Row, reporter: _Reporter, is_cancelled: Callable[[], bool]
) -> None:
    packing, sizes = packing_of(context, part)
    folder = Path(part["folder"])
    delivered = deliver(
        packing,
        folder,
        sizes=sizes,
        load_source=context.load_source,
        token=str(part["delivery_id"]),
        cache=context.cache,
        on_progress=lambda share, step: reporter.report(part, share, step),
        is_cancelled=is_cancelled,
    )
    with context.database.transaction() as connection:
        deliveries.finish_part(
            connection,
            part["delivery_id"],
            part["n"],
            delivered.manifest.model_dump(mode="json"),
            delivered.assay.model_dump(mode="json"),
        )


def recover(context: Context) -> list[int]:
    """Find deliveries whose worker died and those whose job was lost, and queue them again.

    What the dead worker left half-written is removed; after three attempts a delivery is reported
    failed. Safe to call at any time from any worker. Returns the deliveries queued again.
    """
    with context.database.transaction() as connection:
        open_rows = deliveries.unfinished(connection)
    queued = []
    for row in open_rows:
        if row["state"] == "queued" and row["has_job"]:
            continue
        with context.database.held_lock(row["id"]) as held:
            if held and _recover_one(context, row["id"]):
                queued.append(row["id"])
    for delivery_id in queued:
        context.enqueue(delivery_id)
    return queued


def _recover_one(context: Context, delivery_id: int) -> bool:
    with context.database.transaction() as connection:
        row = deliveries.get_delivery(connection, delivery_id)
        if row["state"] == "running":
            deliveries.close_dead_jobs(connection, delivery_id)
        if row["state"] not in ("queued", "running"):
            return False
        for part in row["parts"]:
            clear_left_behind(Path(part["folder"]), str(delivery_id))
        if row["state"] == "running" and row["attempts"] >= _MOST_ATTEMPTS:
            text = f"the worker died {row['attempts']} times while delivering; nothing was replaced"
            deliveries.finish(connection, delivery_id, "failed", text)
            return False
        deliveries.requeue(connection, delivery_id)
    return True


def delivered_files(context: Context, delivery_id: int) -> list[tuple[Path, str]]:
    """Path on disk and path in the zip of every file of a finished delivery.

    Raises ConflictError when it is not finished, or its folders were delivered anew or changed.
    """
    row = get(context, delivery_id)
    if row["state"] != "done":
        raise ConflictError(f"delivery {delivery_id} is {row['state']}: there is nothing to fetch")
    files = []
    for part in row["parts"]:
        folder = Path(part["folder"])
        manifest = part["manifest"]
        names = [FILE_NAME, *(e["name"] for e in (*manifest["files"], *manifest["documents"]))]
        for name in names:
            if not (folder / name).is_file():
                raise ConflictError(
                    f"{folder / name} is no longer there: deliver {manifest['set']} again"
                )
            files.append((folder / name, f"{part['target_id']}/{manifest['set']}/{name}"))
    return files


def delivered_file(context: Context, delivery_id: int, n: int, name: str) -> Path:
    """The path of one delivered texture. Raises NotFoundError."""
    row = get(context, delivery_id)
    for part in row["parts"]:
        if part["n"] == n and part["manifest"]:
            for entry in part["manifest"]["files"]:
                path = Path(part["folder"]) / name
                if entry["name"] == name and path.is_file():
                    return path
    raise NotFoundError(f"delivery {delivery_id} has no file {name}")
