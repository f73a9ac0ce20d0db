"""Ray misses between a set's model and its high-poly model, also as a picture."""

from __future__ import annotations

from dataclasses import dataclass

import numpy as np

from copper_sieve.core.baking import Baked, BakeOptions, bake
from copper_sieve.core.codecs.encoders.png import encode_png
from copper_sieve.core.errors import PlanError
from copper_sieve.core.graph.fair_lock import computing
from copper_sieve.core.image.raster import Codes, Encoding, Picture
from copper_sieve.core.models.texture_set import SetDefinition
from copper_sieve.services.context import Context
from copper_sieve.services.drafts import draft_for_preview

_SIDE = 256
_NOTHING, _MET, _MISSED = (119, 119, 119), (176, 172, 166), (161, 43, 43)  # sRGB
_WIDEST = 0.1  # of the model: farther no cage is measured


@dataclass(frozen=True, slots=True)
class RayMisses:
    """Ray misses on a grid of 256² texels.

    share : of texels without detail; cage : offset of the ray origins in meters
    widest : largest sensible cage in meters; png : picture of the misses, None without any
    """

    share: float
    cage: float
    widest: float
    png: bytes | None


def measure_ray_misses(
    context: Context, set_id: int, draft: SetDefinition | None = None
) -> RayMisses:
    """Cast rays from a set's model, or that of a draft, to its high-poly model.

    Raises NotFoundError, MeshError, PlanError for a set without a high-poly model.
    """
    texture_set, _ = draft_for_preview(context, set_id, draft)
    link = texture_set.model
    if link is None or link.high_poly is None:
        raise PlanError(f"{texture_set.name} has no high-poly model. Choose one on Models")
    simple, high_poly = context.load_model(link.source), context.load_model(link.high_poly)
    options = BakeOptions(width=_SIDE, height=_SIDE, samples=1, uv_set=link.uv_set,
                          offset=link.cage, match_by_name=link.match_by_name,
                          match_by_uvs=link.match_by_uvs)  # fmt: skip
    with computing:
        found = bake(simple, ["world_normal"], options, high_poly, material=link.material)
    share = found.misses / max(1, found.samples)
    png = encode_png(Picture(_drawn(found), ("R", "G", "B"), Encoding.SRGB)) if share else None
    return RayMisses(share, found.offset or 0.0, simple.extent * _WIDEST, png)


def _drawn(found: Baked) -> Codes:
    """Draw hits and misses, (256, 256, 3) uint8."""
    lost = np.zeros((_SIDE, _SIDE)) if found.missed is None else found.missed
    codes = np.where(lost[..., None] > 0, np.array(_MISSED), np.array(_MET))
    codes[~found.covered] = _NOTHING
    return codes.astype(np.uint8)
