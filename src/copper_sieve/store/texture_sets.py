"""Texture sets with their definitions; changes are guarded by a version."""

from __future__ import annotations

from collections.abc import Collection
from dataclasses import dataclass
from datetime import datetime
from typing import Any

from psycopg.types.json import Json
from pydantic import ValidationError

from copper_sieve.core.errors import ConflictError, NotFoundError, UnreadableError
from copper_sieve.core.models.texture_set import LONGEST_NAME, SetDefinition
from copper_sieve.store.database import Row, Transaction, statements

_SQL = statements("texture_sets")
_STATES_KEPT = 200


@dataclass(frozen=True, slots=True)
class StoredSet:
    """A stored texture set.

    stored : its definition as JSON, possibly of an older version; see `definition`
    version : number of changes; a change states the version that it is based on
    tags, notes : labels; they don't count as a change
    deleted_at : when it was moved to the trash; None while in use
    """

    id: int
    project_id: int
    name: str
    stored: dict[str, Any]
    version: int
    updated_at: datetime
    tags: tuple[str, ...] = ()
    notes: str = ""
    deleted_at: datetime | None = None

    @classmethod
    def from_row(cls, row: Row) -> StoredSet:
        """Build from a row of a statement."""
        return cls(
            row["id"], row["project_id"], row["name"], row["definition"], row["version"],
            row["updated_at"], tuple(row["tags"]), row["notes"], row["deleted_at"],
        )  # fmt: skip

    def definition(self) -> SetDefinition:
        """Return the parsed definition. Raises UnreadableError if it violates the schema."""
        try:
            return SetDefinition.model_validate(self.stored)
        except ValidationError as error:
            first = error.errors()[0]
            place = ".".join(str(part) for part in first["loc"])
            raise UnreadableError(
                f"{self.name} can't be read ({place}: {first['msg']}). It is kept unchanged "
                "and excluded until it is repaired"
            ) from error


def lock_project(connection: Transaction, project_id: int) -> None:
    """Lock a project until the transaction ends.

    Until then, others can't name sets or change many sets of it.
    """
    connection.execute(_SQL["lock_project"], {"project_id": project_id})


def taken_names(connection: Transaction, project_id: int) -> set[str]:
    """Return the lowercase names of a project's sets, and lock them until the transaction ends."""
    lock_project(connection, project_id)
    rows = connection.execute(_SQL["taken_names"], {"project_id": project_id})
    return {row["name"].lower() for row in rows}


def picture_names(connection: Transaction, project_id: int) -> set[str]:
    """Return current and former image names of the sets of a project, with those in the trash."""
    rows = connection.execute(_SQL["picture_names"], {"project_id": project_id})
    return {row["name"] for row in rows}


def free_name(name: str, taken: Collection[str]) -> str:
    """Return the first free one of name, name_2, name_3 …, within the naming rule.

    See `taken_names`.
    """
    free, n = name, 1
    while free.lower() in taken:
        n += 1
        ending = f"_{n}"
        free = name[: LONGEST_NAME - len(ending)] + ending
    return free


def add_set(connection: Transaction, project_id: int, texture_set: SetDefinition) -> StoredSet:
    """Store a new set under the first free name."""
    name = free_name(texture_set.name, taken_names(connection, project_id))
    named = SetDefinition.model_validate({**texture_set.model_dump(), "name": name})
    row = connection.execute(
        _SQL["insert_set"], {"project_id": project_id, "name": name, "definition": _json(named)}
    ).fetchone()
    assert row is not None
    _link_sources(connection, row["id"], named)
    connection.execute(
        _SQL["insert_history"], {"id": row["id"], "n": 0, "definition": _json(named)}
    )
    return StoredSet.from_row(row)


def _json(texture_set: SetDefinition) -> Json:
    return Json(texture_set.model_dump(mode="json"))


def _link_sources(connection: Transaction, set_id: int, texture_set: SetDefinition) -> None:
    for sha256 in texture_set.sources():
        connection.execute(_SQL["insert_set_source"], {"set_id": set_id, "sha256": sha256})


def list_sets(
    connection: Transaction,
    project_id: int,
    ids: Collection[int] | None = None,
    *,
    deleted: bool = False,
) -> list[StoredSet]:
    """Return the sets of a project by name: all, those of `ids`, or those in the trash."""
    parameters = {
        "project_id": project_id,
        "deleted": deleted,
        "ids": None if ids is None else list(ids),
    }
    return [StoredSet.from_row(row) for row in connection.execute(_SQL["list_sets"], parameters)]


def count_sets(connection: Transaction, project_id: int, *, deleted: bool) -> int:
    """Count the sets of a project, or those in its trash."""
    parameters = {"project_id": project_id, "deleted": deleted}
    row = connection.execute(_SQL["count_sets"], parameters).fetchone()
    return int(row["n"]) if row else 0


def get_set(connection: Transaction, set_id: int, *, deleted: bool = False) -> StoredSet:
    """Return one set. Raises NotFoundError, also for a set in the trash unless `deleted`."""
    row = connection.execute(_SQL["get_set"], {"id": set_id}).fetchone()
    if row is None:
        raise NotFoundError(f"there is no texture set {set_id}")
    kept = StoredSet.from_row(row)
    if kept.deleted_at and not deleted:
        raise NotFoundError(f"{kept.name} was deleted. Restore it on the Tray")
    return kept


