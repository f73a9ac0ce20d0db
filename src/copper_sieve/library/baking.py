"""Bake maps from model files and encode them as pictures."""

from __future__ import annotations

from collections.abc import Callable, Iterable, Mapping, Sequence
from dataclasses import dataclass, field, replace
from pathlib import Path
from typing import Literal

import numpy as np

from copper_sieve.core.baking import BAKED_MAPS, Baked, BakeOptions, bake_tiles
from copper_sieve.core.baking import bake as bake_mesh
from copper_sieve.core.codecs.meshes.limits import ModelLimits
from copper_sieve.core.codecs.meshes.reading import read_model
from copper_sieve.core.errors import MeshError, ParameterError
from copper_sieve.core.image.encoding import quantize
from copper_sieve.core.image.map_kind import Meaning, NormalY
from copper_sieve.core.image.raster import Encoding, Picture, Raster
from copper_sieve.core.mesh.mesh import Mesh
from copper_sieve.core.mesh.rasterization import rasterize
from copper_sieve.core.mesh.tiles import tiles_of
from copper_sieve.library.arguments import normal_y_of
from copper_sieve.library.deriving import raster_to_picture

# Where 8 bits would show: steps in a relief, and in what shades.
_DEEP = {"normal", "bent_normal", "world_normal", "height", "position"}
_PROBE = 256  # texels per side at which overlapping materials are detected
_HARDLY_ANY = 0.005
_MOST_MATERIALS = 64
_MANY = 0.01  # of the places: so many misses mean that the cage does not reach


@dataclass(frozen=True, slots=True)
class BakedMaps:
    """Maps baked from a model.

    Attributes
    ----------
    baked : values and figures, see `Baked`; with several tiles, those of the first tile
    names : names of the maps, in the requested order
    normal_y : green direction of normal maps
    remarks : assumptions, skipped items, and reasons for missed rays; a sentence each
    tiles : values and figures of each tile by its number; empty without tiles
    """

    baked: Baked
    names: tuple[str, ...]
    normal_y: NormalY
    remarks: tuple[str, ...]
    tiles: Mapping[int, Baked] = field(default_factory=dict)

    def picture(self, name: str, bits: int | None = None, *, tile: int | None = None) -> Picture:
        """Return one map as the codes of a file.

        Parameters
        ----------
        name : str, name of the map
        bits : {8, 16}, optional, bits per channel. Default: 16 for normals, heights and positions,
            else 8
        tile : int, optional, number of the tile. Default: the first tile

        Returns
        -------
        Picture
            Codes (H, W, C): colors sRGB-encoded, everything else linear.

        Raises
        ------
        ParameterError : if the map wasn't baked
        """
        held = self.baked if tile is None else self.tiles[tile]
        if name not in held.maps:
            raise ParameterError(f"{name} wasn't baked. Available: {', '.join(self.names)}")
        values = held.maps[name]
        depth = bits or (16 if name in _DEEP else 8)
        stored = BAKED_MAPS[name].stored
        if stored == "data":
            names = ("Y",) if values.shape[2] == 1 else ("R", "G", "B")
            return Picture(quantize(np.clip(values, 0, 1), depth), names, Encoding.LINEAR)
        meaning = Meaning.NORMAL if stored == "normal" else Meaning.COLOR
        return raster_to_picture(Raster(values, meaning), depth, False, self.normal_y)

    def missed(self, tile: int | None = None) -> Picture | None:
        """Return the share of rays that missed the high-poly model, per texel.

        Parameters
        ----------
        tile : int, optional, number of the tile. Default: the first tile

        Returns
        -------
        Picture or None
            Gray, 8 bits: black where all rays hit, white where all missed. None if none missed.
        """
        held = self.baked if tile is None else self.tiles[tile]
        if held.missed is None or not held.misses:
            return None
        return Picture(quantize(held.missed[:, :, None], 8), ("Y",), Encoding.LINEAR)


