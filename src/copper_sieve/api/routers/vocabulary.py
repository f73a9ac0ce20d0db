"""Map types, operations and file formats."""

from __future__ import annotations

from dataclasses import asdict

from fastapi import APIRouter

from copper_sieve.api.schemas.vocabulary import (
    FormatRead,
    KindRead,
    OperationRead,
    VocabularyRead,
)
from copper_sieve.core.codecs import CODECS
from copper_sieve.core.codecs.registry import suffixes
from copper_sieve.core.image.map_kind import KindGroup, MapKind
from copper_sieve.core.models.relief import RELIEFS
from copper_sieve.core.operations import OPERATIONS

router = APIRouter(prefix="/api/v1", tags=["vocabulary"])


@router.get("/vocabulary")
def get_vocabulary() -> VocabularyRead:
    """Return the declarations that the interface is built from."""
    kinds = [
        KindRead(
            kind=kind,
            title=kind.facts.title,
            meaning=kind.facts.meaning,
            components=list(kind.facts.components),
            neutral=list(kind.facts.neutral),
            multiplies=kind.facts.multiplies,
            is_mask=kind.facts.is_mask,
            ranged_from=[MapKind(one) for one in kind.facts.ranged_from],
        )
        for kind in MapKind
    ]
    operations = [
        OperationRead.model_validate(
            {
                **asdict(operation),
                "compute": None,
                "outputs": operation.kinds,
                "group": operation.output if isinstance(operation.output, KindGroup) else None,
            }
        )
        for operation in OPERATIONS.values()
    ]
    formats = [
        FormatRead(name=one.name, title=one.title, ending=one.ending, **asdict(one.holds))
        for one in CODECS.values()
        if one.holds
    ]
    return VocabularyRead(
        formats=formats, endings=suffixes(), kinds=kinds, operations=operations, reliefs=RELIEFS
    )
