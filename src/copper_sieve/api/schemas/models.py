"""Models: what is known of them, the sets that are made for them, their islands."""

from __future__ import annotations

from datetime import datetime
from typing import Literal

from pydantic import Field

from copper_sieve.api.schemas.common import Answer, Request, png_url
from copper_sieve.api.schemas.sets import Draft
from copper_sieve.core.mesh.uv_facts import UvRule, Weight
from copper_sieve.core.models.model_tie import ModelTie
from copper_sieve.services.delivered_models import DressedModel, Ending
from copper_sieve.services.models import ModelView
from copper_sieve.services.ray_misses import Missed
from copper_sieve.services.uv_view import UvView


class TiedRead(Answer):
    """A set that is made for a model; `material` null is all of it."""

    id: int
    name: str
    material: str | None


class MaterialRead(Answer):
    """One material of a model: the sets that are made for it, else one of the same name."""

    name: str
    triangles: int
    sets: list[TiedRead]
    proposed: int | None


class ModelRead(Answer):
    """A model of a project."""

    id: int
    sha256: str
    name: str
    bytes: int
    triangles: int
    uv_sets: int
    extent: float = Field(description="meters, longest side of the bounding box")
    parts: int
    tangents: bool = Field(description="the file contains tangents")
    colors: bool
    remarks: list[str]
    created_at: datetime
    materials: list[MaterialRead]
    whole: list[TiedRead] = Field(description="sets linked to the whole model")
    serves: list[TiedRead] = Field(description="models that use this one as high-poly")


class ModelTieAsk(Request):
    """For which model a set is made; null: for none."""

    tie: ModelTie | None


class MakeSets(Request):
    """Of which materials sets are made."""

    materials: list[str] = Field(min_length=1, max_length=1000)


class MadeSetsRead(Answer):
    """The sets by material, and what of the materials they do not hold."""

    sets: dict[str, int]
    remarks: list[str]


class MaterialGroupRead(Answer):
    """The triangles of one material in a mesh, and its pieces of the islands' outline."""

    name: str
    first: int
    count: int
    first_border: int
    borders: int


class MeshRead(Answer):
    """What stands before a mesh's values, all float32 but the last:

    positions (3 a corner, metres), normals (3), uvs (2, v down), tangents (4, MikkTSpace),
    borders (4 a piece: u, v to u, v), and the triangles' corners (3 each, uint32).
    """

    corners: int
    triangles: int
    borders: int
    groups: list[MaterialGroupRead]
    low: list[float]
    high: list[float]
    uv_sets: int


class UvFactRead(Answer):
    """One thing to know of some UVs, with the figures that say so; `shown`: it has a picture."""

    rule: UvRule
    weight: Weight
    text: str
    evidence: str


class IslandRead(Answer):
    """An island: its texels per metre at 1024, and its bounds (least u and v, largest u and v)."""

    triangles: int
    density: float
    share: float
    mirrored: bool
    bounds: list[float]


class UvRead(Answer):
    """What is to know of the UVs of a material; `count` islands, the largest are listed."""

    side: int
    facts: list[UvFactRead]
    islands: list[IslandRead]
    count: int
    middle: float


UvShows = Literal[
    "density", "overlaps", "outside", "mirrored", "thin_gaps", "uneven_density", "degenerate",
    "hard_edges_joined",
]  # fmt: skip


class MissesAsk(Request):
    """How well a set's model reaches its detailed version, or that of a draft."""

    draft: Draft | None = None


class MissesRead(Answer):
    """Rays to the detailed model: the share that found none, and where (a data address, PNG).

    cage : metres that they start off the model; widest : that a cage may sensibly have
    """

    share: float
    cage: float
    widest: float
    picture: str | None


def read_misses(found: Missed) -> MissesRead:
    """The answer for what rays found."""
    return MissesRead(
        share=found.share, cage=found.cage, widest=found.widest,
        picture=png_url(found.png) if found.png else None,
    )  # fmt: skip


class DressedRead(Answer):
    """A model of the user's for which a delivery has textures, by one of its targets."""

    model_id: int
    name: str = Field(description="of the file with embedded textures")
    model: str
    target_id: str
    ending: Ending
    sets: int
    missing: list[str] = Field(description="materials without a set in the delivery")
    address: str


def read_dressed(delivery_id: int, one: DressedModel) -> DressedRead:
    """The answer for one model of a delivery."""
    return DressedRead(
        model_id=one.model.id, name=one.file_name, model=one.model.name, target_id=one.target_id,
        sets=len(one.parts), missing=list(one.missing),
        address=f"/api/v1/deliveries/{delivery_id}/models/{one.model.id}/{one.target_id}.{one.ending}",
        ending=one.ending,
    )  # fmt: skip


def read_model_view(view: ModelView) -> ModelRead:
    """The answer for one model."""
    model, facts = view.model, view.model.facts
    return ModelRead(
        id=model.id, sha256=model.sha256, name=model.name, bytes=model.bytes,
        triangles=facts.triangles, uv_sets=facts.uv_sets, extent=facts.extent,
        parts=len(facts.parts), tangents=facts.tangents, colors=facts.colors,
        remarks=list(facts.remarks), created_at=model.created_at,
        materials=[
            MaterialRead(
                name=one.name, triangles=one.triangles,
                sets=[TiedRead.model_validate(s) for s in view.tied if s.material == one.name],
                proposed=view.proposed.get(one.name),
            )
            for one in facts.materials
        ],
        whole=[TiedRead.model_validate(s) for s in view.tied if s.material is None],
        serves=[TiedRead.model_validate(s) for s in view.serves],
    )  # fmt: skip


def read_uv(view: UvView) -> UvRead:
    """The answer for the UVs of a material."""
    return UvRead.model_validate(view)
