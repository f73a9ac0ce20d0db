"""Changes of names, labels and projects of sets; each returns the steps that it made."""

from __future__ import annotations

import re
from collections.abc import Callable, Sequence
from dataclasses import dataclass, field

from copper_sieve.core.errors import ConflictError, SieveError
from copper_sieve.core.graph.plan import plan
from copper_sieve.core.models import set_edits
from copper_sieve.core.models.texture_set import SetDefinition
from copper_sieve.services.tray import changes
from copper_sieve.store import models, texture_sets
from copper_sieve.store.database import Transaction
from copper_sieve.store.projects import Project, get_project
from copper_sieve.store.sources import source_sizes
from copper_sieve.store.texture_sets import StoredSet
from copper_sieve.store.tray_changes import SetChange


@dataclass
class Outcome:
    """Result of a change.

    title : description without the number of sets
    kept : unchanged sets with the reason
    messages : sentences about the sets
    made : created sets
    """

    title: str
    steps: list[SetChange] = field(default_factory=list)
    kept: dict[int, str] = field(default_factory=dict)
    messages: list[tuple[str, list[int]]] = field(default_factory=list)
    made: list[int] = field(default_factory=list)


def rename(
    connection: Transaction, project: Project, sets: Sequence[StoredSet], wanted: changes.Rename
) -> Outcome:
    """Rename one set. Raises ConflictError for several sets, or a name that is in use."""
    if len(sets) != 1:
        raise ConflictError("to enter a name, select a single set")
    return _renamed(
        connection, project, sets, f"renamed {wanted.name}",
        lambda one: set_edits.with_name(one, wanted.name),
    )  # fmt: skip


def replace_in_names(
    connection: Transaction,
    project: Project,
    sets: Sequence[StoredSet],
    wanted: changes.ReplaceInNames,
) -> Outcome:
    """Replace a text in the names. Raises ConflictError if two sets would get the same name."""
    return _renamed(
        connection, project, sets, f"{wanted.find} in names replaced with "
                                   f"{wanted.into or 'nothing'}",
        lambda one: set_edits.with_words_replaced(one, wanted.find, wanted.into),
    )  # fmt: skip


def _renamed(
    connection: Transaction,
    project: Project,
    sets: Sequence[StoredSet],
    title: str,
    edit: Callable[[SetDefinition], SetDefinition],
) -> Outcome:
    out = Outcome(title)
    # Names are changed together, so that two sets can swap theirs.
    taken = texture_sets.taken_names(connection, project.id) - {one.name.lower() for one in sets}
    wanted: list[tuple[StoredSet, SetDefinition]] = []
    for kept in sets:
        after = edit(kept.definition())
        if after.name.lower() in taken:
            raise ConflictError(f"two sets would be named {after.name}; no set was renamed")
        taken.add(after.name.lower())
        if after.name == kept.name:
            out.kept[kept.id] = "its name doesn't change"
        else:
            wanted.append((kept, after))
    for kept, _ in wanted:  # out of each other's way first
        texture_sets.set_deleted(connection, kept.id, deleted=True)
    for kept, after in wanted:
        texture_sets.rename_set(connection, kept.id, after)
        out.steps.append(SetChange(kept.id, "name", kept.name, after.name))
    for kept, _ in wanted:
        texture_sets.set_deleted(connection, kept.id, deleted=False)
    return out


def label(
    connection: Transaction,
    sets: Sequence[StoredSet],
    wanted: changes.ChangeTags | changes.ChangeNotes,
) -> Outcome:
    """Add or remove tags, or replace the note."""
    out = Outcome("tags" if isinstance(wanted, changes.ChangeTags) else "notes")
    for kept in sets:
        tags, notes = kept.tags, kept.notes
        if isinstance(wanted, changes.ChangeTags):
            gone = {one.lower() for one in wanted.remove}
            there = [one for one in tags if one.lower() not in gone]
            new = {
                one.lower(): one for one in wanted.add if one.lower() not in map(str.lower, there)
            }
            tags = (*there, *new.values())
        else:
            notes = wanted.text
        if (tags, notes) == (kept.tags, kept.notes):
            out.kept[kept.id] = "it already has this value"
            continue
        texture_sets.set_labels(connection, kept.id, tags, notes)
        out.steps.append(
            SetChange(kept.id, "labels", [list(kept.tags), kept.notes], [list(tags), notes])
        )
    return out


def delete(connection: Transaction, sets: Sequence[StoredSet]) -> Outcome:
    """Move sets to the trash."""
    out = Outcome("deleted")
    for kept in sets:
        texture_sets.set_deleted(connection, kept.id, deleted=True)
        out.steps.append(SetChange(kept.id, "deleted", False, True))
    return out


