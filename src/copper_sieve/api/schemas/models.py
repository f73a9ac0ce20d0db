"""Models: facts, linked sets, UV islands."""

from __future__ import annotations

from datetime import datetime
from typing import Literal

from pydantic import Field

from copper_sieve.api.schemas.common import RequestModel, ResponseModel, png_url
from copper_sieve.api.schemas.sets import Draft
from copper_sieve.core.mesh.uv_facts import UvRule, Weight
from copper_sieve.core.models.model_tie import ModelLink
from copper_sieve.services.delivered_models import Ending, TexturedModel
from copper_sieve.services.models import ModelView
from copper_sieve.services.ray_misses import RayMisses
from copper_sieve.services.uv_view import UvView


class LinkedSetRead(ResponseModel):
    """A set linked to a model; `material` null means the whole model."""

    id: int
    name: str
    material: str | None


class MaterialRead(ResponseModel):
    """A material of a model: the sets linked to it, or else a set with the same name."""

    name: str
    triangles: int
    sets: list[LinkedSetRead]
    proposed: int | None


class ModelRead(ResponseModel):
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
    whole: list[LinkedSetRead] = Field(description="sets linked to the whole model")
    serves: list[LinkedSetRead] = Field(description="models that use this one as high-poly")


class ModelLinkWrite(RequestModel):
    """Link a set to a model; null removes the link."""

    link: ModelLink | None


class CreateSets(RequestModel):
    """The materials to create sets for."""

    materials: list[str] = Field(min_length=1, max_length=1000)


class CreatedSetsRead(ResponseModel):
    """The created sets by material, and what couldn't be imported."""

    sets: dict[str, int]
    remarks: list[str]


class MaterialGroupRead(ResponseModel):
    """The triangles of one material in a mesh, and the outline segments of its UV islands."""

    name: str
    first: int
    count: int
    first_border: int
    borders: int


class MeshRead(ResponseModel):
    """Header of a mesh; the values follow, all float32 except the last:

    positions (3 per vertex, meters), normals (3), uvs (2, v down), tangents (4, MikkTSpace),
    outline segments (4 each: u, v to u, v), and triangle indices (3 each, uint32).
    """

    corners: int
    triangles: int
    borders: int
    groups: list[MaterialGroupRead]
    low: list[float]
    high: list[float]
    uv_sets: int


class UvFactRead(ResponseModel):
    """A property or problem of UVs with its measurement; `shown`: a picture is available."""

    rule: UvRule
    weight: Weight
    text: str
    evidence: str


class IslandRead(ResponseModel):
    """A UV island: texel density at 1024, and its bounds (minimum u and v, maximum u and v)."""

    triangles: int
    density: float
    share: float
    mirrored: bool
    bounds: list[float]


class UvRead(ResponseModel):
    """The UVs of a material; `count` islands, of which the largest are listed."""

    side: int
    facts: list[UvFactRead]
    islands: list[IslandRead]
    count: int
    middle: float


UvShows = Literal[
    "density", "overlaps", "outside", "mirrored", "gaps", "uneven_density", "degenerate",
    "hard_edges",
]  # fmt: skip


class RayMissesQuery(RequestModel):
    """Query of ray misses for a set or a draft."""

    draft: Draft | None = None


class RayMissesRead(ResponseModel):
    """Share of rays that miss the high-poly model, and where (data URL, PNG).

    cage : ray start distance in meters; widest : largest sensible cage distance
    """

    share: float
    cage: float
    widest: float
    picture: str | None


def read_ray_misses(found: RayMisses) -> RayMissesRead:
    """Return the response for ray misses."""
    return RayMissesRead(
        share=found.share, cage=found.cage, widest=found.widest,
        picture=png_url(found.png) if found.png else None,
    )  # fmt: skip


class TexturedModelRead(ResponseModel):
    """A model of the project for which a delivery has textures of one of its targets."""

    model_id: int
    name: str = Field(description="of the file with embedded textures")
    model: str
    target_id: str
    ending: Ending
    sets: int
    missing: list[str] = Field(description="materials without a set in the delivery")
    address: str


def read_textured_model(delivery_id: int, one: TexturedModel) -> TexturedModelRead:
    """Return the response for one model of a delivery."""
    return TexturedModelRead(
        model_id=one.model.id, name=one.file_name, model=one.model.name, target_id=one.target_id,
        sets=len(one.parts), missing=list(one.missing),
        address=f"/api/v1/deliveries/{delivery_id}/models/{one.model.id}/{one.target_id}.{one.ending}",
        ending=one.ending,
    )  # fmt: skip


def read_model_view(view: ModelView) -> ModelRead:
    """Return the response for one model."""
    model, facts = view.model, view.model.facts
    return ModelRead(
        id=model.id, sha256=model.sha256, name=model.name, bytes=model.bytes,
        triangles=facts.triangles, uv_sets=facts.uv_sets, extent=facts.extent,
        parts=len(facts.parts), tangents=facts.tangents, colors=facts.colors,
        remarks=list(facts.remarks), created_at=model.created_at,
        materials=[
            MaterialRead(
                name=one.name, triangles=one.triangles,
                sets=[LinkedSetRead.model_validate(s) for s in view.tied if s.material == one.name],
                proposed=view.proposed.get(one.name),
            )
            for one in facts.materials
        ],
        whole=[LinkedSetRead.model_validate(s) for s in view.tied if s.material is None],
        serves=[LinkedSetRead.model_validate(s) for s in view.serves],
    )  # fmt: skip


def read_uv(view: UvView) -> UvRead:
    """Return the response for the UVs of a material."""
    return UvRead.model_validate(view)
