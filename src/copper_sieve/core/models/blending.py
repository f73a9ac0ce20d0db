"""Blend of two sets: coverage by the upper set is a map, which all other maps use."""

from __future__ import annotations

from dataclasses import dataclass
from itertools import count

from copper_sieve.core.errors import ParameterError
from copper_sieve.core.image.map_kind import MapKind
from copper_sieve.core.image.tile_layout import TileLayout
from copper_sieve.core.image.wrap import Wrap, as_wrap
from copper_sieve.core.models.texture_set import (
    BlendedSet,
    Constant,
    Derived,
    Filling,
    FromBlendedSet,
    FromMap,
    Imported,
    MapDefinition,
    PartName,
    SetDefinition,
    SurfaceSpec,
    derive_missing,
)
from copper_sieve.core.operations import get_operation

_BLENDS = [
    get_operation(f"{name}_from_parts") for name in ("value", "height", "normal")
]  # of every map but the mask
_MOST_REPEATS = 16  # in each tile, where there are such
_DEEPEST_BLEND = 3  # sets of sets of sets


@dataclass(frozen=True, slots=True)
class BlendInput:
    """A set to be blended, with measurements of its prepared surface.

    surface : width of all tiles together, and tiling; depth : meters between height 0 and 1
    size : width and height in texels
    """

    texture_set: SetDefinition
    surface: SurfaceSpec
    depth: float
    size: tuple[int, int] = (1, 1)

    @property
    def metres(self) -> tuple[float, float]:
        """Its width and height."""
        width = self.surface.tile_size
        return width, width * self.size[1] / self.size[0]


def with_height(texture_set: SetDefinition) -> SetDefinition:
    """Return a set with a height map: its own, a derived one, or else a flat one."""
    return _complete(texture_set, [MapKind.HEIGHT])


def blend_definitions(name: str, below: BlendInput, above: BlendInput) -> SetDefinition:
    """Create a set in which every map is blended from two sets, which are stored in it.

    The lower set determines width, size, tiles and model. The upper set is repeated according to
    its width and height, and its relief is as deep as its width then is. The result tiles in the
    directions in which both tile. Maps that both sets derive from their height alone are derived
    from the blended height.

    Parameters
    ----------
    name : of the new set
    below, above : the two sets

    Raises
    ------
    ParameterError : if the sets are blends of blends, or the upper set has other tiles than the
        lower one
    """
    sheet = _sheet_of(below.texture_set, above.texture_set)
    if max(_depth_of(one.texture_set) for one in (below, above)) >= _DEEPEST_BLEND:
        raise ParameterError(
            "this set is already a blend of blended sets. Deliver one of them and import the result"
        )
    kinds = [*below.texture_set.maps, *above.texture_set.maps, MapKind.HEIGHT]
    kinds = list(dict.fromkeys(kinds))
    numbered = (MapKind(f"mask_{number}") for number in count(1))
    mask = next(one for one in numbered if one not in kinds)
    tiles = (sheet.columns, sheet.rows) if sheet else (1, 1)
    repeat, down = (
        min(_MOST_REPEATS * most, max(1, round(whole / own)))
        for whole, own, most in zip(below.metres, above.metres, tiles, strict=True)
    )
    parts = {
        "below": BlendedSet(texture_set=_complete(below.texture_set, kinds)),
        "above": BlendedSet(
            texture_set=_complete(above.texture_set, kinds), repeat=repeat,
            repeat_down=None if down == repeat else down,
        ),
    }  # fmt: skip
    shrunk = below.surface.tile_size / repeat / above.surface.tile_size
    depths = {"below_depth": _rounded(below.depth), "above_depth": _rounded(above.depth * shrunk)}
    maps: dict[MapKind, MapDefinition] = {
        kind: _way(kind, mask, parts["below"], parts["above"], depths) for kind in kinds
    }
    maps[mask] = Derived(
        operation="mask_from_part_heights", parameters=dict(depths), slots=_heights()
    )
    meets = [as_wrap(one.surface.wrap) for one in (below, above)]
    surface = below.surface.model_copy(update={
        "depth": max(depths.values()),
        "tile_size": below.surface.tile_size / tiles[0],
        "wrap": Wrap(all(m.across for m in meets), all(m.down for m in meets)).spec,
    })  # fmt: skip
    return SetDefinition.model_validate(
        {"name": name, "surface": surface, "maps": maps, "parts": parts,
         "model": below.texture_set.model}
    ).checked()  # fmt: skip


def _depth_of(texture_set: SetDefinition) -> int:
    return 1 + max((_depth_of(one.texture_set) for one in texture_set.parts.values()), default=0)


def _sheet_of(below: SetDefinition, above: SetDefinition) -> TileLayout | None:
    """Return the tiles of a blend. Raises ParameterError if those of the upper set differ."""
    if above.sheet and above.sheet != below.sheet:
        lower = "different tiles" if below.sheet else "none"
        raise ParameterError(
            f"{above.name} has tiles and {below.name} has {lower}. Use the set with tiles as "
            "the lower one, or blend sets with the same tiles"
        )
    return below.sheet


def _rounded(metres: float) -> float:
    """Round to a hundredth of a millimeter within the parameter's range."""
    return min(1.0, max(1e-5, round(metres, 5)))


def _complete(texture_set: SetDefinition, kinds: list[MapKind]) -> SetDefinition:
    """Return a set with a map of every kind: derived if possible, else the neutral value."""
    maps = dict(texture_set.maps)
    for kind in kinds:
        if kind not in maps:
            maps[kind] = derive_missing(maps, kind) or Constant(value=kind.facts.neutral)
    return texture_set.model_copy(update={"maps": maps, "shelf": {}})


def _way(
    kind: MapKind, mask: MapKind, below: BlendedSet, above: BlendedSet, depths: dict[str, float]
) -> MapDefinition:
    ways = [one.texture_set.maps[kind] for one in (below, above)]
    if all(_follows_height(way) for way in ways):
        return ways[0]
    if all(isinstance(way, Constant) for way in ways) and ways[0] == ways[1]:
        return ways[0]
    operation = next(one for one in _BLENDS if one.makes(kind))
    slots: dict[str, Filling] = {
        "below": FromBlendedSet(part="below", kind=kind),
        "above": FromBlendedSet(part="above", kind=kind),
        "mask": FromMap(kind=mask),
    }
    if kind is MapKind.NORMAL:  # the step between the two reliefs has a slope, too
        slots |= _heights()
    asks = {one.name for one in operation.parameters}
    given = {name: value for name, value in depths.items() if name in asks}
    return Derived(operation=operation.name, parameters=dict(given), slots=slots)


def _follows_height(way: MapDefinition) -> bool:
    """Return True if a map is derived from the height alone."""
    if not isinstance(way, Derived) or any(isinstance(f, Imported) for f in way.slots.values()):
        return False
    return not way.slots and get_operation(way.operation).inputs == (MapKind.HEIGHT,)


def _heights() -> dict[str, Filling]:
    names: tuple[PartName, PartName] = ("below", "above")
    return {f"{one}_height": FromBlendedSet(part=one, kind=MapKind.HEIGHT) for one in names}
