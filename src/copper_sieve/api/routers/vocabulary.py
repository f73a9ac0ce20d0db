"""Map kinds and operations, as they declare themselves."""

from __future__ import annotations

from dataclasses import asdict

from fastapi import APIRouter

from copper_sieve.api.schemas.vocabulary import KindRead, OperationRead, VocabularyRead
from copper_sieve.core.image.map_kind import MapKind
from copper_sieve.core.operations import OPERATIONS

router = APIRouter(prefix="/api", tags=["vocabulary"])


@router.get("/vocabulary")
def vocabulary() -> VocabularyRead:
    """What the interface draws its controls from."""
    kinds = [
        KindRead(
            kind=kind,
            title=kind.facts.title,
            meaning=kind.facts.meaning,
            components=list(kind.facts.components),
            neutral=list(kind.facts.neutral),
        )
        for kind in MapKind
    ]
    operations = [
        OperationRead.model_validate({**asdict(operation), "compute": None})
        for operation in OPERATIONS.values()
    ]
    return VocabularyRead(kinds=kinds, operations=operations)
