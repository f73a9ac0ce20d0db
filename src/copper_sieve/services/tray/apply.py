"""Changes of several sets: previewed, applied together, undone together."""

from __future__ import annotations

from collections.abc import Iterable, Sequence
from dataclasses import dataclass

from copper_sieve.core.errors import ConflictError, NotFoundError, SieveError
from copper_sieve.services.context import Context
from copper_sieve.services.tray import changes, set_operations
from copper_sieve.services.tray.changes import Change
from copper_sieve.services.tray.edits import Edit, edit_of
from copper_sieve.services.tray.lit import LIT_SIDE, lit_maps_of
from copper_sieve.services.tray.set_operations import Outcome
from copper_sieve.services.tray.undo import revert
from copper_sieve.store import texture_sets, tray_changes
from copper_sieve.store.database import Transaction
from copper_sieve.store.projects import Project, get_project
from copper_sieve.store.sources import source_sizes
from copper_sieve.store.texture_sets import StoredSet
from copper_sieve.store.tray_changes import SetChange


@dataclass(frozen=True, slots=True)
class Message:
    """A sentence about some sets."""

    text: str
    set_ids: tuple[int, ...]


@dataclass(frozen=True, slots=True)
class Changed:
    """Result or preview of a change.

    title : description with the number of sets
    changed, made : changed and created sets
    kept : unchanged sets, with one sentence for each reason
    messages : references to the sets, and consequences
    """

    title: str
    changed: tuple[int, ...]
    made: tuple[int, ...]
    kept: tuple[Message, ...]
    messages: tuple[Message, ...]


def change(
    context: Context, project_slug: str, set_ids: Iterable[int], wanted: Change, *, dry: bool
) -> Changed:
    """Change several sets of a project; sets that can't be changed stay unchanged, with a reason.

    dry : only return the result, without changing anything
    Raises NotFoundError for a missing set, project, card or recipe, ConflictError if names would
    collide; then nothing is changed.
    """
    with context.database.transaction() as connection:
        project = get_project(connection, project_slug)
        texture_sets.lock_project(connection, project.id)
        sets = _chosen(connection, project, set_ids, deleted=isinstance(wanted, changes.Undelete))
        messages = _references(connection, sets, wanted)
        outcome = _do(connection, project, sets, wanted)
        touched = tuple(dict.fromkeys(one.set_id for one in outcome.steps))
        changed = tuple(one for one in touched if one not in outcome.made)
        title = _title(outcome.title, len(changed) or len(outcome.made))
        if dry:
            connection.rollback()
        elif outcome.steps:
            tray_changes.add_change(connection, project.id, title, outcome.steps)
    messages.extend(Message(text, tuple(ids)) for text, ids in outcome.messages)
    return Changed(title, changed, tuple(outcome.made), _by_reason(outcome.kept), tuple(messages))


def _chosen(
    connection: Transaction, project: Project, set_ids: Iterable[int], *, deleted: bool
) -> list[StoredSet]:
    ids = list(dict.fromkeys(set_ids))
    found = texture_sets.list_sets(connection, project.id, ids, deleted=deleted)
    if missing := set(ids) - {one.id for one in found}:
        raise NotFoundError(f"there is no texture set {min(missing)} in {project.title}")
    return found


def _do(
    connection: Transaction, project: Project, sets: Sequence[StoredSet], wanted: Change
) -> Outcome:
    match wanted:
        case changes.Rename():
            return set_operations.rename(connection, project, sets, wanted)
        case changes.ReplaceInNames():
            return set_operations.replace_in_names(connection, project, sets, wanted)
        case changes.ChangeTags() | changes.ChangeNotes():
            return set_operations.label(connection, sets, wanted)
        case changes.Delete():
            return set_operations.delete(connection, sets)
        case changes.Undelete():
            return set_operations.undelete(connection, project, sets)
        case changes.Duplicate():
            return set_operations.duplicate(connection, project, sets)
        case changes.Move():
            return set_operations.move(connection, project, sets, wanted)
        case changes.Merge():
            return set_operations.merge(connection, sets, wanted)
    found = edit_of(connection, wanted)
    assert found is not None, wanted.do
    return _edited(connection, sets, *found)