def bake(
    model: Path | str,
    maps: Iterable[str],
    *,
    options: BakeOptions | None = None,
    material: str | None = None,
    high_poly: Path | str | None = None,
    cage: Path | str | float | None = None,
    tiles: Sequence[int] | Literal["all"] | None = None,
    normal_y: NormalY | str = NormalY.UP,
    limits: ModelLimits | None = None,
    on_progress: Callable[[float], None] | None = None,
    is_cancelled: Callable[[], bool] | None = None,
) -> BakedMaps:
    """Bake maps from a model, or from a high-poly model onto it.

    Parameters
    ----------
    model : Path or str, glTF, OBJ, PLY or STL file whose UVs are baked
    maps : iterable of str, names of the maps; see `BAKED_MAPS`
    options : BakeOptions, optional, size, samples, rays and distances
    material : str, optional, bake only its triangles; the others still occlude. Default: all
    high_poly : Path or str, optional, model at the same position, from which the maps are taken
    cage : Path, str or float, optional, start of the rays to the high-poly model: a copy of the
        model with moved vertices, or a distance in meters. Default: measured
    tiles : sequence of int or "all", optional, numbers of the UV tiles, from 1001; "all": all tiles
        with triangles. Default: the unit square
    normal_y : NormalY or {"up", "down"}, green direction of normal maps
    limits : ModelLimits, optional, largest size of a model
    on_progress, is_cancelled : callable, optional, called with the share in [0, 1]; stops if True

    Returns
    -------
    BakedMaps

    Raises
    ------
    MeshError : if a model can't be read, or has no UVs
    ParameterError : if a map name or an option is invalid
    CancelledError : if `is_cancelled` returned True
    """
    green = normal_y_of(normal_y)
    mesh, names = read_model(Path(model), limits), tuple(dict.fromkeys(maps))
    chosen, fine, around = _high_poly(options or BakeOptions(), high_poly, cage, limits)
    numbers = _numbers(mesh, tiles, chosen.uv_set, material)
    if numbers:
        found = bake_tiles(
            mesh, names, numbers, chosen, fine, around, material=material,
            on_progress=on_progress, is_cancelled=is_cancelled,
        )  # fmt: skip
    else:
        found = {0: bake_mesh(
            mesh, names, chosen, fine, around, material=material,
            on_progress=on_progress, is_cancelled=is_cancelled,
        )}  # fmt: skip
    baked = [*found.values()]
    overlaps = _overlaps(mesh, chosen.uv_set) if material is None else []
    every = (*mesh.remarks, *(fine.remarks if fine else ()), *_misses(baked), *overlaps)
    remarks = tuple(dict.fromkeys(every))
    return BakedMaps(baked[0], names, green, remarks, found if numbers else {})


def _high_poly(
    options: BakeOptions,
    high_poly: Path | str | None,
    cage: Path | str | float | None,
    limits: ModelLimits | None,
) -> tuple[BakeOptions, Mesh | None, Mesh | None]:
    """Return the options with a stated cage distance, the high-poly model, and the cage model."""
    fine = read_model(Path(high_poly), limits) if high_poly is not None else None
    if cage is not None and fine is None:
        raise ParameterError("a cage requires a high-poly model. Give one, or remove the cage")
    if isinstance(cage, float | int):
        return replace(options, offset=float(cage)), fine, None
    return options, fine, read_model(Path(cage), limits) if cage is not None else None


def _numbers(
    mesh: Mesh, tiles: Sequence[int] | Literal["all"] | None, uv_set: int, material: str | None
) -> list[int]:
    if tiles != "all" or uv_set >= len(mesh.uvs):  # which is told where it is drawn
        return [] if tiles is None or tiles == "all" else list(dict.fromkeys(tiles))
    drawn = mesh if material is None else mesh.of_material(material)
    found = tiles_of(drawn.uvs[uv_set])
    if not found:
        raise MeshError("the model has no UVs in tiles from 1001 on. Unwrap it first")
    return found


def _overlaps(mesh: Mesh, uv_set: int) -> list[str]:
    """Return materials whose UV islands overlap; each needs its own texture."""
    names = [name for name in mesh.material_names if mesh.is_of(name).any()][:_MOST_MATERIALS]
    drawn = np.zeros((_PROBE, _PROBE), dtype=np.int32)
    for name in names if len(names) > 1 else ():
        uv = mesh.of_material(name).uvs[uv_set]
        drawn += rasterize(uv, _PROBE, _PROBE).covered
    if (drawn > 1).sum() <= _HARDLY_ANY * max(1, (drawn > 0).sum()):
        return []
    return [
        f"the UV islands of {', '.join(names)} overlap, so each material needs its own "
        "texture. Choose one with --material"
    ]


def _misses(tiles: Sequence[Baked]) -> list[str]:
    """Return a remark if rays missed the high-poly model."""
    misses, samples = sum(one.misses for one in tiles), sum(one.samples for one in tiles)
    if not misses:
        return []
    share = misses / max(1, samples)
    counted = f"{misses:,} of {samples:,} rays missed the high-poly model ({share:.1%})"
    advice = ". Increase the cage distance, or give matching parts of both models the same name"
    return [counted + (advice if share > _MANY else "")]
