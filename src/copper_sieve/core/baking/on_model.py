"""A model linked to a texture set, from which operations bake maps."""

from __future__ import annotations

from collections.abc import Callable, Sequence
from dataclasses import dataclass, field
from fnmatch import fnmatchcase as fnmatch
from typing import Any, Literal

import numpy as np

from copper_sieve.core.baking.bake import bake, bake_tiles
from copper_sieve.core.baking.baked_map import BAKED_MAPS
from copper_sieve.core.baking.measures import interpolated_colors, to_linear_colors
from copper_sieve.core.baking.options import BakeOptions
from copper_sieve.core.errors import MeshError
from copper_sieve.core.image.raster import Float
from copper_sieve.core.image.tile_layout import TileLayout
from copper_sieve.core.mesh.mesh import Mesh
from copper_sieve.core.mesh.tiles import tiles_of

NamedThings = Literal["part_id", "material_id"]
_SAME = 1e-3  # colors of two names are farther apart


@dataclass(frozen=True, slots=True)
class OnModel:
    """A model, and how a set uses it.

    material : whose UV islands are baked; None: all
    width, height : texels of the baked maps
    high_poly : high-poly model, or None
    cage : meters from the low-poly model at which rays start; None: measured
    match_by_name : match parts of both models by name
    match_by_uvs : the high-poly model is a subdivision: match by UVs
    quick : one sample per texel, for previews
    key : equal for equal models and links
    sheet : layout of a set with UV tiles, which are baked together
    """

    mesh: Mesh
    width: int
    height: int
    material: str | None = None
    uv_set: int = 0
    high_poly: Mesh | None = None
    cage: float | None = None
    match_by_name: bool = False
    match_by_uvs: bool = False
    quick: bool = False
    key: str = ""
    on_progress: Callable[[float], None] | None = field(default=None, compare=False)
    is_cancelled: Callable[[], bool] | None = field(default=None, compare=False)
    sheet: TileLayout | None = None

    def take(self, wanted: str, *, samples: int = 1, detail: bool = False, **more: Any) -> Float:
        """Bake one of BAKED_MAPS as (H, W, C) float32; see `BakedMap.stored`.

        Parameters
        ----------
        wanted : name of the map
        samples : per texel
        detail : bake from the high-poly model, which must exist
        more : further fields of `BakeOptions`

        Raises
        ------
        MeshError, ParameterError, CancelledError
        """
        size = self.width, self.height
        width, height = self.sheet.tile_size(size) if self.sheet else size
        options = BakeOptions(
            width=width, height=height, uv_set=self.uv_set, offset=self.cage,
            match_by_name=self.match_by_name, match_by_uvs=self.match_by_uvs,
            samples=1 if self.quick else samples, **more,
        )  # fmt: skip
        how: dict[str, Any] = {
            "high_poly": self.high_poly if detail else None, "material": self.material,
            "on_progress": self.on_progress, "is_cancelled": self.is_cancelled,
        }  # fmt: skip
        if self.sheet is None:
            return np.ascontiguousarray(bake(self.mesh, [wanted], options, **how).maps[wanted])
        baked = bake_tiles(self.mesh, [wanted], self._numbers(self.sheet), options, **how)
        maps = {number: one.maps[wanted] for number, one in baked.items()}
        known = BAKED_MAPS[wanted]  # value of a tile without triangles
        neutral = (0, 0, 1) if known.stored == "normal" else (0,) * known.components
        return self.sheet.laid(maps, size, np.array(neutral, dtype=np.float32))

    def where(self, of: NamedThings, names: Sequence[str], *, detail: bool = False) -> Float:
        """Return a mask of parts or materials: (H, W, 1) float32, 0 or 1.

        Parameters
        ----------
        of : parts or materials
        names : * matches anything; case is ignored
        detail : of the high-poly model

        Raises
        ------
        MeshError : if no name matches; with the available names
        CancelledError
        """
        drawn = self.high_poly if detail and self.high_poly else self.mesh
        known = drawn.part_names if of == "part_id" else drawn.material_names
        chosen = [one for one in known if any(fnmatch(one.lower(), n.lower()) for n in names)]
        what = "part" if of == "part_id" else "material"
        if not chosen:
            there = ", ".join(known[:12]) + (" …" if len(known) > 12 else "")
            missing = ", ".join(names) or "nothing"
            raise MeshError(f"the model has no {what} named {missing}. It has: {there}")
        colors = {
            name: to_linear_colors(color) for name, color in interpolated_colors(known).items()
        }
        others = [color for name, color in colors.items() if name not in chosen]
        if any(np.abs(colors[one] - other).max() < _SAME for one in chosen for other in others):
            raise MeshError(
                f"the model has {len(known)} {what}s, more than can be given distinct colors"
            )
        found = self.take(of, detail=detail)
        mask = np.zeros((*found.shape[:2], 1), dtype=np.float32)
        for one in chosen:
            mask[np.abs(found - colors[one]).max(2) < _SAME] = 1
        return mask

    def _numbers(self, sheet: TileLayout) -> list[int]:
        """Return the tiles of a sheet that contain triangles of the model; all if none does."""
        drawn = self.mesh.of_material(self.material) if self.material else self.mesh
        there = set(tiles_of(drawn.uvs[self.uv_set])) if self.uv_set < len(drawn.uvs) else set()
        return [one for one in sheet.numbers if one in there] or list(sheet.numbers)