def _edited(connection: Transaction, sets: Sequence[StoredSet], title: str, edit: Edit) -> Outcome:
    out = Outcome(title)
    for kept in sets:
        try:
            with connection.transaction():
                before = kept.definition()
                after = edit(kept.id, before)
                if after == before:
                    out.kept[kept.id] = "it already has this value"
                else:
                    out.steps.append(set_operations.changed_definition(connection, kept, after))
        except NotFoundError:
            raise
        except SieveError as error:
            out.kept[kept.id] = error.message.removeprefix(f"{kept.name}: ")
    return out


def preview_change(context: Context, set_id: int, wanted: Change | None) -> bytes:
    """Return a PNG of a set after a change, under a low light from one side; nothing is stored.

    wanted : None shows the current set

    Raises NotFoundError, ConflictError for a change that doesn't affect definitions, SieveError if
    it isn't possible for this set.
    """
    with context.database.transaction() as connection:
        definition = texture_sets.get_set(connection, set_id).definition()
        after = definition
        if wanted is not None:
            found = edit_of(connection, wanted)
            if found is None:
                raise ConflictError("this change doesn't affect the appearance of a set")
            after = found[1](set_id, definition).checked()
        sizes = source_sizes(connection, after.sources())
    return lit_maps_of(context, after, sizes, LIT_SIDE, raking=True)


def _references(
    connection: Transaction, sets: Sequence[StoredSet], wanted: Change
) -> list[Message]:
    """Return what refers to sets that are renamed, moved or deleted."""
    moving = (changes.Rename, changes.ReplaceInNames, changes.Move, changes.Delete, changes.Merge)
    if not isinstance(wanted, moving):
        return []
    found = texture_sets.references(connection, [one.id for one in sets])
    delivered = tuple(one for one, refers in found.items() if refers.delivered)
    under_way = tuple(one for one, refers in found.items() if refers.under_way)
    messages = []
    if delivered:
        after = (
            "their delivered files stay" if isinstance(wanted, changes.Delete | changes.Merge)
            else "delivered files stay under their previous name"
        )  # fmt: skip
        messages.append(Message(f"{_sets(len(delivered))} delivered before: {after}", delivered))
    if under_way:
        messages.append(
            Message(
                f"{_sets(len(under_way))} being delivered now: the delivery continues", under_way
            )
        )
    return messages


def _by_reason(kept: dict[int, str]) -> tuple[Message, ...]:
    """Return one sentence for each reason."""
    reasons: dict[str, list[int]] = {}
    for set_id, why in kept.items():
        reasons.setdefault(why, []).append(set_id)
    return tuple(Message(why, tuple(ids)) for why, ids in reasons.items())


def _title(title: str, count: int) -> str:
    return f"{_sets(count)}: {title}"


def _sets(count: int) -> str:
    return "1 set" if count == 1 else f"{count} sets"


def undo(context: Context, project_slug: str, *, again: bool) -> Changed:
    """Undo the last change of several sets, or redo the last undone one.

    Sets that were changed since stay unchanged, with a reason. Raises ConflictError if there is
    nothing to undo or redo.
    """
    with context.database.transaction() as connection:
        project = get_project(connection, project_slug)
        texture_sets.lock_project(connection, project.id)  # a hand may press the keys twice
        found = tray_changes.next_change(connection, project.id, undone=again)
        if found is None:
            raise ConflictError(f"there is nothing to {'redo' if again else 'undo'} on the Tray")
        steps, kept = revert(connection, found, again=again)
        tray_changes.mark_change(connection, found.id, steps, undone=not again)
    changed = tuple(dict.fromkeys(_set_ids(steps)))
    words = "redone" if again else "undone"
    return Changed(f"{found.title}, {words}", changed, (), _by_reason(kept), ())


def _set_ids(steps: Sequence[SetChange]) -> list[int]:
    return [one.set_id for one in steps]
