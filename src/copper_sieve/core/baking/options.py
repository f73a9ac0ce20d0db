"""How maps are taken from a model, and what becomes of it."""

from __future__ import annotations

from dataclasses import dataclass, field

import numpy as np
from numpy.typing import NDArray

from copper_sieve.core.errors import ParameterError
from copper_sieve.core.image.raster import Float

_SAMPLES = (1, 4, 9, 16)


@dataclass(frozen=True, slots=True)
class BakeOptions:
    """How maps are taken from a model. Lengths are metres; None means by the model's size.

    width, height : texels; uv_set : which UVs are drawn; tile : which unit square of them
    samples : places looked at in each texel: 1, 4, 9 or 16
    rays : from each of them, for the maps that send rays
    max_distance : beyond which nothing shades; None: no limit
    ground_plane : a floor under the model shades it too
    isolate_parts : each part is shaded by itself only
    max_thickness : the thickness that is 1; None: a tenth of the model
    edge_width : to either side of a hard edge where it counts as curved; None: a hundredth of it
    edge_radius : the radius of an edge whose curvature is 1; None: an edge of 90 degrees is
    offset : of the cage from the simple model; None: measured
    match_by_name : parts of both models that have the same name belong together
    match_by_uvs : the detailed model is the simple one subdivided: places are found by UVs, not by
    rays
    height_range : metres of height from 0 to 1; None: as much as there is
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
    """What was taken from a model.

    maps : by name, (H, W, C) float32 as `BakedMap` says, padded to the border
    covered : (H, W) bool, texels that a triangle lies under
    missed : (H, W) float32, the share of a texel's samples that found no detail; None without
    rays : how many were sent; samples, misses : how many places, and of how many no detail
    height_range : metres of height from 0 to 1, where there is a height
    offset : of the cage, metres, where one was used
    colors : of the masks: for each map the sRGB color of each name, as #rrggbb
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
