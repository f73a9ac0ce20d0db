"""Checklist findings, stored until the set changes."""

from __future__ import annotations

from collections.abc import Collection, Sequence
from dataclasses import dataclass, replace

from psycopg.types.json import Jsonb

from copper_sieve.core.models.finding import Finding
from copper_sieve.store.database import Row, Transaction, statements

_SQL = statements("checklist")


@dataclass(frozen=True, slots=True)
class NewFinding:
    """Result of checking a set; `problem` is the reason if it couldn't be checked."""

    findings: tuple[Finding, ...]
    problem: str | None

    @classmethod
    def from_row(cls, row: Row) -> NewFinding:
        """Build from a row of a statement."""
        findings = row["findings"] or []
        return cls(tuple(Finding.model_validate(one) for one in findings), row["problem"])


@dataclass(frozen=True, slots=True)
class StoredChecklist:
    """The checklist of a set.

    current : it was computed for the current version of the set
    key : content key of its inputs; None before the first check
    ignored : keys of ignored findings, whether they are currently found or not
    """

    set_id: int
    found: NewFinding
    key: str | None
    current: bool
    ignored: tuple[str, ...]

    @classmethod
    def from_row(cls, row: Row) -> StoredChecklist:
        """Build from a row of a statement."""
        found, purposes = NewFinding.from_row(row), tuple(row["ignored"])
        return cls(row["set_id"], found, row["key"], row["current"], purposes)

    @property
    def open(self) -> list[Finding]:
        """Return the findings that aren't ignored."""
        return [one for one in self.found.findings if one.key not in self.ignored]


@dataclass(frozen=True, slots=True)
class OpenFinding:
    """Short form of a finding."""

    rule: str
    kind: str
    weight: str


@dataclass(frozen=True, slots=True)
class SetFindings:
    """Short checklist of a set: whether it is current, and open findings."""

    current: bool = False
    findings: tuple[OpenFinding, ...] = ()


def next_due(connection: Transaction, rules: int, rest: float) -> int | None:
    """Return a set whose check is due: not checked by this version of the rules, and unchanged for
    `rest` seconds.
    """
    row = connection.execute(_SQL["next_due"], {"rules": rules, "rest": rest}).fetchone()
    return row["id"] if row else None


def known(connection: Transaction, key: str) -> NewFinding | None:
    """Return the findings of any set with that key."""
    row = connection.execute(_SQL["known"], {"key": key}).fetchone()
    return NewFinding.from_row(row) if row else None


def put(  # noqa: PLR0917
    connection: Transaction, set_id: int, version: int, rules: int, key: str, found: NewFinding
) -> None:
    """Store the findings of a version of a set; deleted sets are skipped."""
    findings = [one.model_dump(mode="json") for one in found.findings]
    row = {"set_id": set_id, "version": version, "rules": rules, "key": key,
           "findings": Jsonb(findings), "problem": found.problem}  # fmt: skip
    connection.execute(_SQL["put"], row)


def of_sets(connection: Transaction, ids: Sequence[int]) -> list[StoredChecklist]:
    """Return the checklists of sets by id, without deleted ones."""
    return [
        StoredChecklist.from_row(row) for row in connection.execute(_SQL["of_sets"], {"ids": ids})
    ]


def findings_of_project(
    connection: Transaction, project_id: int, rules: int
) -> dict[int, SetFindings]:
    """Return the open findings of each set in a project, most severe first."""
    found: dict[int, SetFindings] = {}
    for row in connection.execute(
        _SQL["findings_of_project"], {"project_id": project_id, "rules": rules}
    ):
        one = found.setdefault(row["set_id"], SetFindings(row["current"]))
        if row["rule"] is not None:
            finding = OpenFinding(row["rule"], row["kind"], row["weight"])
            found[row["set_id"]] = replace(one, findings=(*one.findings, finding))
    return found


def suppressed(connection: Transaction, ids: Collection[int]) -> dict[int, tuple[str, ...]]:
    """Return the keys of findings that are ignored, by set."""
    found: dict[int, tuple[str, ...]] = {}
    for row in connection.execute(_SQL["suppressed"], {"ids": list(ids)}):
        found[row["set_id"]] = (*found.get(row["set_id"], ()), row["finding"])
    return found


def set_ignored(
    connection: Transaction, set_id: int, findings: Collection[str], *, purpose: bool
) -> None:
    """Ignore findings of a set, by their keys, or stop ignoring them."""
    for one in findings:
        connection.execute(
            _SQL["ignore" if purpose else "unignore"], {"set_id": set_id, "finding": one}
        )
