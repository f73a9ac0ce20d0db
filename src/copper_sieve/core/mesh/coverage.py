"""UV coverage of a model: a mask in addition to opacity; padding starts at its border."""

from __future__ import annotations

import hashlib
from collections.abc import Callable
from dataclasses import dataclass

import numpy as np
from numpy.typing import NDArray

from copper_sieve.core.errors import MeshError
from copper_sieve.core.image.raster import Float
from copper_sieve.core.image.tile_layout import TileLayout
from copper_sieve.core.mesh.islands import signed_uv_areas
from copper_sieve.core.mesh.mesh import Mesh
from copper_sieve.core.mesh.rasterization import rasterize, sample_offsets

_SAMPLES = 16


@dataclass(frozen=True, slots=True)
class Coverage:
    """UV islands of a material.

    label : model and material, for users
    key : equal for equal islands
    load : returns them when they are drawn: (T, 3, 2) float32, v down, 0 to 1 over the picture,
        which is the whole sheet of a set with tiles
    """

    label: str
    key: str
    load: Callable[[], Float]

    @classmethod
    def of(
        cls, mesh: Mesh, label: str, material: str | None = None, uv_set: int = 0,
        sheet: TileLayout | None = None,
    ) -> Coverage:  # fmt: skip
        """Return the coverage of one material of a model, or of all.

        Parameters
        ----------
        mesh : the model
        label : name for messages
        material : None: all
        uv_set : number of the UV set, from 0
        sheet : tile layout of a set with tiles

        Raises
        ------
        MeshError : if nothing is covered
        """
        uv = cls._islands(mesh, label, material, uv_set, sheet)
        return cls(label, hashlib.sha256(uv.tobytes()).hexdigest()[:32], lambda: uv)

    @classmethod
    def later(  # noqa: PLR0917
        cls,
        load: Callable[[], Mesh],
        key: str,
        label: str,
        material: str | None = None,
        uv_set: int = 0,
        sheet: TileLayout | None = None,
    ) -> Coverage:
        """Return the coverage of a model that is read when it is first needed.

        Parameters
        ----------
        load : reads the model; its errors are raised on use
        key : identifies the file
        label, material, uv_set, sheet : see `of`
        """
        whole = f"{key} {material} {uv_set}" + (f" {sheet.numbers}" if sheet else "")
        return cls(
            label, hashlib.sha256(whole.encode()).hexdigest()[:32],
            lambda: cls._islands(load(), label, material, uv_set, sheet),
        )  # fmt: skip

    @staticmethod
    def _islands(
        mesh: Mesh, label: str, material: str | None, uv_set: int, sheet: TileLayout | None
    ) -> Float:
        if uv_set >= len(mesh.uvs):
            raise MeshError(
                f"{label}: the model has {len(mesh.uvs) or 'no'} UV set(s). Unwrap it first"
            )
        some = mesh if material is None else mesh.of_material(material)
        uv = sheet.placed(some.uvs[uv_set]) if sheet else some.uvs[uv_set]
        inside = ((uv.max(1) > 0) & (uv.min(1) < 1)).all(1) & (signed_uv_areas(uv) != 0)
        if not inside.any():
            where = "the tiles of the set" if sheet else "the range from 0 to 1"
            raise MeshError(f"{label}: there are no UVs in {where}. Choose another UV set")
        return np.ascontiguousarray(uv[inside])

    def at(self, width: int, height: int) -> NDArray[np.bool_]:
        """Return (height, width) bool, True where a texel is at least partly covered."""
        found, uv = np.zeros((height, width), dtype=np.bool_), self.load()
        for sample in sample_offsets(_SAMPLES):
            found |= rasterize(uv, width, height, sample).covered
        return found
