"""Changes of many sets at once, kept so that they can be taken back and done again."""

from __future__ import annotations

from collections.abc import Sequence
from dataclasses import asdict, dataclass
from typing import Any, Literal

from psycopg.types.json import Json

from copper_sieve.store.database import Row, Transaction, statements

_SQL = statements("tray_changes")


@dataclass(frozen=True, slots=True)
class Step:
    """What changed of one set.

    field : definition, with the set's version after it; name; labels, with tags and notes;
        deleted, whether it is thrown away; project, by number
    before, after : the value of the field, as JSON has it
    """

    set_id: int
    field: Literal["definition", "name", "labels", "deleted", "project"]
    before: Any
    after: Any


@dataclass(frozen=True, slots=True)
class TrayChange:
    """One change as it is kept: what was done, in words, and its steps in order."""

    id: int
    title: str
    steps: tuple[Step, ...]

    @classmethod
    def from_row(cls, row: Row) -> TrayChange:
        """As a statement gives it."""
        return cls(row["id"], row["title"], tuple(Step(**one) for one in row["steps"]))


def add_change(connection: Transaction, project_id: int, title: str, steps: Sequence[Step]) -> None:
    """Keep a change that was made; what was undone before can be done again no more."""
    connection.execute(_SQL["forget_undone"], {"project_id": project_id})
    asked = {"project_id": project_id, "title": title, "steps": _json(steps)}
    connection.execute(_SQL["insert_change"], asked)


def _json(steps: Sequence[Step]) -> Json:
    return Json([asdict(one) for one in steps])


def next_change(connection: Transaction, project_id: int, *, undone: bool) -> TrayChange | None:
    """The one that is taken back next, or done again next (`undone`)."""
    statement = _SQL["next_redo" if undone else "next_undo"]
    row = connection.execute(statement, {"project_id": project_id}).fetchone()
    return TrayChange.from_row(row) if row else None


def mark_change(
    connection: Transaction, change_id: int, steps: Sequence[Step], *, undone: bool
) -> None:
    """A change was taken back, or done again, in these steps; without one it is forgotten."""
    if steps:
        asked = {"id": change_id, "steps": _json(steps), "undone": undone}
        connection.execute(_SQL["set_undone"], asked)
    else:
        connection.execute(_SQL["forget"], {"id": change_id})
