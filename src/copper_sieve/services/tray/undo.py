"""Undo and redo of changes to several sets."""

from __future__ import annotations

from copper_sieve.core.errors import ConflictError, SieveError
from copper_sieve.core.models import set_edits
from copper_sieve.store import texture_sets
from copper_sieve.store.database import Transaction
from copper_sieve.store.texture_sets import StoredSet
from copper_sieve.store.tray_changes import SetChange, TrayChange


def revert(
    connection: Transaction, change: TrayChange, *, again: bool
) -> tuple[list[SetChange], dict[int, str]]:
    """Undo or redo a change, set by set.

    Returns the steps for the opposite direction, and unchanged sets with the reason: later changes
    by others are preserved.
    """
    steps: list[SetChange] = []
    kept: dict[int, str] = {}
    for step in change.steps if again else reversed(change.steps):
        try:
            # Each in its own savepoint, so that a failed one leaves no changes.
            with connection.transaction():
                steps.append(_turn(connection, step, again=again))
        except SieveError as error:
            kept[step.set_id] = error.message
    return (steps if again else steps[::-1]), kept


def _turn(connection: Transaction, step: SetChange, *, again: bool) -> SetChange:
    now = texture_sets.get_set(connection, step.set_id, deleted=True)
    if step.field == "definition":
        return _turn_definition(connection, now, step, again=again)
    there, wanted = (step.before, step.after) if again else (step.after, step.before)
    if _value(now, step) != there:
        raise ConflictError(f"{now.name} was changed since")
    _put(connection, now, step, wanted)
    return step


def _turn_definition(
    connection: Transaction, now: StoredSet, step: SetChange, *, again: bool
) -> SetChange:
    # Versions increase with every change, so the step records its resulting version.
    if now.deleted_at or now.version != step.after:
        raise ConflictError(f"{now.name} was changed since. Undo that change on its Bench first")
    after = texture_sets.step_history(connection, now.id, now.version, 1 if again else -1)
    return SetChange(now.id, "definition", now.version, after.version)


def _value(now: StoredSet, step: SetChange) -> object:
    match step.field:
        case "name":
            return now.name
        case "labels":
            return [list(now.tags), now.notes]
        case "deleted":
            return now.deleted_at is not None
        case "project":
            return now.project_id
        case "definition":
            return now.version


def _put(connection: Transaction, now: StoredSet, step: SetChange, wanted: object) -> None:
    match step.field, wanted:
        case "name", str(name):
            if not now.deleted_at:
                _check_free(connection, now.project_id, name)
            texture_sets.rename_set(connection, now.id, set_edits.with_name(now.definition(), name))
        case "labels", [list(tags), str(notes)]:
            texture_sets.set_labels(connection, now.id, tags, notes)
        case "deleted", bool(deleted):
            if not deleted:
                _check_free(connection, now.project_id, now.name)
            texture_sets.set_deleted(connection, now.id, deleted=deleted)
        case "project", int(project_id):
            _check_free(connection, project_id, now.name)
            texture_sets.move_set(connection, now.id, project_id)


def _check_free(connection: Transaction, project_id: int, name: str) -> None:
    if name.lower() in texture_sets.taken_names(connection, project_id):
        raise ConflictError(f"another set is named {name}")
