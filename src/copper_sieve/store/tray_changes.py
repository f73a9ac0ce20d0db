"""Changes of several sets, stored so that they can be undone and redone."""

from __future__ import annotations

from collections.abc import Sequence
from dataclasses import asdict, dataclass
from typing import Any, Literal

from psycopg.types.json import Json

from copper_sieve.store.database import Row, Transaction, statements

_SQL = statements("tray_changes")


@dataclass(frozen=True, slots=True)
class SetChange:
    """Change of one set.

    field : `definition`, with the resulting version; `name`; `labels`, with tags and notes;
        `deleted`, whether it is in the trash; `project`, by id
    before, after : JSON value of the field
    """

    set_id: int
    field: Literal["definition", "name", "labels", "deleted", "project"]
    before: Any
    after: Any


@dataclass(frozen=True, slots=True)
class TrayChange:
    """A stored change: its description, and its steps in order."""

    id: int
    title: str
    steps: tuple[SetChange, ...]

    @classmethod
    def from_row(cls, row: Row) -> TrayChange:
        """Build from a row of a statement."""
        return cls(row["id"], row["title"], tuple(SetChange(**one) for one in row["steps"]))


def add_change(
    connection: Transaction, project_id: int, title: str, steps: Sequence[SetChange]
) -> None:
    """Store a change; undone changes can't be redone afterwards."""
    connection.execute(_SQL["forget_undone"], {"project_id": project_id})
    parameters = {"project_id": project_id, "title": title, "steps": _json(steps)}
    connection.execute(_SQL["insert_change"], parameters)


def _json(steps: Sequence[SetChange]) -> Json:
    return Json([asdict(one) for one in steps])


def next_change(connection: Transaction, project_id: int, *, undone: bool) -> TrayChange | None:
    """Return the change that would be undone next, or redone next (`undone`)."""
    statement = _SQL["next_redo" if undone else "next_undo"]
    row = connection.execute(statement, {"project_id": project_id}).fetchone()
    return TrayChange.from_row(row) if row else None


def mark_change(
    connection: Transaction, change_id: int, steps: Sequence[SetChange], *, undone: bool
) -> None:
    """Record that a change was undone or redone with these steps; without steps, delete it."""
    if steps:
        parameters = {"id": change_id, "steps": _json(steps), "undone": undone}
        connection.execute(_SQL["set_undone"], parameters)
    else:
        connection.execute(_SQL["forget"], {"id": change_id})
