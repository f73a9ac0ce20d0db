"""A lit set: its maps under the reference shader, reduced, cached by content keys."""

from __future__ import annotations

import hashlib

import numpy as np

from copper_sieve.core.codecs.encoders.png import encode_png
from copper_sieve.core.errors import MeshError, NotFoundError
from copper_sieve.core.graph.evaluate import evaluate
from copper_sieve.core.graph.fair_lock import computing
from copper_sieve.core.graph.geometry import Geometry, Sizes, geometry_of
from copper_sieve.core.graph.node import Plan
from copper_sieve.core.graph.plan import plan
from copper_sieve.core.image.map_kind import MapKind, Meaning
from copper_sieve.core.image.raster import Float, Raster
from copper_sieve.core.lighting.shading import LAMPS, RAKING, Material, shade
from copper_sieve.core.lighting.still import Camera, Lighting, render_still
from copper_sieve.core.mesh.tiles import on_tile_layout
from copper_sieve.core.models.model_tie import ModelLink
from copper_sieve.core.models.texture_set import Constant, SetDefinition
from copper_sieve.services.context import Context
from copper_sieve.services.display import displayed
from copper_sieve.store import texture_sets
from copper_sieve.store.sources import source_sizes

_SIDE = 144  # texels of the longer side, at most
LIT_SIDE = 288  # of one that is judged
_WORKING_SIDE = 1024  # so that fine relief is still there
_F0 = 0.04
_RAKING_SKY = 0.3
# Substitutes for missing maps.
_STAND_IN = {
    MapKind.BASE_COLOR: Constant(value=(0.5, 0.5, 0.5)),
    MapKind.METALLIC: Constant(value=(0.0,)),
    MapKind.ROUGHNESS: Constant(value=(0.6,)),
    MapKind.NORMAL: Constant(value=(0.0, 0.0, 1.0)),
}
_EXPOSURE = np.float32(0.72)  # so that white paper keeps its relief
_VERSION = "lit 2"  # version of this processing
_STILL_VERSION = "still 1"  # and of how a model is shown in them
_EYE = Camera((1.95, 1.15, 3.4))  # so near that the model fills the picture
_GREY = np.float32(0.184)  # of picture windows, in linear light


def lit_plan(
    texture_set: SetDefinition, sizes: Sizes, geometry: Geometry, side: int = _SIDE
) -> Plan:
    """Return the plan of a lit picture with that longer side; see `lit_key`."""
    missing = {kind: one for kind, one in _STAND_IN.items() if kind not in texture_set.maps}
    complete = texture_set.model_copy(update={"maps": {**texture_set.maps, **missing}})
    return plan(
        complete, sizes, wanted=list(_STAND_IN), longer_side=min(side, max(geometry.size)),
        compute_side=_WORKING_SIDE, geometry=geometry,
    )  # fmt: skip


def lit_key(graph: Plan, link: ModelLink | None = None) -> str:
    """Return a key that is equal for equal pictures; link : of the set to a model."""
    on = [] if link is None else [_STILL_VERSION, link.model_dump_json()]
    held = " ".join([_VERSION, *(graph.outputs[kind] for kind in _STAND_IN), *on])
    return hashlib.sha256(held.encode()).hexdigest()[:32]


def lit_picture(context: Context, set_id: int) -> tuple[str, bytes]:
    """Return key and PNG of a set's lit picture. Raises NotFoundError, PlanError."""
    with context.database.transaction() as connection:
        texture_set = texture_sets.get_set(connection, set_id).definition()
        sizes = source_sizes(connection, texture_set.sources())
    graph = lit_plan(texture_set, sizes, geometry_of(texture_set, sizes))
    key = lit_key(graph, texture_set.model)
    light = context.cache.get(key)
    if light is None:
        light = _on_model(context, graph, texture_set)
        light = _light(context, graph) if light is None else light
        context.cache.put(key, light)
    return key, encode_png(displayed(Raster(light, Meaning.COLOR)))


def lit_maps_of(
    context: Context,
    texture_set: SetDefinition,
    sizes: Sizes,
    side: int,
    *,
    raking: bool = False,
) -> bytes:
    """Return a lit PNG of any definition. Raises NotFoundError, PlanError.

    raking : the light comes from the upper left at a low angle, to show the relief
    """
    graph = lit_plan(texture_set, sizes, geometry_of(texture_set, sizes), side)
    return encode_png(displayed(Raster(_light(context, graph, raking=raking), Meaning.COLOR)))


def _maps(context: Context, graph: Plan) -> dict[MapKind, Float]:
    rasters = evaluate(
        graph, context.load_source, context.load_model, cache=context.cache,
        is_cancelled=context.closing.is_set,
    )  # fmt: skip
    return {kind: one.pixels for kind, one in rasters.items()}


def _on_model(context: Context, graph: Plan, texture_set: SetDefinition) -> Float | None:
    """Render the linked model with the material on neutral gray.

    None if that isn't possible; then the material is rendered on a plane.
    """
    link = texture_set.model
    if link is None:
        return None
    try:
        whole = context.load_model(link.source)
        mesh = whole if texture_set.sheet is None else on_tile_layout(whole, texture_set.sheet)
        maps = _maps(context, graph)
        names = mesh.material_names if link.material is None else (link.material,)
        with computing:
            light, covered = render_still(
                mesh, dict.fromkeys(names, maps), _EYE, _SIDE, _SIDE,
                Lighting(LAMPS, turned=True), link.uv_set,
            )  # fmt: skip
            return np.ascontiguousarray(light * _EXPOSURE * covered + _GREY * (1 - covered))
    except (MeshError, NotFoundError):
        return None


def _light(context: Context, graph: Plan, *, raking: bool = False) -> Float:
    """Render on a plane, (H, W, 3) float32, linear light."""
    maps = _maps(context, graph)
    with computing:
        material = Material.of(maps, _F0)
        light = shade(material, RAKING, sky=_RAKING_SKY) if raking else shade(material)
        return np.ascontiguousarray(light * _EXPOSURE)
