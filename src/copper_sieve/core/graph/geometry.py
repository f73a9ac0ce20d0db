"""Results of preparing a set: reference map, size and surface; computed once and passed on.

The reference map is the picture of a set with the most information: it determines the sources of
filled marks, the paths of cuts, and the size of the set.
"""

from __future__ import annotations

import math
from collections.abc import Mapping
from dataclasses import dataclass
from typing import Any

import numpy as np

from copper_sieve.core.image.map_kind import MapKind
from copper_sieve.core.image.resize import fit_size
from copper_sieve.core.image.tile_layout import TileLayout
from copper_sieve.core.image.wrap import Wrap, WrapSpec, as_wrap
from copper_sieve.core.models.light_captures import CapturesSpec
from copper_sieve.core.models.preparation import Preparation
from copper_sieve.core.models.texture_set import (
    Derived,
    Imported,
    SetDefinition,
    SurfaceSpec,
    imported_in,
    is_measured,
)
from copper_sieve.core.operations import get_operation
from copper_sieve.core.operations.prepare.frame import transform

Size = tuple[int, int]  # width and height
Sizes = Mapping[str, Size]  # of each source by its SHA-256
Guide = tuple[MapKind, Imported | Derived]

_WITHOUT_PICTURES = 1024, 1024  # the size of a set that has none


@dataclass(frozen=True, slots=True)
class Geometry:
    """A set after preparation.

    guide : reference map and its picture; None for a set without pictures
    source : width and height of the reference map as imported
    size : width and height of the set, in texels
    surface : width from the ruler, or else the remaining share of the stated width; tileable in the
        directions in which seams are closed, or which the frame preserves
    borders : tileable directions before seams are closed
    width_share : width of the set divided by that of its reference map as imported, or of a tile
    sheet : tile layout of a set with tiles; `size` is that of all tiles together
    captures : light captures of a measured set
    """

    preparation: Preparation
    guide: Guide | None
    source: Size
    size: Size
    surface: SurfaceSpec
    borders: WrapSpec = False
    width_share: float = 1.0
    sheet: TileLayout | None = None
    captures: CapturesSpec | None = None

    @property
    def photo(self) -> Imported | None:
        """The guide as it came in; None where there is none, or where it is measured."""
        picture = self.guide[1] if self.guide else None
        return picture if isinstance(picture, Imported) else None

    @property
    def tile(self) -> Size:
        """Width and height of one of its tiles; of a set without, of the set."""
        return self.sheet.tile_size(self.size) if self.sheet else self.size

    def fit(self, longer_side: int | None) -> Size:
        """Return the set's size for a longer side; tiles are equal, so the size may be smaller."""
        if self.sheet is None or longer_side is None:
            return fit_size(*self.size, longer_side)
        share = longer_side / max(self.size)
        return self.sheet.size(fit_size(*self.tile, max(1, int(max(self.tile) * share + 1e-6))))

    def azimuth(self, measured: float) -> float:
        """Convert the azimuth of the light from the imported to the prepared reference map.

        Parameters
        ----------
        measured : degrees, modulo 180

        Returns
        -------
        degrees, modulo 180
        """
        if self.guide is None:
            return measured
        return self.preparation.frame.frame().direction(measured, *self.source) % 180

    def before_seams(self, size: Size) -> Size:
        """Return the picture size that becomes `size` after seams are closed."""
        seams = self.preparation.seams
        return seams.plan().before(size) if seams else size


def geometry_of(texture_set: SetDefinition, sizes: Sizes) -> Geometry:
    """Compute the sizes that result from the preparation of a set.

    Parameters
    ----------
    texture_set : the set
    sizes : width and height of each picture in texels, by SHA-256

    Returns
    -------
    Geometry
    """
    prepare, surface = texture_set.prepare, texture_set.surface
    guide = reference_map_of(texture_set, sizes)
    if guide is None:
        below = texture_set.parts.get("below")
        of = geometry_of(below.texture_set, sizes) if below else None
        size, sheet = (of.size, of.sheet) if of else (_WITHOUT_PICTURES, None)
        surface, share = _with_depth(texture_set), float(sheet.columns if sheet else 1)
        surface = surface.model_copy(update={"tile_size": surface.tile_size * share})
        return Geometry(
            prepare, None, size, _wanted(prepare, size), surface, width_share=share, sheet=sheet
        )
    sheet = texture_set.sheet
    source = size_of(guide[1], sizes, sheet, texture_set.captures)
    finest = _finest_size(prepare, source)
    borders = _borders_before(texture_set)
    share = finest[0] / source[0]
    width = _ruled_width(prepare, source, finest)
    surface = _with_depth(texture_set)
    share *= sheet.columns if sheet else 1
    changes: dict[str, Any] = {
        "wrap": prepare.seams is not None or borders,
        "tile_size": min(1000.0, max(1e-4, surface.tile_size * share if width is None else width)),
    }
    prepared_surface = surface.model_copy(update=changes)
    size = _wanted(prepare, finest)
    return Geometry(prepare, guide, source, size, prepared_surface, borders, share, sheet,
                    texture_set.captures)  # fmt: skip


