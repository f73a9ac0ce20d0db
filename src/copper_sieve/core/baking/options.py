"""Options and results of a bake."""

from __future__ import annotations

from dataclasses import dataclass, field

import numpy as np
from numpy.typing import NDArray

from copper_sieve.core.errors import ParameterError
from copper_sieve.core.image.raster import Float

_SAMPLES = (1, 4, 9, 16)


@dataclass(frozen=True, slots=True)
class BakeOptions:
    """Options of a bake. Lengths are in meters; None: from the size of the model.

    width, height : texels
    uv_set : number of the UV set, from 0
    tile : unit square of the UVs
    samples : per texel: 1, 4, 9 or 16
    rays : per sample, for maps that cast rays
    max_distance : beyond it nothing occludes; None: no limit
    ground_plane : a plane below the model occludes it
    isolate_parts : parts don't occlude each other
    max_thickness : thickness of value 1; None: a tenth of the model
    edge_width : on both sides of a hard edge that counts as curved; None: a hundredth of the model
    edge_radius : radius of an edge whose curvature is 1; None: an edge of 90 degrees has curvature
        1
    offset : distance of the cage from the low-poly model; None: measured
    match_by_name : parts of both models with the same name match
    match_by_uvs : the high-poly model is a subdivision: match by UVs, not rays
    height_range : meters of height from 0 to 1; None: the full range
    """

    width: int = 1024
    height: int = 1024
    uv_set: int = 0
    tile: tuple[int, int] = (0, 0)
    samples: int = 4
    rays: int = 64
    max_distance: float | None = None
    ground_plane: bool = False
    isolate_parts: bool = False
    max_thickness: float | None = None
    edge_width: float | None = None
    edge_radius: float | None = None
    offset: float | None = None
    match_by_name: bool = False
    match_by_uvs: bool = False
    height_range: float | None = None

    def __post_init__(self) -> None:
        if self.samples not in _SAMPLES:
            raise ParameterError(f"samples = {self.samples} is out of range. Use 1, 4, 9 or 16")
        if not 1 <= self.rays <= 65536:
            raise ParameterError(f"rays = {self.rays} is out of range. Use 1 to 65,536")
        lengths = (
            "max_distance",
            "max_thickness",
            "edge_width",
            "edge_radius",
            "offset",
            "height_range",
        )
        for name in lengths:
            length = getattr(self, name)
            if length is not None and not 0 < length < 1e9:
                raise ParameterError(
                    f"{name} = {length} is out of range. Use meters greater than 0"
                )


@dataclass(slots=True)
class Baked:
    """Result of a bake.

    maps : by name, (H, W, C) float32 as declared by `BakedMap`, padded to the border
    covered : (H, W) bool, texels covered by a triangle
    missed : (H, W) float32, share of a texel's samples that missed the high-poly model; None
        without
    rays : number of rays
    samples, misses : number of samples, and of those that missed
    height_range : meters of height from 0 to 1, if a height was baked
    offset : distance of the cage in meters, if one was used
    colors : of masks: sRGB color of each name as #rrggbb, by map
    """

    maps: dict[str, Float]
    covered: NDArray[np.bool_]
    missed: Float | None = None
    rays: int = 0
    samples: int = 0
    misses: int = 0
    seconds: float = 0.0
    height_range: float | None = None
    offset: float | None = None
    colors: dict[str, dict[str, str]] = field(default_factory=dict)
