"""A short list of all sets of a project, without planning any of them."""

from __future__ import annotations

from dataclasses import dataclass
from datetime import datetime

from copper_sieve.core.checklist.check import RULES_VERSION
from copper_sieve.core.image.map_kind import MapKind
from copper_sieve.services.context import Context
from copper_sieve.services.readiness import Delivered, delivered_of
from copper_sieve.store import checklist, texture_sets, tray_changes
from copper_sieve.store.checklist import OpenFinding, SetFindings
from copper_sieve.store.projects import get_project
from copper_sieve.store.texture_sets import StoredSet


@dataclass(frozen=True, slots=True)
class TrayRow:
    """A set in the list.

    maps : source of each kind: imported, derived, constant
    card : the source card that it was imported with
    delivered : delivery state by target
    checked : the checklist is current; findings : open ones, most severe first
    """

    id: int
    version: int
    name: str
    tags: tuple[str, ...]
    notes: str
    maps: dict[str, str]
    card: str | None
    updated_at: datetime
    deleted_at: datetime | None
    delivered: dict[str, Delivered]
    checked: bool = False
    findings: tuple[OpenFinding, ...] = ()


@dataclass(frozen=True, slots=True)
class TrayList:
    """The sets of a project by name.

    undo, redo : titles of the next steps
    trash_count : number of deleted sets
    """

    rows: tuple[TrayRow, ...]
    undo: str | None
    redo: str | None
    trash_count: int


def tray(context: Context, project_slug: str, *, deleted: bool = False) -> TrayList:
    """Return the list of a project's sets, or of its Trash. Raises NotFoundError."""
    with context.database.transaction() as connection:
        project = get_project(connection, project_slug)
        kept = texture_sets.list_sets(connection, project.id, deleted=deleted)
        others = texture_sets.count_sets(connection, project.id, deleted=True)
        delivered = {} if deleted else delivered_of(context, connection, project.id)
        findings = (
            {} if deleted else checklist.findings_of_project(connection, project.id, RULES_VERSION)
        )
        undo, redo = (
            tray_changes.next_change(connection, project.id, undone=undone)
            for undone in (False, True)
        )
    return TrayList(
        tuple(
            _row(one, delivered.get(one.id, {}), findings.get(one.id, SetFindings()))
            for one in kept
        ),
        undo.title if undo else None,
        redo.title if redo else None,
        others,
    )


def _row(kept: StoredSet, delivered: dict[str, Delivered], findings: SetFindings) -> TrayRow:
    """Return a row from the stored definition, which works for unreadable sets too."""
    stored = kept.stored
    maps = stored.get("maps") or {}
    return TrayRow(
        id=kept.id,
        version=kept.version,
        name=kept.name,
        tags=kept.tags,
        notes=kept.notes,
        maps={MapKind.present_name(kind): str(way.get("how", "")) for kind, way in maps.items()},
        card=(stored.get("origin") or {}).get("card"),
        updated_at=kept.updated_at,
        deleted_at=kept.deleted_at,
        delivered=delivered,
        checked=findings.current,
        findings=findings.findings,
    )
