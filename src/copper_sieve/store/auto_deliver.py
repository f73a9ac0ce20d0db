"""Auto-deliver rules."""

from __future__ import annotations

from dataclasses import dataclass

from copper_sieve.store.database import Transaction, statements

_SQL = statements("auto_deliver")


@dataclass(frozen=True, slots=True)
class AutoDeliverRule:
    """A rule for one set and target.

    Without a set, it applies to every set for that target; without both, to every set and target
    that was delivered before.
    """

    set_id: int | None
    target_id: str | None


@dataclass(frozen=True, slots=True)
class ChangeSignature:
    """A project with auto-deliver rules.

    sign : changes whenever something relevant changes
    """

    id: int
    slug: str
    sign: str


def of_project(connection: Transaction, project_id: int) -> list[AutoDeliverRule]:
    """Return the rules of a project."""
    rows = connection.execute(_SQL["of_project"], {"project_id": project_id})
    return [AutoDeliverRule(**row) for row in rows]


def put(connection: Transaction, project_id: int, one: AutoDeliverRule, *, kept: bool) -> None:
    """Add or remove a rule."""
    parameters = {"project_id": project_id, "set_id": one.set_id, "target_id": one.target_id}
    connection.execute(_SQL["put" if kept else "remove"], parameters)


def change_signatures(connection: Transaction) -> list[ChangeSignature]:
    """Return every project with auto-deliver rules."""
    return [ChangeSignature(**row) for row in connection.execute(_SQL["change_signatures"])]


def postpone(connection: Transaction, project_id: int) -> set[tuple[int, str]]:
    """Return set and target pairs that need no new delivery now.

    One waits or runs for them, or the last one failed and its set hasn't changed since.
    """
    rows = connection.execute(_SQL["postponed"], {"project_id": project_id})
    return {
        (row["set_id"], row["target_id"])
        for row in rows
        if row["same_set"] or row["state"] in ("queued", "running")
    }


def changed_projects(connection: Transaction, project_id: int, seconds: float) -> set[int]:
    """Return ids of the sets that were changed in the last seconds."""
    parameters = {"project_id": project_id, "seconds": seconds}
    return {row["id"] for row in connection.execute(_SQL["changed_projects"], parameters)}
