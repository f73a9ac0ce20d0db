"""The maps that can be taken from a model, and what their numbers mean."""

from __future__ import annotations

from dataclasses import dataclass
from typing import Literal

Stored = Literal["data", "normal", "color"]


@dataclass(frozen=True, slots=True)
class BakedMap:
    """One of them.

    stored : data is stored as it is, [0, 1]; normals are unit vectors, [-1, 1], Y up; colors are
        linear light
    meaning : a sentence, with the unit
    detail_only : it needs a detailed model; the others are taken from it where there is one
    rays : it sends so many rays from each sample as it is told to
    exact : a texel is one of its values, never a mean of some
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
             "how much of the sky a point sees, cosine weighted; 1 is open", rays=True),
    BakedMap("bent_normal", "Bent normal", 3, "normal",
             "the mean direction from which light comes in, in tangent space", rays=True),
    BakedMap("curvature", "Curvature", 1, "data",
             "mean curvature: 0.5 flat, more is convex, 1 that of an edge of the stated radius"),
    BakedMap("thickness", "Thickness", 1, "data",
             "depth of the model under the surface, 1 is the stated reach", rays=True),
    BakedMap("position", "Position", 3, "data",
             "place within the model's bounds, its longest side from 0 to 1"),
    BakedMap("world_normal", "World normal", 3, "data",
             "direction of the surface in the model's own axes, 0.5 is none"),
    BakedMap("material_id", "Material mask", 3, "color",
             "a color of its own for each material", exact=True),
    BakedMap("part_id", "Part mask", 3, "color", "a color of its own for each part", exact=True),
    BakedMap("normal", "Normal", 3, "normal",
             "the detailed model's normals in the simple one's tangent space (MikkTSpace)",
             detail_only=True),
    BakedMap("height", "Height", 1, "data",
             "metres from the simple surface to the detailed one along its normal, 0.5 is none",
             detail_only=True),
    BakedMap("base_color", "Base color", 3, "color",
             "the colors of the detailed model's corners", detail_only=True),
)  # fmt: skip
BAKED_MAPS: dict[str, BakedMap] = {one.name: one for one in _ALL}
