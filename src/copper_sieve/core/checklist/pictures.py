"""The pictures of a set in comparison: sizes, tiling, relief."""

from __future__ import annotations

from collections.abc import Mapping

from copper_sieve.core.detection.relief import (
    ReliefHint,
    relief_by_height,
    relief_by_occlusion,
)
from copper_sieve.core.detection.tiling import measure_tiling_of_values
from copper_sieve.core.graph.geometry import Geometry, Sizes, imported_sources, size_of
from copper_sieve.core.image.encoding import linear_to_srgb
from copper_sieve.core.image.map_kind import MapKind, Meaning
from copper_sieve.core.image.raster import Float
from copper_sieve.core.image.wrap import as_wrap
from copper_sieve.core.models.finding import Finding, Fix
from copper_sieve.core.models.preparation import Seams, Size
from copper_sieve.core.models.texture_set import Derived, Imported, SetDefinition
from copper_sieve.core.operations import get_operation

_OTHER_SHAPE = 0.01  # difference of width over height
_BROKEN = 1.25  # times the 99th percentile of the steps inside; of real tiles up to 1.1
_CONTRADICTS = -0.15  # correlation


def check_sizes(texture_set: SetDefinition, sizes: Sizes, geometry: Geometry) -> list[Finding]:
    """Return pictures with another aspect ratio than the set, and those with fewer texels."""
    if geometry.guide is None:
        return []
    wide, high = geometry.source
    other_shape, fewer = {}, {}
    for kind, way in texture_set.maps.items():
        for one in imported_sources(way):
            size = size_of(one, sizes, geometry.sheet)
            if abs(size[0] * high / (size[1] * wide) - 1) > _OTHER_SHAPE:
                other_shape[kind] = size
            elif size[0] < wide:
                fewer[kind] = size
    found = []
    if other_shape:
        found.append(Finding(
            rule="sizes_differ", kind=next(iter(other_shape)), weight="error",
            text="the pictures have different aspect ratios; they are stretched to the same one",
            evidence=(
                f"{_listed(other_shape)}; the set is {wide} × {high}. Crop or export them to the "
                "same aspect ratio"
            ),
        ))  # fmt: skip
    elif fewer:
        small = min(fewer.values())
        found.append(Finding(
            rule="sizes_differ", kind=next(iter(fewer)), weight="info",
            text="some pictures have fewer texels than the set; they are enlarged",
            evidence=f"{_listed(fewer)}; the set is {wide} × {high}",
            fix=_reduced(texture_set, max(small)),
        ))  # fmt: skip
    return found


def _reduced(texture_set: SetDefinition, side: int) -> Fix | None:
    if side < 16 or texture_set.prepare.size is not None:
        return None
    prepare = texture_set.prepare.model_copy(update={"size": Size(longer_side=side)})
    return Fix(title=f"Set the size to {side} texels", prepare=prepare)


def _listed(sizes: Mapping[MapKind, tuple[int, int]]) -> str:
    return ", ".join(
        f"{kind.facts.title.lower()} {wide} × {high}" for kind, (wide, high) in sizes.items()
    )


def check_tiling(
    texture_set: SetDefinition, geometry: Geometry, maps: Mapping[MapKind, Float]
) -> list[Finding]:
    """Return seams of tileable pictures, and pictures that will show a seam when repeated.

    Parameters
    ----------
    texture_set : the set
    geometry : its sizes
    maps : prepared, at full size, because reduction hides seams
    """
    if geometry.guide is None or texture_set.prepare.seams is not None:
        return []
    kind = geometry.guide[0]
    values = maps.get(kind)
    if values is None or MapKind.OPACITY in texture_set.maps:  # cutouts aren't tileable
        return []
    if kind.facts.meaning is Meaning.COLOR:
        values = linear_to_srgb(values)
    measured, stated = measure_tiling_of_values(values), as_wrap(geometry.surface.wrap)
    jumps = {
        "left to right": (stated.across, measured.wrap.across, measured.jump_across),
        "top to bottom": (stated.down, measured.wrap.down, measured.jump_down),
    }
    broken = {
        way: jump for way, (claims, meets, jump) in jumps.items()
        if not meets and jump >= _BROKEN and (claims or not (stated.across or stated.down))
    }  # fmt: skip
    if not broken:
        return []
    claimed = stated.across or stated.down
    closed = texture_set.prepare.model_copy(update={"seams": Seams(method="gradient")})
    return [Finding(
        rule="not_tileable", kind=kind, weight="warning" if claimed else "info",
        text="tiling is on, but the borders don't match; a visible seam repeats" if claimed else
        "the borders don't match; a visible seam appears where the texture repeats",
        evidence="the steps across the border are "
        + ", ".join(f"{jump:.1f} times ({way})" for way, jump in broken.items())
        + (
            " the largest steps inside (99th percentile). The Bench compares the methods of "
            "making it tileable"
        ),
        fix=Fix(title="Make tileable", prepare=closed),
    )]  # fmt: skip


def check_relief(texture_set: SetDefinition, maps: Mapping[MapKind, Float]) -> list[Finding]:
    """Return normals whose relief is inverted compared with another imported map.

    Parameters
    ----------
    texture_set : the set
    maps : imported maps: normal (H, W, 3) unit vectors, height and occlusion (H, W, 1)
    """
    normal = maps.get(MapKind.NORMAL)
    if normal is None or not _came_in(texture_set, MapKind.NORMAL):
        return []
    for kind in (MapKind.HEIGHT, MapKind.AMBIENT_OCCLUSION):
        if kind not in maps or not _came_in(texture_set, kind):
            continue
        by = relief_by_height if kind is MapKind.HEIGHT else relief_by_occlusion
        hint = by(normal, maps[kind][:, :, 0])
        if hint.correlation < _CONTRADICTS:
            return [_inside_out(texture_set, kind, hint)]
        if hint.sense == "upright":
            return []
    return []


def _came_in(texture_set: SetDefinition, kind: MapKind) -> bool:
    return bool(imported_sources(texture_set.maps[kind]))


def _inside_out(texture_set: SetDefinition, kind: MapKind, hint: ReliefHint) -> Finding:
    title = kind.facts.title.lower()
    return Finding(
        rule="inverted_relief", kind=MapKind.NORMAL, weight="warning",
        text=f"the normals show dents where the {title} shows bumps; one of the two is inverted",
        evidence=(
            f"correlation with the slopes of {title}: {hint.correlation:.2f}. Compare both lit "
            "to see which of the two is inverted"
        ),
        fix=_turned_out(texture_set),
    )  # fmt: skip


def _turned_out(texture_set: SetDefinition) -> Fix | None:
    way = texture_set.maps[MapKind.NORMAL]
    name = "normal_from_picture"
    if isinstance(way, Imported):
        turned = Derived(operation=name, parameters={"invert": True}, slots={"picture": way})
    elif isinstance(way, Derived) and way.operation == name:
        now = bool(get_operation(name).resolve(way.parameters)["invert"])
        turned = way.model_copy(update={"parameters": {**way.parameters, "invert": not now}})
    else:
        return None
    return Fix(title="Invert the normals", maps={MapKind.NORMAL: turned})
