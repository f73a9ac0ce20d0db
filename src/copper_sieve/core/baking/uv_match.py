"""Matching with a high-poly model that is a subdivision: by equal UVs."""

from __future__ import annotations

import numpy as np
from numpy.typing import NDArray

from copper_sieve.core.baking.from_detail import MatchedParts
from copper_sieve.core.baking.options import BakeOptions
from copper_sieve.core.baking.surface_samples import SurfaceSamples
from copper_sieve.core.errors import MeshError
from copper_sieve.core.image.raster import Float
from copper_sieve.core.mesh.mesh import Mesh
from copper_sieve.core.mesh.rasterization import Rasterization, blend_attributes, rasterize

_PROBES = 128  # texels a side by which it is seen whether the UVs are the same
_NOWHERE = np.float32(-1e6)  # UVs of triangles that aren't baked
_FARTHEST = 0.1  # share of the model's size: if the median distance is larger, the UVs don't match
_FEWEST = 0.5  # share of the points covered by the high-poly model's UVs


class UvMatch:
    """UVs of a high-poly model, by group.

    Raises MeshError if it has no such UV set, or its UVs differ from those of `low_poly`.
    """

    def __init__(  # noqa: PLR0917
        self, low_poly: Mesh, uv: Float, high_poly: Mesh, groups: list[MatchedParts],
        options: BakeOptions,
        material: str | None,
    ) -> None:  # fmt: skip
        if options.uv_set >= len(high_poly.uvs):
            raise MeshError(
                f"the high-poly model has no UV set {options.uv_set + 1}, so it can't be "
                "matched by UVs. Subdivide the unwrapped model, or match by rays"
            )
        self._uvs = [_drawn(high_poly, one.triangles, options, material) for one in groups]
        self._triangles = [one.triangles for one in groups]
        self._check(low_poly, uv, high_poly, groups)

    def draw(self, place: tuple[int, int], size: tuple[int, int], sample: tuple[float, float],
             ) -> list[Rasterization]:  # fmt: skip
        """Rasterize one sample position per texel of a tile, for each group."""
        square = np.array(place, dtype=np.float32)
        return [rasterize(uv - square, *size, sample) for uv in self._uvs]

    def found(
        self, group: int, drawn: Rasterization, places: SurfaceSamples
    ) -> tuple[SurfaceSamples, NDArray[np.bool_]]:
        """Return the samples on the high-poly model, and (N,) bool, False if missed."""
        triangles = drawn.triangles.ravel()[places.texels]
        weights = drawn.weights.reshape(-1, 2)[places.texels]
        met = triangles >= 0
        return SurfaceSamples(
            places.texels, self._triangles[group][np.maximum(triangles, 0)], weights
        ), met

    def _check(
        self, low_poly: Mesh, uv: Float, high_poly: Mesh, groups: list[MatchedParts]
    ) -> None:
        """Check that both models have the same UV layout; others would match unrelated points."""
        tiles = np.unique(np.floor(uv.mean(1)[uv[:, 0, 0] > _NOWHERE / 2]), axis=0).astype(int)
        away, count = [], 0
        for across, down in tiles[:4]:
            place = (int(across), int(down))
            square = np.array(place, dtype=np.float32)
            every = SurfaceSamples.of(rasterize(uv - square, _PROBES, _PROBES))
            count += len(every)
            both = zip(groups, self.draw(place, (_PROBES, _PROBES), (0.5, 0.5)), strict=True)
            for n, (group, drawn) in enumerate(both):
                some = every.chosen(group.low_poly[every.triangles])
                on, met = self.found(n, drawn, some)
                some, on = some.chosen(met), on.chosen(met)
                here = blend_attributes(low_poly.positions, some.triangles, some.weights)
                there = blend_attributes(high_poly.positions, on.triangles, on.weights)
                away.append(np.linalg.norm(here - there, axis=1))
        apart = np.concatenate(away) if away else np.empty(0)
        if count and (
            len(apart) < _FEWEST * count
            or np.median(apart) > _FARTHEST * max(low_poly.extent, 1e-9)
        ):
            raise MeshError(
                "the UVs of the high-poly model differ from those of the low-poly model. "
                "Match by UVs requires one to be a subdivision of the other. Match by rays "
                "instead"
            )


def _drawn(
    high_poly: Mesh, triangles: NDArray[np.int32], options: BakeOptions, material: str | None
) -> Float:
    """Return the UVs of a group; other materials are moved out of the tile if one is selected."""
    uv: Float = high_poly.uvs[options.uv_set]
    if material is not None and material in high_poly.material_names:
        uv = np.where(high_poly.is_of(material)[:, None, None], uv, _NOWHERE)
    return np.ascontiguousarray(uv[triangles])
