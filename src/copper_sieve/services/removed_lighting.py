"""The lighting that delighting removed, and remaining dark blotches."""

from __future__ import annotations

from dataclasses import dataclass
from typing import Literal

from copper_sieve.core.codecs.encoders.png import encode_png
from copper_sieve.core.errors import PlanError
from copper_sieve.core.graph.fair_lock import computing
from copper_sieve.core.graph.geometry import geometry_of
from copper_sieve.core.image.map_kind import MapKind, Meaning
from copper_sieve.core.image.raster import Raster
from copper_sieve.core.models.texture_set import Derived, Imported, SetDefinition
from copper_sieve.core.operations.prepare.delight import Blotches, blotches_of, removed_lighting
from copper_sieve.services.context import Context
from copper_sieve.services.display import displayed
from copper_sieve.services.drafts import draft_for_preview, small_color

By = Literal["preparation", "base_color"]


@dataclass(frozen=True, slots=True)
class RemovedLighting:
    """Result of delighting.

    png : picture of the removed lighting, None without any; stops : its range
    blotches : remaining dark areas that would show as repetition; None without any
    """

    png: bytes | None
    stops: float
    blotches: Blotches | None


def measure_removed_lighting(
    context: Context, set_id: int, by: By, draft: SetDefinition | None = None
) -> RemovedLighting:
    """Measure the lighting that delighting removed from a set, or from a draft of it.

    by : "preparation" (delighting of the source) or "base_color" (delighting in the base color)
    Raises NotFoundError, PlanError for a set without a color.
    """
    texture_set, sizes = draft_for_preview(context, set_id, draft)
    if MapKind.BASE_COLOR not in texture_set.maps:
        raise PlanError(f"{texture_set.name} has no base color to delight")
    before = _before(texture_set, by)
    after = small_color(context, texture_set, sizes)
    surface = geometry_of(texture_set, sizes).surface.surface()
    with computing:
        left = blotches_of(after, wrap=surface.wrap)
    if before is None:
        return RemovedLighting(None, 0.0, left)
    was = small_color(context, before, sizes)
    with computing:
        shown, stops = removed_lighting(was, after)
        return RemovedLighting(encode_png(displayed(Raster(shown, Meaning.DATA))), stops, left)


def _before(texture_set: SetDefinition, by: By) -> SetDefinition | None:
    """Return the set without its delighting; None if it has none."""
    if by == "preparation":
        if texture_set.prepare.light is None:
            return None
        prepare = texture_set.prepare.model_copy(update={"light": None})
        return texture_set.model_copy(update={"prepare": prepare})
    made = texture_set.maps[MapKind.BASE_COLOR]
    if not isinstance(made, Derived):
        return None
    photo = made.slots.get("photo")
    if not isinstance(photo, Imported):
        return None
    return texture_set.model_copy(update={"maps": {**texture_set.maps, MapKind.BASE_COLOR: photo}})
