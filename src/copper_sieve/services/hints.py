"""Contradictions between maps of a set, found after all files of a drop were recognized."""

from __future__ import annotations

from collections import defaultdict

from copper_sieve.core.detection.relief import (
    ReliefHint,
    relief_by_height,
    relief_by_occlusion,
)
from copper_sieve.core.graph.evaluate import picture_to_map
from copper_sieve.core.graph.fair_lock import computing
from copper_sieve.core.image.map_kind import MapKind, NormalY
from copper_sieve.core.image.raster import Encoding, Float
from copper_sieve.core.models.texture_set import Imported
from copper_sieve.services.arrival_table import Arrival, arrange, imports_from
from copper_sieve.services.context import Context
from copper_sieve.store import arrivals as store

_TELLING = (MapKind.HEIGHT, MapKind.AMBIENT_OCCLUSION)


def hint_drop(context: Context, project_id: int, batch: str) -> None:
    """Report for each normal map of a drop whether a height or occlusion map contradicts it."""
    with context.database.transaction() as connection:
        arrivals = store.list_arrivals(connection, project_id)
    sets: dict[str, list[Arrival]] = defaultdict(list)
    for one in arrange(arrivals, context.recognitions):
        if one.batch == batch and one.state == "recognized":
            sets[one.assignment.set_name.lower()].append(one)
    for files in sets.values():
        normal = next((f for f in files if f.assignment.map is MapKind.NORMAL), None)
        if normal is None or normal.assignment.normal_y is None or normal.hint:
            continue
        for kind in _TELLING:
            other = next((f for f in files if kind in imports_from(f)), None)
            if other:
                hint = _compare(context, normal, other, kind)
                with context.database.transaction() as connection:
                    store.set_hint(connection, normal.id, _in_words(hint, other))
                break


def _compare(context: Context, normal: Arrival, other: Arrival, kind: MapKind) -> ReliefHint:
    y = normal.assignment.normal_y or NormalY.UP
    as_normal = Imported(source=normal.sha256, encoding=Encoding.LINEAR, normal_y=y)
    with computing:
        vectors = picture_to_map(context.load_source(normal.sha256), MapKind.NORMAL, as_normal)
        values = picture_to_map(context.load_source(other.sha256), kind, imports_from(other)[kind])
        held: Float = values.pixels[:, :, 0]
        if kind is MapKind.HEIGHT:
            return relief_by_height(vectors.pixels, held)
        return relief_by_occlusion(vectors.pixels, held)


def _in_words(hint: ReliefHint, other: Arrival) -> str:
    if hint.sense == "inverted":
        return (
            f"compared with {other.name}, the relief is inverted (correlation "
            f"{hint.correlation:.2f}). Compare both lit, and invert the relief on the Bench "
            "if needed"
        )
    if hint.sense == "upright":
        return f"the relief agrees with {other.name} (correlation {hint.correlation:.2f})"
    return ""