def undelete(connection: Transaction, project: Project, sets: Sequence[StoredSet]) -> Outcome:
    """Restore sets; if a name is in use, the next free one is used."""
    out = Outcome("restored")
    taken = texture_sets.taken_names(connection, project.id)
    for kept in sets:
        name = texture_sets.free_name(kept.name, taken)
        taken.add(name.lower())
        if name != kept.name:
            out.messages.append(
                (f"the name {kept.name} is in use; it is restored as {name}", [kept.id])
            )
            named = set_edits.with_name(kept.definition(), name)
            texture_sets.rename_set(connection, kept.id, named)
            out.steps.append(SetChange(kept.id, "name", kept.name, name))
        texture_sets.set_deleted(connection, kept.id, deleted=False)
        out.steps.append(SetChange(kept.id, "deleted", True, False))
    return out


def duplicate(connection: Transaction, project: Project, sets: Sequence[StoredSet]) -> Outcome:
    """Create copies of sets."""
    out = Outcome("copied")
    for kept in sets:
        out.made.append(copy_into(connection, kept, project.id).id)
        out.steps.append(SetChange(out.made[-1], "deleted", True, False))
    return out


def copy_into(connection: Transaction, kept: StoredSet, project_id: int) -> StoredSet:
    """Copy a set with its labels and pictures, under the next free name.

    Numbers continue: if wall and wall_2 exist, the copy of wall_2 is wall_3.
    """
    definition = kept.definition()
    base = re.sub(r"_\d+$", "", kept.name)
    if base.lower() in texture_sets.taken_names(connection, project_id):
        definition = set_edits.with_name(definition, base)
    copy = texture_sets.add_set(connection, project_id, definition)
    texture_sets.set_labels(connection, copy.id, kept.tags, kept.notes)
    texture_sets.copy_sources(connection, kept.id, copy.id)
    return copy


def move(
    connection: Transaction, project: Project, sets: Sequence[StoredSet], wanted: changes.Move
) -> Outcome:
    """Move sets to another project, except for those whose name is in use there."""
    other = get_project(connection, wanted.project)
    if other.id == project.id:
        raise ConflictError(f"they are already in {project.title}")
    out = Outcome(f"moved to {other.title}")
    taken = texture_sets.taken_names(connection, other.id)
    for kept in sets:
        if kept.name.lower() in taken:
            out.kept[kept.id] = f"{other.title} has a set {kept.name}"
            continue
        texture_sets.move_set(connection, kept.id, other.id)
        models.copy_models(connection, other.id, kept.definition().tied())
        out.steps.append(SetChange(kept.id, "project", project.id, other.id))
    return out


def merge(connection: Transaction, sets: Sequence[StoredSet], wanted: changes.Merge) -> Outcome:
    """Merge the maps of sets into one of them, and move the others to the trash.

    Raises ConflictError if the one isn't among the sets, or is the only one.
    """
    into = next((one for one in sets if one.id == wanted.into), None)
    if into is None or len(sets) < 2:
        raise ConflictError("select at least two sets, and the one to keep")
    out = Outcome(f"merged into {into.name}")
    definition = into.definition()
    for other in sets:
        if other.id == into.id:
            continue
        found = set_edits.merge_definitions(definition, other.definition())
        definition = found.texture_set
        for kinds, words in ((found.taken, "imported"), (found.shelved, "kept as an alternative")):
            if kinds:
                names = ", ".join(kind.facts.title.lower() for kind in kinds)
                out.messages.append((f"{other.name}: {names} {words}", [other.id]))
        if not found.taken and not found.shelved:
            out.messages.append((f"{other.name} has no maps that {into.name} lacks", [other.id]))
    if definition != into.definition():
        out.steps.append(changed_definition(connection, into, definition))
    others = delete(connection, [one for one in sets if one.id != into.id])
    out.steps.extend(others.steps)
    return out


def changed_definition(
    connection: Transaction, kept: StoredSet, definition: SetDefinition
) -> SetChange:
    """Store a changed definition of a set as a state of its history.

    Raises SieveError if it can't be computed; then nothing is stored.
    """
    definition.checked()
    sizes = source_sizes(connection, definition.sources())
    if missing := definition.sources() - set(sizes):
        raise SieveError(f"its source {min(missing)[:12]} doesn't exist")
    plan(definition, sizes)
    after = texture_sets.update_set(connection, kept.id, kept.version, definition)
    return SetChange(kept.id, "definition", kept.version, after.version)
