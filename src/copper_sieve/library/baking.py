"""Maps from a model's file: read, bake, and the codes of the pictures that are written."""

from __future__ import annotations

from collections.abc import Callable, Iterable
from dataclasses import dataclass, replace
from pathlib import Path

import numpy as np

from copper_sieve.core.baking import BAKED_MAPS, Baked, BakeOptions
from copper_sieve.core.baking import bake as bake_mesh
from copper_sieve.core.codecs.meshes.limits import ModelLimits
from copper_sieve.core.codecs.meshes.reading import read_model
from copper_sieve.core.errors import ParameterError
from copper_sieve.core.image.encoding import quantize
from copper_sieve.core.image.map_kind import Meaning, NormalY
from copper_sieve.core.image.raster import Encoding, Picture, Raster
from copper_sieve.core.mesh.covering import covering
from copper_sieve.core.mesh.mesh import Mesh
from copper_sieve.library.deriving import raster_to_picture

# Where 8 bits would show: steps in a relief, and in what shades.
_DEEP = {"normal", "bent_normal", "world_normal", "height", "position"}
_PROBE = 256  # texels a side by which materials are seen to lie over each other
_HARDLY_ANY = 0.005
_MOST_MATERIALS = 64
_MANY = 0.01  # of the places: so many misses mean that the cage does not reach


@dataclass(frozen=True, slots=True)
class BakedMaps:
    """Maps that were taken from a model.

    baked : their values and figures, see `Baked`
    names : of the maps, in the order in which they were asked for
    normal_y : the direction of green for pictures of normals
    remarks : what was assumed or left out, and what misses mean, a sentence each
    """

    baked: Baked
    names: tuple[str, ...]
    normal_y: NormalY
    remarks: tuple[str, ...]

    def picture(self, name: str, bits: int | None = None) -> Picture:
        """The codes of one map; colors are sRGB, all else as it is.

        bits : 8 or 16; default: 16 for normals, heights and positions, else 8
        Raises ParameterError for a map that was not taken.
        """
        if name not in self.baked.maps:
            raise ParameterError(f"{name} was not taken; there are {', '.join(self.names)}")
        values = self.baked.maps[name]
        depth = bits or (16 if name in _DEEP else 8)
        stored = BAKED_MAPS[name].stored
        if stored == "data":
            names = ("Y",) if values.shape[2] == 1 else ("R", "G", "B")
            return Picture(quantize(np.clip(values, 0, 1), depth), names, Encoding.LINEAR)
        meaning = Meaning.NORMAL if stored == "normal" else Meaning.COLOR
        return raster_to_picture(Raster(values, meaning), depth, False, self.normal_y)

    def missed(self) -> Picture | None:
        """Where rays found no detail: black nothing was missed, white all; None where all met."""
        if self.baked.missed is None or not self.baked.misses:
            return None
        return Picture(quantize(self.baked.missed[:, :, None], 8), ("Y",), Encoding.LINEAR)


def bake(
    model: Path | str,
    maps: Iterable[str],
    *,
    options: BakeOptions | None = None,
    material: str | None = None,
    detailed: Path | str | None = None,
    cage: Path | str | float | None = None,
    normal_y: NormalY | str = NormalY.UP,
    limits: ModelLimits | None = None,
    on_progress: Callable[[float], None] | None = None,
    is_cancelled: Callable[[], bool] | None = None,
) -> BakedMaps:
    """Take maps from a model, or from a detailed version of it onto the model.

    model : glTF, OBJ, PLY or STL, with the UVs that are drawn
    maps : names of BAKED_MAPS
    options : size, samples, rays, lengths; see `BakeOptions`
    material : only the triangles of this one are drawn; the others still shade it
    detailed : a model that lies in front of it, from which all is taken
    cage : where rays to it start: a copy of the model with its corners moved out, or metres;
        default: as far as the two surfaces are apart
    Raises MeshError, ParameterError, CancelledError.
    """
    chosen, mesh = options or BakeOptions(), read_model(Path(model), limits)
    fine = read_model(Path(detailed), limits) if detailed is not None else None
    if cage is not None and fine is None:
        raise ParameterError("a cage is for rays to a detailed model: give one, or no cage")
    around: Mesh | None = None
    if isinstance(cage, float | int):
        chosen = replace(chosen, offset=float(cage))
    elif cage is not None:
        around = read_model(Path(cage), limits)
    names = tuple(dict.fromkeys(maps))
    baked = bake_mesh(
        mesh, names, chosen, fine, around, material=material,
        on_progress=on_progress, is_cancelled=is_cancelled,
    )  # fmt: skip
    remarks = (
        *mesh.remarks, *(fine.remarks if fine else ()), *_told(baked),
        *(_over_each_other(mesh, chosen.uv_set) if material is None else ()),
    )  # fmt: skip
    return BakedMaps(baked, names, NormalY(normal_y), tuple(dict.fromkeys(remarks)))


def _over_each_other(mesh: Mesh, uv_set: int) -> list[str]:
    """Materials whose islands lie on the same texels: each has a picture of its own."""
    names = [name for name in mesh.material_names if mesh.is_of(name).any()][:_MOST_MATERIALS]
    drawn = np.zeros((_PROBE, _PROBE), dtype=np.int32)
    for name in names if len(names) > 1 else ():
        uv = mesh.of_material(name).uvs[uv_set]
        drawn += covering(uv, _PROBE, _PROBE).covered
    if (drawn > 1).sum() <= _HARDLY_ANY * max(1, (drawn > 0).sum()):
        return []
    return [
        f"the islands of {', '.join(names)} lie over each other: each has a picture of its own; "
        "say which one with --material"
    ]


def _told(baked: Baked) -> list[str]:
    if not baked.misses:
        return []
    share = baked.misses / max(1, baked.samples)
    said = f"{baked.misses:,} of {baked.samples:,} rays found no detail ({share:.1%})"
    advice = "; move the cage out, or give parts of both models the same name"
    return [said + (advice if share > _MANY else "")]
