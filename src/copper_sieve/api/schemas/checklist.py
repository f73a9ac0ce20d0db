"""What was found when sets were looked over."""

from __future__ import annotations

from pydantic import Field

from copper_sieve.api.schemas.common import Answer, Request
from copper_sieve.core.image.map_kind import MapKind
from copper_sieve.core.models.finding import Rule, Weight
from copper_sieve.store.checklist import KeptChecklist


class FindingRead(Answer):
    """One thing that seems wrong, and what would mend it; `mend` is null where nothing does."""

    key: str
    rule: Rule
    kind: MapKind
    title: str
    weight: Weight
    text: str
    evidence: str
    mend: str | None = Field(description="change made by the fix")
    on_purpose: bool


class ChecklistRead(Answer):
    """The checklist of a set.

    `current` is false while the set as it is now has yet to be looked over; `problem` says why it
    could not be.
    """

    set_id: int
    current: bool
    problem: str | None
    findings: list[FindingRead]


class ChecklistsAsk(Request):
    """The sets that are asked for."""

    set_ids: list[int] = Field(min_length=1, max_length=10_000)


class PurposeAsk(Request):
    """A finding by its key, and whether it is so on purpose."""

    finding: str = Field(max_length=80)
    on_purpose: bool


def read_checklist(kept: KeptChecklist) -> ChecklistRead:
    """The answer for one set."""
    return ChecklistRead(
        set_id=kept.set_id,
        current=kept.current,
        problem=kept.found.problem,
        findings=[
            FindingRead(
                key=one.key, rule=one.rule, kind=one.kind, title=one.title, weight=one.weight,
                text=one.text, evidence=one.evidence, mend=one.mend.title if one.mend else None,
                on_purpose=one.key in kept.on_purpose,
            )
            for one in kept.found.findings
        ],
    )  # fmt: skip
