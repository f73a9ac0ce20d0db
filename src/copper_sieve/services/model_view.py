"""A model to look at: its mesh for the lit window, its islands as figures and pictures."""

from __future__ import annotations

from dataclasses import dataclass, replace

from copper_sieve.core.codecs.encoders.png import encode_png
from copper_sieve.core.errors import MeshError
from copper_sieve.core.graph.turns import computing
from copper_sieve.core.image.raster import Encoding, Picture
from copper_sieve.core.image.sheet import Sheet
from copper_sieve.core.mesh.islands import Islands
from copper_sieve.core.mesh.kept import kept
from copper_sieve.core.mesh.mesh import Mesh
from copper_sieve.core.mesh.tiles import on_sheet
from copper_sieve.core.mesh.uv_facts import UvFact, look_at_uvs
from copper_sieve.core.mesh.uv_pictures import density_picture, evidence_picture
from copper_sieve.core.mesh.viewing import ViewMesh, view_mesh
from copper_sieve.services.context import Context
from copper_sieve.services.models import get
from copper_sieve.store.models import KeptModel

MOST_ISLANDS = 200  # that are listed, the largest first
_SIDE = 1024  # texels a side by which densities and gaps are told


@dataclass(frozen=True, slots=True)
class Island:
    """An island as it is listed.

    density : texels per metre at 1024; share : of the picture; bounds : least u, v, largest u, v
    """

    triangles: int
    density: float
    share: float
    mirrored: bool
    bounds: tuple[float, float, float, float]


@dataclass(frozen=True, slots=True)
class UvView:
    """What is to know of the UVs of one material.

    facts : without triangles; islands : the largest first; count : of all; middle : texels per
    metre that half of the surface is drawn with at most
    """

    side: int
    facts: tuple[UvFact, ...]
    islands: tuple[Island, ...]
    count: int
    middle: float


def mesh_of(context: Context, model_id: int, uv_set: int) -> tuple[KeptModel, ViewMesh]:
    """A model laid out to be drawn. Raises NotFoundError, MeshError."""
    model = get(context, model_id)
    # No turn is taken: it uses one core, and the flat window never waits for it.
    return model, view_mesh(context.load_model(model.sha256), uv_set)


def uv_view(context: Context, model_id: int, material: str | None, uv_set: int) -> UvView:
    """What is wrong in some UVs, and the islands. Raises NotFoundError, MeshError."""
    _, islands, facts = _looked_at(context, model_id, material, uv_set)
    told = tuple(replace(one, triangles=None) for one in facts)
    if islands is None:
        return UvView(_SIDE, told, (), 0, 0.0)
    return UvView(_SIDE, told, _listed(islands), len(islands.counts), islands.middle_density(_SIDE))


def _listed(islands: Islands) -> tuple[Island, ...]:
    densities = islands.densities(_SIDE)
    return tuple(
        Island(
            int(islands.counts[n]), float(densities[n]), float(islands.shares[n]),
            bool(islands.turned[n]), tuple(float(v) for v in islands.bounds[n]),  # type: ignore[arg-type]
        )
        for n in range(min(MOST_ISLANDS, len(islands.counts)))
    )  # fmt: skip


def uv_picture(  # noqa: PLR0917
    context: Context,
    model_id: int,
    material: str | None,
    uv_set: int,
    shows: str,
    side: int,
    tiles: tuple[int, ...] = (),
) -> bytes:
    """PNG bytes with alpha: `density`, or the rule of a fact whose triangles are told.

    tiles : by number: the picture is the sheet of these, drawn square
    Raises NotFoundError, MeshError where there are no such UVs or nothing of the kind.
    """
    mesh, islands, facts = _looked_at(context, model_id, material, uv_set)
    if islands is None:
        raise MeshError(facts[0].text)
    fact = next((one for one in facts if one.rule == shows), None)
    if fact is None and shows != "density":
        raise MeshError(f"nothing is told of {shows} in these UVs")
    if tiles:
        mesh = on_sheet(mesh, Sheet.of(tiles))
    with computing:
        if fact is None:
            codes = density_picture(mesh, islands, uv_set, side)
        else:
            codes = evidence_picture(mesh, fact.triangles, fact.weight, uv_set, side)
    return encode_png(Picture(codes, ("R", "G", "B", "A"), Encoding.SRGB))


def _looked_at(
    context: Context, model_id: int, material: str | None, uv_set: int
) -> tuple[Mesh, Islands | None, list[UvFact]]:
    """The triangles of a material, their islands and what is told of them, worked out once."""
    whole = context.load_model(get(context, model_id).sha256)
    mesh = whole if material is None else whole.of_material(material)

    def look() -> tuple[Islands | None, list[UvFact]]:
        with computing:
            return look_at_uvs(mesh, uv_set, _SIDE)

    islands, facts = kept("uv facts", [whole.positions], look, material, uv_set)
    return mesh, islands, facts
