"""Maps that can be baked from a model, with the meaning of their values."""

from __future__ import annotations

from dataclasses import dataclass
from typing import Literal

Stored = Literal["data", "normal", "color"]


@dataclass(frozen=True, slots=True)
class BakedMap:
    """Declaration of a map.

    stored : "data": [0, 1], stored unchanged; "normal": unit vectors, [-1, 1], Y up; "color":
        linear light
    meaning : description with the unit
    detail_only : requires a high-poly model; other maps use it if there is one
    rays : casts the requested number of rays per sample
    exact : texels are one of the sampled values, never a mean
    """

    name: str
    title: str
    components: int
    stored: Stored
    meaning: str
    detail_only: bool = False
    rays: bool = False
    exact: bool = False


_ALL = (
    BakedMap("ambient_occlusion", "Occlusion", 1, "data",
             "share of the sky visible from each point, cosine-weighted; 1 is "
             "unoccluded", rays=True),
    BakedMap("bent_normal", "Bent normal", 3, "normal",
             "mean unoccluded direction in tangent space", rays=True),
    BakedMap("curvature", "Curvature", 1, "data",
             "mean curvature: 0.5 is flat, higher is convex, 1 is an edge of the given "
                 "radius"),
    BakedMap("thickness", "Thickness", 1, "data",
             "thickness of the model below the surface; 1 is the given thickness", rays=True),
    BakedMap("position", "Position", 3, "data",
             "position within the model's bounds; the longest side is 0 to 1"),
    BakedMap("world_normal", "World normal", 3, "data",
             "surface direction in object space; 0.5 is zero"),
    BakedMap("material_id", "Material ID", 3, "color",
             "one color per material", exact=True),
    BakedMap("part_id", "Part ID", 3, "color", "one color per part", exact=True),
    BakedMap("normal", "Normal", 3, "normal",
             "normals of the high-poly model in the low-poly tangent space (MikkTSpace)",
             detail_only=True),
    BakedMap("height", "Height", 1, "data",
             "distance in meters from the low-poly to the high-poly surface along the "
                 "normal; 0.5 is zero",
             detail_only=True),
    BakedMap("base_color", "Base color", 3, "color",
             "vertex colors of the high-poly model", detail_only=True),
)  # fmt: skip
BAKED_MAPS: dict[str, BakedMap] = {one.name: one for one in _ALL}