def size_of(
    picture: Imported | Derived,
    sizes: Sizes,
    sheet: TileLayout | None,
    captures: CapturesSpec | None = None,
) -> Size:
    """Return the width and height of an imported picture in texels.

    For a set with tiles, that of the whole layout with its largest tile; for a measured set, that
    of its pictures.
    """
    if isinstance(picture, Derived):
        return sizes[captures.captures[0].source] if captures else _WITHOUT_PICTURES
    files = [sizes[one] for one in picture.files]
    largest = max(width for width, _ in files), max(height for _, height in files)
    return sheet.size(largest) if sheet else largest


def _with_depth(texture_set: SetDefinition) -> SurfaceSpec:
    """Return the surface with its depth; operations that state their own depth override it."""
    surface, height = texture_set.surface, texture_set.maps.get(MapKind.HEIGHT)
    if surface.depth is not None or not isinstance(height, Derived):
        return surface
    made = get_operation(height.operation)
    if made.states_depth is None:
        return surface
    return surface.model_copy(update={"depth": made.resolve(height.parameters)[made.states_depth]})


def prepared_size(texture_set: SetDefinition, geometry: Geometry) -> SetDefinition:
    """Return the set with its surface after preparation."""
    return texture_set.model_copy(update={"surface": geometry.surface})


def reference_map_of(texture_set: SetDefinition, sizes: Sizes) -> Guide | None:
    """Return the picture that determines the preparation: base color, else the largest."""
    base = texture_set.maps.get(MapKind.BASE_COLOR)
    for one in imported_sources(base) if base else []:
        return MapKind.BASE_COLOR, one
    captures = texture_set.captures
    measured = {k: d for k, d in texture_set.maps.items() if captures and is_measured(d)}
    for kind in (MapKind.BASE_COLOR, *measured):
        if isinstance(way := measured.get(kind), Derived):
            return kind, way
    own = [(kind, one) for kind, d in texture_set.maps.items() for one in imported_sources(d)]
    if not own:
        return None
    return max(own, key=lambda pair: math.prod(size_of(pair[1], sizes, None)))


def imported_sources(definition: Any) -> list[Imported]:
    """Return the pictures of a map that show the surface itself, without overlays."""
    if not isinstance(definition, Derived):
        return imported_in(definition)
    slots = {slot.name: slot for slot in get_operation(definition.operation).slots}
    return [
        one for name, one in definition.slots.items()
        if isinstance(one, Imported) and not slots[name].laid_over
    ]  # fmt: skip


def _finest_size(prepare: Preparation, source: Size) -> Size:
    """Return the size of the reference map prepared without resampling."""
    size = prepare.frame.frame().size(*source)
    return prepare.seams.plan().tile(size) if prepare.seams else size


def _wanted(prepare: Preparation, finest: Size) -> Size:
    if prepare.size is None:
        return finest
    if prepare.size.square:
        return prepare.size.longer_side, prepare.size.longer_side
    return fit_size(*finest, prepare.size.longer_side)


def _ruled_width(prepare: Preparation, source: Size, finest: Size) -> float | None:
    """Return the width of the prepared set in meters from the ruler, or None."""
    if prepare.ruler is None:
        return None
    frame = prepare.frame.frame()
    inverse = np.linalg.inv(frame.mapping(*source))
    ends = transform([prepare.ruler.start, prepare.ruler.end], inverse) * frame.size(*source)
    length = float(np.hypot(*(ends[1] - ends[0])))
    return prepare.ruler.metres * finest[0] / max(length, 1e-6)


def _borders_before(texture_set: SetDefinition) -> WrapSpec:
    """Return the stated tileable directions that the frame preserves."""
    frame, wrap = texture_set.prepare.frame.frame(), as_wrap(texture_set.surface.wrap)
    if texture_set.sheet or not frame.keeps_borders:
        return False
    return (Wrap(wrap.down, wrap.across) if frame.quarter_turns % 2 else wrap).spec
