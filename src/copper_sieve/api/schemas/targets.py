"""Targets, and trying one on a set."""

from __future__ import annotations

from pydantic import Field

from copper_sieve.api.schemas.common import Answer, Request, png_url
from copper_sieve.api.schemas.deliveries import RemarkRead
from copper_sieve.core.image.map_kind import MapKind
from copper_sieve.core.models.texture_set import SurfaceSpec
from copper_sieve.core.targets.target_preset import TargetPreset
from copper_sieve.services.targets import LitProof, Target, Trial, TriedFile, TriedProof


class TargetRead(TargetPreset):
    """A target; `own` ones can be changed, `edition` is the one it was read at."""

    own: bool
    edition: int


class TargetUpdate(Request):
    """An own target's new definition; `edition` is the one it was read at."""

    edition: int
    preset: TargetPreset


class TrialCreate(Request):
    """A preset as it would be, and the set to try it on."""

    preset: TargetPreset
    set_id: int
    surrounding: int | None = Field(
        default=None, description="lighting of the comparison; null: three lights"
    )


class MemoryRead(Answer):
    """Bytes on the GPU, in the block format that suits the file and plain."""

    format: str
    blocks: int
    plain: int
    remark: str


class TriedFileRead(Answer):
    """A file that would be written: its name, size, memory and pictures (data URLs, PNG)."""

    suffix: str
    name: str
    width: int
    height: int
    memory: MemoryRead
    picture: str
    alpha: str | None
    channels: dict[str, str] = Field(description="description by channel letter")


class ProofRead(Answer):
    """The material before and after, under one shader (data URLs, PNG); CIEDE2000 between them."""

    before: str
    after: str
    mean: float
    largest: float


class TrialRead(Answer):
    """What a target would write of a set, or what is in the way."""

    files: list[TriedFileRead]
    documents: list[str]
    remarks: list[RemarkRead]
    error: str | None
    proof: ProofRead | None = Field(description="null where the files contain no complete material")


class LitProofRead(Answer):
    """Maps by kind for two lit windows (data URLs, PNG): the set's, and read back from the files.

    Colors sRGB, normals with green up; of a specular target, as a metal/rough reader takes it.
    """

    before: dict[MapKind, str]
    after: dict[MapKind, str]
    surface: SurfaceSpec
    aspect: float


def read_lit_proof(proof: LitProof) -> LitProofRead:
    """The answer for a lit proof."""
    before, after = (
        {kind: png_url(png) for kind, png in maps.items()} for maps in (proof.before, proof.after)
    )
    return LitProofRead(before=before, after=after, surface=proof.surface, aspect=proof.aspect)


def read_target(target: Target) -> TargetRead:
    """The answer for one target."""
    return TargetRead(**target.preset.model_dump(), own=target.version > 0, edition=target.version)


def read_trial(trial: Trial) -> TrialRead:
    """The answer for a trial."""
    export = trial.export
    return TrialRead(
        files=[_read_file(one) for one in trial.files],
        documents=list(export.documents) if export else [],
        remarks=[
            RemarkRead(weight=remark.weight, text=remark.text)
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
