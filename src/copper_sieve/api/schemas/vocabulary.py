"""Declarations that the interface is built from: map types and operations."""

from __future__ import annotations

from pydantic import Field

from copper_sieve.api.schemas.common import ResponseModel
from copper_sieve.core.image.map_kind import KindGroup, MapKind, Meaning
from copper_sieve.core.operations.declaration import Form, TakesFrom


class KindRead(ResponseModel):
    """A map type."""

    kind: MapKind
    title: str
    meaning: Meaning
    components: list[str]
    neutral: list[float]
    multiplies: bool = Field(description="the map of the slot can be multiplied by it")
    is_mask: bool = Field(
        description="selects texels; `mask_` with any name in lower case is such a kind, too"
    )
    ranged_from: list[MapKind] = Field(description="maps whose range can be taken as this one")


class ParameterRead(ResponseModel):
    """A parameter of an operation."""

    name: str
    label: str
    meaning: str
    default: float | bool | str
    low: float
    high: float
    unit: str
    group: str
    choices: list[str]
    most: int
    form: Form


class SlotRead(ResponseModel):
    """An additional input that the user may choose."""

    name: str
    label: str
    meaning: str
    takes: MapKind
    as_output: bool = Field(description="it takes the kind of map that is made, not `takes`")
    required: bool
    prefers: list[MapKind]
    group: str


class OperationRead(ResponseModel):
    """Declaration of an operation."""

    name: str
    version: int
    title: str
    outputs: list[MapKind] = Field(description="declared kinds of maps that it makes")
    group: KindGroup | None = Field(description="what these kinds have in common")
    inputs: list[MapKind]
    blends: bool = Field(description="it reads maps of the sets that are blended")
    takes_from: TakesFrom | None = Field(
        description=(
            "required input: the linked model, a high-poly model, or the light captures of the set"
        )
    )
    parameters: list[ParameterRead]
    slots: list[SlotRead]


class FormatRead(ResponseModel):
    """Capabilities of a file format; see `codecs.codec.Format`."""

    name: str
    title: str
    ending: str
    bits: list[int]
    channels: list[int]
    compressions: list[str]
    floating_bits: list[int]
    mips: bool
    tiles: bool
    quality: bool
    blocks: bool = Field(description="block-compressed texels for GPUs")
    lossy: list[str] | bool


class VocabularyRead(ResponseModel):
    """All declarations; constant while the server runs."""

    formats: list[FormatRead] = Field(description="formats for writing")
    endings: list[str] = Field(description="file name extensions of readable files, with the dot")
    kinds: list[KindRead]
    operations: list[OperationRead]
    reliefs: dict[str, float] = Field(description="relief presets: mean slope in degrees by name")
