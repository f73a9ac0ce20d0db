"""Interpretations of a photo, lit next to each other, and the uncertainty of a color key."""

from __future__ import annotations

from dataclasses import dataclass

import numpy as np

from copper_sieve.core.codecs.encoders.png import encode_png
from copper_sieve.core.errors import ParameterError, PlanError
from copper_sieve.core.graph.evaluate import evaluate
from copper_sieve.core.graph.fair_lock import computing
from copper_sieve.core.graph.geometry import Geometry, Sizes, geometry_of
from copper_sieve.core.graph.plan import plan
from copper_sieve.core.image.map_kind import MapKind, Meaning
from copper_sieve.core.image.raster import Float, Raster
from copper_sieve.core.lighting.shading import RAKING, Material, shade
from copper_sieve.core.models.interpretations import About, Interpretation, interpretations_of
from copper_sieve.core.models.texture_set import Constant, Derived, SetDefinition
from copper_sieve.core.operations import get_operation
from copper_sieve.core.operations.color.color_key import KeyUncertainty, measure_key_uncertainty
from copper_sieve.services.context import Context
from copper_sieve.services.display import displayed
from copper_sieve.services.drafts import draft_for_preview, small_color
from copper_sieve.store.database import Transaction
from copper_sieve.store.sources import source_measures

_SIDE = 1024  # texels of the longer side at which a reading is derived
_SHOWN = (640, 400)  # of these, the width and height that are shown
_F0 = 0.04
_SKY = 0.15
_MIDDLE_GREY = 0.22
_LIT = (MapKind.BASE_COLOR, MapKind.METALLIC, MapKind.ROUGHNESS, MapKind.NORMAL)
_PLAIN = {
    MapKind.METALLIC: Constant(value=(0.0,)),
    MapKind.ROUGHNESS: Constant(value=(0.7,)),
}


@dataclass(frozen=True, slots=True)
class InterpretationView:
    """An interpretation with a PNG of the set's middle, in its mean color under a low light."""

    reading: Interpretation
    png: bytes


def interpretations(
    context: Context, set_id: int, about: About, draft: SetDefinition | None = None
) -> list[InterpretationView]:
    """Return the interpretations of a set, or of a draft of it, each lit.

    Raises NotFoundError, PlanError for a set without a color, RecipeError if there is no choice.
    """
    texture_set, sizes = draft_for_preview(context, set_id, draft)
    geometry = geometry_of(texture_set, sizes)
    with context.database.transaction() as connection:
        azimuth = measured_azimuth(connection, geometry)
    return [
        InterpretationView(one, _lit(context, one.texture_set, sizes))
        for one in interpretations_of(texture_set, about, azimuth)
    ]


def measured_azimuth(connection: Transaction, geometry: Geometry) -> float | None:
    """Return the light azimuth of a set's prepared reference map, ambiguous by 180°.

    None: even light.
    """
    if geometry.photo is None:
        return None
    source = geometry.photo.source
    measured = source_measures(connection, [source]).get(source)
    if measured is None or measured.light is None or not measured.light.lit:
        return None
    return round(geometry.azimuth(measured.light.azimuth)) % 180


def _lit(context: Context, texture_set: SetDefinition, sizes: Sizes) -> bytes:
    missing = {kind: one for kind, one in _PLAIN.items() if kind not in texture_set.maps}
    complete = texture_set.model_copy(update={"maps": {**texture_set.maps, **missing}})
    if absent := [kind for kind in _LIT if kind not in complete.maps]:
        raise PlanError(f"{texture_set.name} has no {absent[0]} map, so it can't be rendered")
    geometry = geometry_of(complete, sizes)
    graph = plan(
        complete, sizes, wanted=_LIT, longer_side=min(_SIDE, max(geometry.size)),
        compute_side=_SIDE, geometry=geometry,
    )  # fmt: skip
    rasters = evaluate(graph, context.load_source, context.load_model, cache=context.memory)
    with computing:
        maps = {kind: _middle(one.pixels) for kind, one in rasters.items()}
        # Its own light and dark would hide the relief: only the mean of its color stays.
        mean = maps[MapKind.BASE_COLOR].mean(axis=(0, 1), keepdims=True)
        maps[MapKind.BASE_COLOR] = np.broadcast_to(mean, maps[MapKind.BASE_COLOR].shape)
        light = shade(Material.of(maps, _F0), RAKING, sky=_SKY)
        light *= np.float32(_MIDDLE_GREY / max(float(light.mean()), 1e-3))
        return encode_png(displayed(Raster(light, Meaning.COLOR)))


def _middle(pixels: Float) -> Float:
    """Crop the middle of a map, at most in its displayed size."""
    rows, columns = pixels.shape[:2]
    high, wide = min(rows, _SHOWN[1]), min(columns, _SHOWN[0])
    top, left = (rows - high) // 2, (columns - wide) // 2
    return np.ascontiguousarray(pixels[top : top + high, left : left + wide])


def key_uncertainty(
    context: Context, set_id: int, kind: MapKind, draft: SetDefinition | None = None
) -> KeyUncertainty:
    """Return the uncertainty of the color key that makes a map of a set, or of a draft of it.

    Raises NotFoundError, ParameterError if the map isn't made by a color key.
    """
    texture_set, sizes = draft_for_preview(context, set_id, draft)
    definition = texture_set.maps.get(kind)
    keyed = isinstance(definition, Derived) and "exclude" in {
        one.name for one in get_operation(definition.operation).parameters
    }
    if not isinstance(definition, Derived) or not keyed:
        raise ParameterError(f"{texture_set.name}: the {kind} map isn't made from picked colors")
    settled = get_operation(definition.operation).resolve(definition.parameters)
    color = small_color(context, texture_set, sizes)
    with computing:
        return measure_key_uncertainty(
            color, str(settled["colors"]), str(settled["exclude"]),
            tolerance=float(settled["tolerance"]), softness=float(settled["softness"]),
            use_lightness=float(settled["use_lightness"]),
        )  # fmt: skip