def set_of_source(connection: Transaction, project_id: int, sha256: str) -> StoredSet | None:
    """Return the set that already uses a source in this project, or None."""
    row = connection.execute(
        _SQL["set_of_source"], {"project_id": project_id, "sha256": sha256}
    ).fetchone()
    return None if row is None else StoredSet.from_row(row)


def update_set(
    connection: Transaction,
    set_id: int,
    version: int,
    texture_set: SetDefinition,
    *,
    amends: bool = False,
) -> StoredSet:
    """Replace the definition if nobody changed it since `version`, and add it to the history.

    amends : the change replaces the previous state of the history, as one edit
    Raises ConflictError, NotFoundError.
    """
    n = _position(connection, set_id)["history_n"] + (not amends)
    kept = _show(connection, set_id, version, n, texture_set)
    state = {"id": set_id, "n": n, "definition": _json(texture_set), "kept": _STATES_KEPT}
    connection.execute(_SQL["forget_history"], state)
    connection.execute(_SQL["insert_history"], state)
    _link_sources(connection, set_id, texture_set)
    return kept


def step_history(connection: Transaction, set_id: int, version: int, step: int) -> StoredSet:
    """Go to the previous (step -1) or next (+1) state of the history.

    Raises ConflictError if there is none or the set was changed since `version`.
    """
    position = _position(connection, set_id)
    n = position["history_n"] + step
    if not position["first"] <= n <= position["last"]:
        raise ConflictError("there is nothing to undo" if step < 0 else "there is nothing to redo")
    found = connection.execute(_SQL["history_definition"], {"id": set_id, "n": n}).fetchone()
    assert found is not None
    state = SetDefinition.model_validate(found["definition"])
    # The name isn't part of the edit history: undo doesn't change it.
    named = state.model_copy(update={"name": get_set(connection, set_id).name})
    return _show(connection, set_id, version, n, named)


def rename_set(connection: Transaction, set_id: int, texture_set: SetDefinition) -> StoredSet:
    """Rename a set, by default to the name in its definition; this isn't an undoable edit.

    The name must be free unless the set is in the trash; see `taken_names`.
    """
    parameters = {"id": set_id, "name": texture_set.name, "definition": _json(texture_set)}
    row = connection.execute(_SQL["rename_set"], parameters).fetchone()
    assert row is not None
    return StoredSet.from_row(row)


def set_labels(connection: Transaction, set_id: int, tags: Collection[str], notes: str) -> None:
    """Set tags and notes of a set."""
    parameters = {"id": set_id, "tags": list(tags), "notes": notes}
    connection.execute(_SQL["set_labels"], parameters)


def set_deleted(connection: Transaction, set_id: int, *, deleted: bool) -> None:
    """Move a set to the trash, or restore it under its name, which must be free."""
    connection.execute(_SQL["set_deleted"], {"id": set_id, "deleted": deleted})


def move_set(connection: Transaction, set_id: int, project_id: int) -> None:
    """Move a set to another project, where its name must be free."""
    connection.execute(_SQL["set_project"], {"id": set_id, "project_id": project_id})


def copy_sources(connection: Transaction, of: int, to: int) -> None:
    """Let a set refer to all pictures that another set uses or used."""
    connection.execute(_SQL["copy_sources"], {"id": to, "other": of})


def purge(connection: Transaction, days: int) -> int:
    """Delete sets that were moved to the trash `days` days ago or earlier; return their count."""
    return connection.execute(_SQL["purge"], {"days": days}).rowcount


@dataclass(frozen=True, slots=True)
class References:
    """References to a set.

    delivered : number of deliveries that contain it
    under_way : id of a running delivery of it
    """

    delivered: int
    under_way: int | None


def references(connection: Transaction, ids: Collection[int]) -> dict[int, References]:
    """Return the references to each of these sets."""
    rows = connection.execute(_SQL["references"], {"ids": list(ids)})
    return {row["id"]: References(row["delivered"], row["under_way"]) for row in rows}


def history_positions(connection: Transaction, ids: list[int]) -> dict[int, tuple[bool, bool]]:
    """Return for each set whether it can be undone and redone."""
    rows = connection.execute(_SQL["history_positions"], {"ids": ids})
    return {row["id"]: (row["can_undo"], row["can_redo"]) for row in rows}


def _position(connection: Transaction, set_id: int) -> Row:
    row = connection.execute(_SQL["history_position"], {"id": set_id}).fetchone()
    if row is None:
        raise NotFoundError(f"there is no texture set {set_id}")
    return row


def _show(
    connection: Transaction, set_id: int, version: int, n: int, texture_set: SetDefinition
) -> StoredSet:
    row = connection.execute(
        _SQL["update_set"],
        {"id": set_id, "version": version, "definition": _json(texture_set), "history_n": n,
         "name": texture_set.name},
    ).fetchone()  # fmt: skip
    if row is None:
        current = get_set(connection, set_id)
        raise ConflictError(
            f"{current.name} was changed by someone else in the meantime (version "
            f"{current.version}, yours is {version}). Reload the page and try again"
        )
    return StoredSet.from_row(row)
