"""What was found when sets were looked over, kept until they are changed."""

from __future__ import annotations

from collections.abc import Collection, Sequence
from dataclasses import dataclass, replace

from psycopg.types.json import Jsonb

from copper_sieve.core.models.finding import Finding
from copper_sieve.store.database import Row, Transaction, statements

_SQL = statements("checklist")


@dataclass(frozen=True, slots=True)
class Found:
    """What looking a set over came to; `problem` says why it could not be done."""

    findings: tuple[Finding, ...]
    problem: str | None

    @classmethod
    def from_row(cls, row: Row) -> Found:
        """As a statement gives it."""
        findings = row["findings"] or []
        return cls(tuple(Finding.model_validate(one) for one in findings), row["problem"])


@dataclass(frozen=True, slots=True)
class KeptChecklist:
    """The checklist of a set.

    current : it is of the set as it is now; key : of what it depends on, None before it was made
    on_purpose : keys of findings that are said to be so on purpose, whether they are found or not
    """

    set_id: int
    found: Found
    key: str | None
    current: bool
    on_purpose: tuple[str, ...]

    @classmethod
    def from_row(cls, row: Row) -> KeptChecklist:
        """As a statement gives it."""
        found, purposes = Found.from_row(row), tuple(row["on_purpose"])
        return cls(row["set_id"], found, row["key"], row["current"], purposes)

    @property
    def open(self) -> list[Finding]:
        """The findings that are not so on purpose."""
        return [one for one in self.found.findings if one.key not in self.on_purpose]


@dataclass(frozen=True, slots=True)
class Told:
    """A finding in few words."""

    rule: str
    kind: str
    weight: str


@dataclass(frozen=True, slots=True)
class ToldSet:
    """A set in few words: whether it was looked over as it is now, and what is open in it."""

    current: bool = False
    findings: tuple[Told, ...] = ()


def next_due(connection: Transaction, rules: int, rest: float) -> int | None:
    """A set that has to be looked over by these rules and has not changed for `rest` seconds."""
    row = connection.execute(_SQL["next_due"], {"rules": rules, "rest": rest}).fetchone()
    return row["id"] if row else None


def known(connection: Transaction, key: str) -> Found | None:
    """What was found in a set of that key, whichever it was."""
    row = connection.execute(_SQL["known"], {"key": key}).fetchone()
    return Found.from_row(row) if row else None


def put(  # noqa: PLR0917
    connection: Transaction, set_id: int, version: int, rules: int, key: str, found: Found
) -> None:
    """Keep what was found in a version of a set; a set that is gone by now is passed over."""
    findings = [one.model_dump(mode="json") for one in found.findings]
    row = {"set_id": set_id, "version": version, "rules": rules, "key": key,
           "findings": Jsonb(findings), "problem": found.problem}  # fmt: skip
    connection.execute(_SQL["put"], row)


def of_sets(connection: Transaction, ids: Sequence[int]) -> list[KeptChecklist]:
    """The checklists of sets by their numbers; those that were thrown away are left out."""
    return [
        KeptChecklist.from_row(row) for row in connection.execute(_SQL["of_sets"], {"ids": ids})
    ]


def told(connection: Transaction, project_id: int, rules: int) -> dict[int, ToldSet]:
    """For each set of a project what is open in it by these rules, the gravest first."""
    found: dict[int, ToldSet] = {}
    for row in connection.execute(_SQL["told"], {"project_id": project_id, "rules": rules}):
        one = found.setdefault(row["set_id"], ToldSet(row["current"]))
        if row["rule"] is not None:
            told = Told(row["rule"], row["kind"], row["weight"])
            found[row["set_id"]] = replace(one, findings=(*one.findings, told))
    return found


def suppressed(connection: Transaction, ids: Collection[int]) -> dict[int, tuple[str, ...]]:
    """Return the keys of findings that are ignored, by set."""
    found: dict[int, tuple[str, ...]] = {}
    for row in connection.execute(_SQL["suppressed"], {"ids": list(ids)}):
        found[row["set_id"]] = (*found.get(row["set_id"], ()), row["finding"])
    return found


def say(connection: Transaction, set_id: int, findings: Collection[str], *, purpose: bool) -> None:
    """Say that findings of a set, by their keys, are so on purpose; or that they are not."""
    for one in findings:
        connection.execute(_SQL["say" if purpose else "unsay"], {"set_id": set_id, "finding": one})
