"""A model to look at: its mesh for the lit window, its islands as figures and pictures."""

from __future__ import annotations

import io
import json
from dataclasses import asdict, dataclass, replace
from typing import Any

import numpy as np
from numpy.typing import NDArray

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
from copper_sieve.core.mesh.viewing import MaterialGroup, ViewMesh, view_mesh
from copper_sieve.services.context import Context
from copper_sieve.services.jobs.asking import ask, priority_of
from copper_sieve.services.jobs.running import Running
from copper_sieve.services.models import get
from copper_sieve.services.progress import Part
from copper_sieve.store import jobs
from copper_sieve.store.jobs import KeptJob, Lane, NewJob
from copper_sieve.store.models import KeptModel

MOST_ISLANDS = 200  # that are listed, the largest first
_AT_ONCE = 50_000  # triangles that are laid out while a request waits
_SMALL = 200_000  # triangles; a larger model is laid out in the lane of large jobs
_DISPLAY_VERSION = 1  # of what is in the cache
_ARRAYS = ("positions", "normals", "uvs", "tangents", "corners", "borders", "low", "high")
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


def mesh_of(context: Context, model_id: int, uv_set: int) -> tuple[KeptModel, ViewMesh | KeptJob]:
    """A model laid out to be drawn, or the job that lays it out. Raises NotFoundError, MeshError.

    A large model takes seconds to minutes, so a worker does it; the result stays in the cache.
    """
    model = get(context, model_id)
    if model.facts.triangles <= _AT_ONCE:
        # No turn is taken: it uses one core, and the flat window never waits for it.
        return model, view_mesh(context.load_model(model.sha256), uv_set)
    held = context.folder.get(_display_key(model.sha256, uv_set))
    if held is not None:
        return model, unpacked_display(held)
    key = f"display {model.sha256} {uv_set}"
    arguments = {"sha256": model.sha256, "uv_set": uv_set}
    lane: Lane = "small" if model.facts.triangles <= _SMALL else "large"
    wanted = NewJob("model_display", model.name, model.project_id, key, arguments, lane,
                    priority_of("model_display"))  # fmt: skip
    with context.database.transaction() as connection:
        failed = jobs.last_failure(connection, key)
        if failed is not None:
            raise MeshError(failed.error or "The model can't be displayed")
        return model, ask(context, connection, wanted)


def prepare_display(context: Context, running: Running) -> None:
    """Lay a model out to be drawn and put it into the cache."""
    sha256, uv_set = running.arguments["sha256"], running.arguments["uv_set"]
    key = _display_key(sha256, uv_set)
    if context.folder.get(key) is None:
        running.report(0.02, "Reading the model")
        mesh = context.load_model(sha256)
        laid_out = view_mesh(mesh, uv_set, Part(running, 0.15, 0.95).report)
        running.report(0.95, "Storing")
        context.folder.put(key, packed_display(laid_out))
    with context.database.transaction() as connection:
        running.finish(connection)


def _display_key(sha256: str, uv_set: int) -> str:
    return f"display-{_DISPLAY_VERSION}-{sha256}-{uv_set}"


def packed_display(found: ViewMesh) -> NDArray[np.uint8]:
    """A model laid out to be drawn as bytes, (n,) uint8."""
    groups = json.dumps([asdict(one) for one in found.groups]).encode()
    file = io.BytesIO()
    arrays = {name: getattr(found, name) for name in _ARRAYS}
    np.savez(file, allow_pickle=False, groups=np.frombuffer(groups, np.uint8), **arrays)
    return np.frombuffer(file.getvalue(), np.uint8)


def unpacked_display(packed: NDArray[Any]) -> ViewMesh:
    """The model that `packed_display` made bytes of."""
    with np.load(io.BytesIO(packed.tobytes()), allow_pickle=False) as held:
        groups = json.loads(held["groups"].tobytes())
        arrays = {name: held[name] for name in _ARRAYS}
    return ViewMesh(**arrays, groups=tuple(MaterialGroup(**one) for one in groups))


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
