"""What is looked at before anything is chosen: readings of a photo lit beside each other, and how
sure a color key is."""

from __future__ import annotations

from dataclasses import dataclass

import numpy as np

from copper_sieve.core.codecs.png_writing import encode_png
from copper_sieve.core.errors import ParameterError, PlanError
from copper_sieve.core.image.map_kind import MapKind, Meaning
from copper_sieve.core.image.raster import Raster
from copper_sieve.core.image.shading import Material, shade
from copper_sieve.core.operations import get_operation
from copper_sieve.core.operations.color_key import Doubt, doubt_of
from copper_sieve.core.pipeline.evaluate import computing, evaluate
from copper_sieve.core.pipeline.plan import plan
from copper_sieve.core.pipeline.preparing import guide_of, native_size
from copper_sieve.core.presets.readings import About, Reading, readings_of
from copper_sieve.core.presets.texture_set import Constant, Derived, SetDefinition
from copper_sieve.services.context import Context
from copper_sieve.services.display import displayed
from copper_sieve.services.drafts import looked_at
from copper_sieve.store.sources import source_measures

_SIDE = 512  # texels of the longer side of a reading's picture
_WORKING_SIDE = 1024  # at which its maps are derived
_F0 = 0.04
_EXPOSURE = 0.9
_KEY_SIDE = 512
_LIT = (MapKind.BASE_COLOR, MapKind.METALLIC, MapKind.ROUGHNESS, MapKind.NORMAL)
_PLAIN = {
    MapKind.METALLIC: Constant(value=(0.0,)),
    MapKind.ROUGHNESS: Constant(value=(0.7,)),
}


@dataclass(frozen=True, slots=True)
class ReadingView:
    """A reading with its picture: PNG bytes of the set seen straight on under fixed lights."""

    reading: Reading
    png: bytes


def readings(
    context: Context, set_id: int, about: About, draft: SetDefinition | None = None
) -> list[ReadingView]:
    """The readings of a set, or of a draft of it, each lit.

    Raises NotFoundError, PlanError for a set without a color, RecipeError where nothing is to read.
    """
    texture_set, sizes = looked_at(context, set_id, draft)
    guide = guide_of(texture_set, sizes)
    measures = {}
    if guide:
        with context.database.transaction() as connection:
            found = source_measures(connection, [guide[1].source])
        measures = found.get(guide[1].source, {})
    light = measures.get("light") or {}
    azimuth = float(light["azimuth"]) if light.get("lit") else None
    return [
        ReadingView(one, _lit(context, one.texture_set, sizes))
        for one in readings_of(texture_set, about, azimuth)
    ]


def _lit(context: Context, texture_set: SetDefinition, sizes: dict[str, tuple[int, int]]) -> bytes:
    missing = {kind: one for kind, one in _PLAIN.items() if kind not in texture_set.maps}
    complete = texture_set.model_copy(update={"maps": {**texture_set.maps, **missing}})
    if absent := [kind for kind in _LIT if kind not in complete.maps]:
        raise PlanError(f"{texture_set.name} has no {absent[0]} map, so it cannot be shown lit")
    side = min(_SIDE, max(native_size(complete, sizes)))
    graph = plan(complete, sizes, wanted=_LIT, longer_side=side, working_side=_WORKING_SIDE)
    rasters = evaluate(graph, context.load_source, cache=context.memory)
    with computing:
        light = shade(Material.of({kind: one.pixels for kind, one in rasters.items()}, _F0))
        return encode_png(displayed(Raster(light * np.float32(_EXPOSURE), Meaning.COLOR)))


def doubt(
    context: Context, set_id: int, kind: MapKind, draft: SetDefinition | None = None
) -> Doubt:
    """How sure the color key is by which a map of a set, or of a draft of it, is made.

    Raises NotFoundError, ParameterError where the map is not made by a color key.
    """
    texture_set, sizes = looked_at(context, set_id, draft)
    definition = texture_set.maps.get(kind)
    keyed = isinstance(definition, Derived) and "others" in {
        one.name for one in get_operation(definition.operation).parameters
    }
    if not isinstance(definition, Derived) or not keyed:
        raise ParameterError(f"{texture_set.name}: its {kind} map is not made by picked colors")
    settled = get_operation(definition.operation).settle(definition.parameters)
    side = min(_KEY_SIDE, max(native_size(texture_set, sizes)))
    graph = plan(texture_set, sizes, wanted=[MapKind.BASE_COLOR], longer_side=side)
    color = evaluate(graph, context.load_source, cache=context.memory)[MapKind.BASE_COLOR].pixels
    with computing:
        return doubt_of(
            color, str(settled["colors"]), str(settled["others"]),
            tolerance=float(settled["tolerance"]), softness=float(settled["softness"]),
            light_counts=float(settled["light_counts"]),
        )  # fmt: skip
