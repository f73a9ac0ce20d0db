"""A model as a texture set is tied to it: what operations take maps from."""

from __future__ import annotations

from collections.abc import Callable
from dataclasses import dataclass, field
from typing import Any

import numpy as np

from copper_sieve.core.baking.bake import bake
from copper_sieve.core.baking.options import BakeOptions
from copper_sieve.core.image.raster import Float
from copper_sieve.core.mesh.mesh import Mesh


@dataclass(frozen=True, slots=True)
class OnModel:
    """A model that was read, and how a set lies on it.

    material : of which the islands are drawn; None: of all
    width, height : texels of what is taken
    detailed : a finer model around the same surface, None without one
    cage : metres from the simple model at which rays to the detailed one start; None: measured
    by_name : parts of both that have the same name belong together
    quick : one sample for each texel, whatever is asked for: a preview
    key : the same for models and ties that are the same
    """

    mesh: Mesh
    width: int
    height: int
    material: str | None = None
    uv_set: int = 0
    detailed: Mesh | None = None
    cage: float | None = None
    by_name: bool = False
    quick: bool = False
    key: str = ""
    on_progress: Callable[[float], None] | None = field(default=None, compare=False)
    is_cancelled: Callable[[], bool] | None = field(default=None, compare=False)

    def take(self, wanted: str, *, samples: int = 1, detail: bool = False, **more: Any) -> Float:
        """One of BAKED_MAPS as (H, W, C) float32, see `BakedMap.stored`.

        detail : it is taken from the detailed model, which must be there
        more : further fields of `BakeOptions`
        Raises MeshError, ParameterError, CancelledError.
        """
        options = BakeOptions(
            width=self.width, height=self.height, uv_set=self.uv_set, offset=self.cage,
            by_name=self.by_name, samples=1 if self.quick else samples, **more,
        )  # fmt: skip
        baked = bake(
            self.mesh, [wanted], options, self.detailed if detail else None,
            material=self.material, on_progress=self.on_progress, is_cancelled=self.is_cancelled,
        )  # fmt: skip
        return np.ascontiguousarray(baked.maps[wanted])
