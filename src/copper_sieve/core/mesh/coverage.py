"""What a model's islands cover of a picture: a mask beside the opacity; padding grows from it."""

from __future__ import annotations

import hashlib
from dataclasses import dataclass

import numpy as np
from numpy.typing import NDArray

from copper_sieve.core.errors import MeshError
from copper_sieve.core.image.raster import Float
from copper_sieve.core.mesh.covering import covering, samples_in_texel
from copper_sieve.core.mesh.islands import signed_areas
from copper_sieve.core.mesh.mesh import Mesh

_SAMPLES = 16


@dataclass(frozen=True, slots=True)
class Coverage:
    """The islands of a material.

    uv : (T, 3, 2) float32, v down; label : of which model and material, for people
    """

    uv: Float
    label: str

    @classmethod
    def of(cls, mesh: Mesh, label: str, material: str | None = None, uv_set: int = 0) -> Coverage:
        """Of one material of a model, or of all. Raises MeshError where there is nothing."""
        if uv_set >= len(mesh.uvs):
            raise MeshError(
                f"{label}: the model has {len(mesh.uvs) or 'no'} UV set(s): unwrap it first"
            )
        some = mesh if material is None else mesh.of_material(material)
        uv = some.uvs[uv_set]
        inside = ((uv.max(1) > 0) & (uv.min(1) < 1)).all(1) & (signed_areas(uv) != 0)
        if not inside.any():
            raise MeshError(
                f"{label}: the UVs leave the square from 0 to 1 empty: choose another UV set"
            )
        return cls(np.ascontiguousarray(uv[inside]), label)

    @property
    def key(self) -> str:
        """The same for islands that cover the same."""
        return hashlib.sha256(self.uv.tobytes()).hexdigest()[:32]

    def at(self, width: int, height: int) -> NDArray[np.bool_]:
        """(height, width) bool: some part of the texel is covered."""
        found = np.zeros((height, width), dtype=np.bool_)
        for sample in samples_in_texel(_SAMPLES):
            found |= covering(self.uv, width, height, sample).covered
        return found
