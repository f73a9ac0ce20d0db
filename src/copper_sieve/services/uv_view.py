"""The UVs of a model: islands and problems, as figures and pictures."""

from __future__ import annotations

import hashlib
import json
from dataclasses import dataclass

from pydantic import TypeAdapter

from copper_sieve.core.codecs.encoders.png import encode_png
from copper_sieve.core.errors import MeshError
from copper_sieve.core.graph.fair_lock import computing
from copper_sieve.core.image.raster import Encoding, Picture
from copper_sieve.core.image.tile_layout import TileLayout
from copper_sieve.core.mesh.islands import Islands
from copper_sieve.core.mesh.mesh import Mesh
from copper_sieve.core.mesh.mesh_cache import cached_by_mesh
from copper_sieve.core.mesh.tiles import on_tile_layout
from copper_sieve.core.mesh.uv_facts import UvFact, UvRule, Weight, check_uvs
from copper_sieve.core.mesh.uv_pictures import density_picture, evidence_picture
from copper_sieve.services.context import Context
from copper_sieve.services.jobs.running import Running
from copper_sieve.services.model_results import (
    awaited_result_of,
    has_result,
    is_large,
    keep_result,
)
from copper_sieve.services.models import get

MOST_ISLANDS = 200  # that are listed, the largest first
_SIDE = 1024  # texels per side at which densities and gaps are measured


@dataclass(frozen=True, slots=True)
class Island:
    """A UV island in a list.

    density : texels per meter at 1024; share : of the picture; bounds : minimum u, v, maximum u, v
    """

    triangles: int
    density: float
    share: float
    mirrored: bool
    bounds: tuple[float, float, float, float]


@dataclass(frozen=True, slots=True)
class UvProblem:
    """A UV problem without its list of triangles; see `UvFact`."""

    rule: UvRule
    weight: Weight
    text: str
    evidence: str


@dataclass(frozen=True, slots=True)
class UvView:
    """The UVs of one material.

    islands : largest first; count : total; middle : median texel density by area
    """

    side: int
    facts: tuple[UvProblem, ...]
    islands: tuple[Island, ...]
    count: int
    middle: float


_VIEWS = TypeAdapter(UvView)


def uv_view(context: Context, model_id: int, material: str | None, uv_set: int) -> UvView:
    """Return the problems and islands of UVs. Raises NotFoundError, MeshError."""
    model = get(context, model_id)
    if not is_large(model):
        return _view(context, model.sha256, material, uv_set)
    name = _name_of("view", material, uv_set)
    arguments = {"material": material, "uv_set": uv_set, "shows": None}
    held = awaited_result_of(context, model, "uv_analysis", name, **arguments)
    return _VIEWS.validate_json(held.tobytes())


def _view(context: Context, sha256: str, material: str | None, uv_set: int) -> UvView:
    _, islands, facts = _looked_at(context, sha256, material, uv_set)
    problems = tuple(UvProblem(one.rule, one.weight, one.text, one.evidence) for one in facts)
    if islands is None:
        return UvView(_SIDE, problems, (), 0, 0.0)
    return UvView(
        _SIDE, problems, _listed(islands), len(islands.counts), islands.middle_density(_SIDE)
    )


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
    """Return a PNG with alpha: texel density, or the triangles of a problem.

    shows : `density`, or the rule of a problem
    tiles : by number: the picture is the sheet of these, drawn square
    Raises NotFoundError, MeshError if there are no such UVs or no such problem.
    """
    model = get(context, model_id)
    if not is_large(model):
        return _picture(context, model.sha256, material, uv_set, shows, side, tiles)
    name = _name_of(f"{shows}-{side}-{'.'.join(map(str, tiles))}", material, uv_set)
    arguments = {
        "material": material,
        "uv_set": uv_set,
        "shows": shows,
        "side": side,
        "tiles": tiles,
    }
    return awaited_result_of(context, model, "uv_analysis", name, **arguments).tobytes()


def analyze_uvs(context: Context, running: Running) -> None:
    """Analyze the UVs of a large model, and draw the requested pictures."""
    arguments = running.arguments
    if not has_result(context, running):
        of = arguments["sha256"], arguments["material"], arguments["uv_set"]
        running.report(0.02, "Reading the model")
        context.load_model(arguments["sha256"])
        running.report(0.2, "Finding UV islands")
        if arguments["shows"] is None:
            data = _VIEWS.dump_json(_view(context, *of))
        else:
            what = arguments["shows"], arguments["side"], tuple(arguments["tiles"])
            data = _picture(context, *of, *what)
        keep_result(context, running, data)
    with context.database.transaction() as connection:
        running.finish(connection)


def _name_of(what: str, material: str | None, uv_set: int) -> str:
    """Return the name of a cached result; a material's name may contain any characters."""
    of = hashlib.sha256(json.dumps(material).encode()).hexdigest()[:16]
    return f"uv-{what}-{of}-{uv_set}"


def _picture(  # noqa: PLR0917
    context: Context, sha256: str, material: str | None, uv_set: int, shows: str, side: int,
    tiles: tuple[int, ...],
) -> bytes:  # fmt: skip
    mesh, islands, facts = _looked_at(context, sha256, material, uv_set)
    if islands is None:
        raise MeshError(facts[0].text)
    fact = next((one for one in facts if one.rule == shows), None)
    if fact is None and shows != "density":
        raise MeshError(f"the UV view {shows} isn't available for this model")
    if tiles:
        mesh = on_tile_layout(mesh, TileLayout.of(tiles))
    with computing:
        if fact is None:
            codes = density_picture(mesh, islands, uv_set, side)
        else:
            codes = evidence_picture(mesh, fact.triangles, fact.weight, uv_set, side)
    return encode_png(Picture(codes, ("R", "G", "B", "A"), Encoding.SRGB))


def _looked_at(
    context: Context, sha256: str, material: str | None, uv_set: int
) -> tuple[Mesh, Islands | None, list[UvFact]]:
    """Return the triangles of a material, their islands and problems; cached."""
    whole = context.load_model(sha256)
    mesh = whole if material is None else whole.of_material(material)

    def look() -> tuple[Islands | None, list[UvFact]]:
        with computing:
            return check_uvs(mesh, uv_set, _SIDE)

    islands, facts = cached_by_mesh("uv facts", [whole.positions], look, material, uv_set)
    return mesh, islands, facts
