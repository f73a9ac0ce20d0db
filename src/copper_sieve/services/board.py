"""The board of deliveries: the state of each set for each target."""

from __future__ import annotations

from collections.abc import Collection
from contextlib import suppress
from dataclasses import dataclass
from typing import Literal

from copper_sieve.core.errors import SieveError
from copper_sieve.core.export.file_maps import graph_of
from copper_sieve.core.export.reuse import manifest_in, modified_names
from copper_sieve.services.context import Context
from copper_sieve.services.delivered import DiskStateName, disk_states_of_delivery
from copper_sieve.services.delivery_preview import DryRunPart, preview_files
from copper_sieve.services.readiness import delivered_of
from copper_sieve.store import deliveries
from copper_sieve.store.projects import get_project

State = Literal["delivered", "stale", "waiting", "running", "failed"]
_UNDER_WAY: dict[str, State] = {"queued": "waiting", "running": "running", "failed": "failed"}


@dataclass(frozen=True, slots=True)
class BoardCell:
    """A set and target with a delivery.

    delivery_id : the delivery that the state belongs to
    progress : of that delivery, 0 to 1; error : why it failed
    """

    set_id: int
    target_id: str
    state: State
    delivery_id: int | None = None
    progress: float = 0.0
    error: str | None = None


def board(context: Context, project_slug: str) -> list[BoardCell]:
    """Return the cells of a project with a delivery. Raises NotFoundError.

    A running or failed delivery has priority over earlier ones.
    """
    with context.database.transaction() as connection:
        project = get_project(connection, project_slug)
        delivered = delivered_of(context, connection, project.id)
        requested = deliveries.latest_requested(connection, project.id)
    cells = {
        (set_id, target_id): BoardCell(set_id, target_id, state)
        for set_id, by_target in delivered.items()
        for target_id, state in by_target.items()
    }
    for one in requested:
        if state := _UNDER_WAY.get(one.state):
            cells[one.set_id, one.target_id] = BoardCell(
                one.set_id, one.target_id, state, one.delivery_id, one.progress, one.error
            )
    return list(cells.values())


@dataclass(frozen=True, slots=True)
class CellDiskState:
    """Changed files of a delivered set and target."""

    set_id: int
    target_id: str
    disk_state: DiskStateName
    text: str


def disk_states_of(
    context: Context, project_slug: str, ids: Collection[int]
) -> list[CellDiskState]:
    """Return the cells of sets whose files were replaced, modified or deleted."""
    with context.database.transaction() as connection:
        project = get_project(connection, project_slug)
        parts = deliveries.latest_whole(connection, project.id, ids)
    found = disk_states_of_delivery(context, parts, closely=False)
    states = []
    for part in parts:
        standing = found[part.delivery_id, part.n]
        if part.set_id is not None and standing.disk_state not in ("intact", "none"):
            states.append(
                CellDiskState(part.set_id, part.target_id, standing.disk_state, standing.text)
            )
    return states


@dataclass(frozen=True, slots=True)
class StaleFiles:
    """A stale set and target: number of files that would change, and total number of files.

    No file changes if the edit affects no file of that target.
    """

    set_id: int
    target_id: str
    differ: int
    of: int


def stale_files(context: Context, project_slug: str, ids: Collection[int]) -> list[StaleFiles]:
    """Return the stale targets of sets with their changed files.

    Sets that can't be planned are skipped.

    Uses content keys; no picture is read or computed.
    """
    with context.database.transaction() as connection:
        project = get_project(connection, project_slug)
        delivered = delivered_of(context, connection, project.id, ids)
    stale = [
        (set_id, target_id)
        for set_id, by_target in delivered.items()
        for target_id, state in by_target.items()
        if state == "stale"
    ]
    parts = preview_files(context, project_slug, stale) if stale else []
    return [found for part in parts if (found := _differing(part))]


def _differing(part: DryRunPart) -> StaleFiles | None:
    if part.export is None or part.error:
        return None
    manifest = manifest_in(part.folder, part.manifest_name)
    if manifest is None:  # it goes to another place than before, or was taken away
        whole = len(part.export.files) + len(part.export.documents)
        return StaleFiles(part.set_id, part.target_id, whole, whole)
    with suppress(SieveError):
        differ, of = modified_names(manifest, part.export, graph_of(part.export, part.sizes))
        return StaleFiles(part.set_id, part.target_id, differ, of)
    return None
