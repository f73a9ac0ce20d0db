"""Checklists of sets."""

from __future__ import annotations

from pydantic import Field

from copper_sieve.api.schemas.common import RequestModel, ResponseModel
from copper_sieve.core.image.map_kind import MapKind
from copper_sieve.core.models.finding import Rule, Weight
from copper_sieve.store.checklist import StoredChecklist


class FindingRead(ResponseModel):
    """A detected problem, and its fix; `fix` is null if there is none."""

    key: str
    rule: Rule
    kind: MapKind
    title: str
    weight: Weight
    text: str
    evidence: str
    fix: str | None = Field(description="change made by the fix")
    ignored: bool


class ChecklistRead(ResponseModel):
    """The checklist of a set.

    `current` is false until the current version of the set was checked; `problem` is the reason if
    it couldn't be checked.
    """

    set_id: int
    current: bool
    problem: str | None
    findings: list[FindingRead]


class ChecklistsQuery(RequestModel):
    """The sets to check."""

    set_ids: list[int] = Field(min_length=1, max_length=10_000)


class IgnoreFinding(RequestModel):
    """A finding by its key, and whether it is ignored."""

    finding: str = Field(max_length=80)
    ignored: bool


class DismissWarning(RequestModel):
    """A warning of a delivery by its cause, and the sets for which it is dismissed."""

    set_ids: list[int] = Field(min_length=1, max_length=1000)
    cause: str = Field(min_length=1, max_length=80, pattern=r"^delivery\.")
    dismissed: bool


def read_checklist(kept: StoredChecklist) -> ChecklistRead:
    """Return the response for one set."""
    return ChecklistRead(
        set_id=kept.set_id,
        current=kept.current,
        problem=kept.found.problem,
        findings=[
            FindingRead(
                key=one.key, rule=one.rule, kind=one.kind, title=one.title, weight=one.weight,
                text=one.text, evidence=one.evidence, fix=one.fix.title if one.fix else None,
                ignored=one.key in kept.ignored,
            )
            for one in kept.found.findings
        ],
    )  # fmt: skip
