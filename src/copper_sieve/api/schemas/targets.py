"""Targets, and previews of a target with a set."""

from __future__ import annotations

from pydantic import Field

from copper_sieve.api.schemas.common import RequestModel, ResponseModel, png_url
from copper_sieve.api.schemas.deliveries import RemarkRead
from copper_sieve.core.image.map_kind import MapKind
from copper_sieve.core.models.texture_set import SurfaceSpec
from copper_sieve.core.targets.target_preset import TargetPreset
from copper_sieve.services.targets import LitProof, Target, Trial, TriedFile, TriedProof


class TargetRead(TargetPreset):
    """A target; `own` ones can be edited, `edition` is their version."""

    own: bool
    edition: int


class TargetUpdate(RequestModel):
    """New definition of a custom target; `edition` is the version it is based on."""

    edition: int
    preset: TargetPreset


class TargetPreviewCreate(RequestModel):
    """A target, and the set to preview it with."""

    preset: TargetPreset
    set_id: int
    environment: int | None = Field(
        default=None, description="lighting of the comparison; null: three lights"
    )


class MemoryRead(ResponseModel):
    """Bytes on the GPU, block-compressed and uncompressed."""

    format: str
    blocks: int
    plain: int
    remark: str


class TriedFileRead(ResponseModel):
    """A file that would be written: its name, size, memory and pictures (data URLs, PNG)."""

    suffix: str
    name: str
    width: int
    height: int
    memory: MemoryRead
    picture: str
    alpha: str | None
    channels: dict[str, str] = Field(description="description by channel letter")


class ProofRead(ResponseModel):
    """The material before and after conversion, rendered with one shader (data URLs, PNG);
    CIEDE2000 between them.
    """

    before: str
    after: str
    mean: float
    largest: float


class TargetPreviewRead(ResponseModel):
    """The files that a target would write for a set, or the reason why it can't."""

    files: list[TriedFileRead]
    documents: list[str]
    remarks: list[RemarkRead]
    error: str | None
    proof: ProofRead | None = Field(description="null where the files contain no complete material")


class LitProofRead(ResponseModel):
    """Maps for two lit views (data URLs, PNG): the set's, and those read back from the files.

    Colors are sRGB, normals Y+; specular targets are converted to metallic/roughness.
    """

    before: dict[MapKind, str]
    after: dict[MapKind, str]
    surface: SurfaceSpec
    aspect: float


def read_lit_proof(proof: LitProof) -> LitProofRead:
    """Return the response for a lit comparison."""
    before, after = (
        {kind: png_url(png) for kind, png in maps.items()} for maps in (proof.before, proof.after)
    )
    return LitProofRead(before=before, after=after, surface=proof.surface, aspect=proof.aspect)


def read_target(target: Target) -> TargetRead:
    """Return the response for one target."""
    return TargetRead(**target.preset.model_dump(), own=target.version > 0, edition=target.version)


def read_target_preview(trial: Trial) -> TargetPreviewRead:
    """Return the response for a preview."""
    export = trial.export
    return TargetPreviewRead(
        files=[_read_file(one) for one in trial.files],
        documents=list(export.documents) if export else [],
        remarks=[
            RemarkRead(weight=remark.weight, text=remark.text, cause=remark.cause)
            for remark in (export.remarks if export else ())
        ],
        error=trial.error,
        proof=_read_proof(trial.proof) if trial.proof else None,
    )


def _read_proof(proof: TriedProof) -> ProofRead:
    return ProofRead(
        before=png_url(proof.before),
        after=png_url(proof.after),
        mean=proof.mean,
        largest=proof.largest,
    )


def _read_file(one: TriedFile) -> TriedFileRead:
    memory = one.memory
    return TriedFileRead(
        suffix=one.file.spec.suffix,
        name=one.file.name,
        width=one.file.size[0],
        height=one.file.size[1],
        memory=MemoryRead(
            format=memory.format, blocks=memory.blocks, plain=memory.plain, remark=memory.remark
        ),
        picture=png_url(one.picture),
        alpha=None if one.alpha is None else png_url(one.alpha),
        channels={letter: slot.words() for letter, slot in one.file.slots.items()},
    )
