"""Bake: evaluate the surface at sample points of each texel and average the samples."""

from __future__ import annotations

import time
from collections.abc import Callable, Iterable, Sequence
from dataclasses import replace

from copper_sieve.core.baking.baked_map import BAKED_MAPS
from copper_sieve.core.baking.drawing import BakeInputs, TileWork
from copper_sieve.core.baking.options import Baked, BakeOptions
from copper_sieve.core.errors import MeshError, ParameterError
from copper_sieve.core.image.tile_layout import place_of_tile
from copper_sieve.core.mesh.mesh import Mesh

Progress = Callable[[float], None]


def bake(
    mesh: Mesh,
    wanted: Iterable[str],
    options: BakeOptions | None = None,
    high_poly: Mesh | None = None,
    cage: Mesh | None = None,
    *,
    material: str | None = None,
    on_progress: Progress | None = None,
    is_cancelled: Callable[[], bool] | None = None,
) -> Baked:
    """Take maps from a model: from itself, or from a detailed version of it.

    mesh : the model with the UVs that are drawn
    high_poly : where it lies in front of `mesh`, all is taken from it
    cage : a copy of `mesh` with its corners moved out, where rays to the detailed model start
    material : only its triangles are drawn; the others are still there
    Progress is 0 to 1. Raises MeshError (no UVs in this tile, a cage that does not fit),
    ParameterError for a name that is none of BAKED_MAPS or needs a detailed model, CancelledError.
    See also `bake_tiles`.
    """
    options = options or BakeOptions()
    ground = _ground(mesh, wanted, options, high_poly, cage, material)
    return _all_of(ground, [options.tile], on_progress, is_cancelled)[0]


def bake_tiles(  # noqa: PLR0917
    mesh: Mesh,
    wanted: Iterable[str],
    tiles: Sequence[int],
    options: BakeOptions | None = None,
    high_poly: Mesh | None = None,
    cage: Mesh | None = None,
    *,
    material: str | None = None,
    on_progress: Progress | None = None,
    is_cancelled: Callable[[], bool] | None = None,
) -> dict[int, Baked]:
    """The same of several tiles, by their numbers (1001 is the first; see `image.sheet`).

    Heights of all tiles have one range. All of them are in memory at a time.
    """
    options = options or BakeOptions()
    ground = _ground(mesh, wanted, options, high_poly, cage, material)
    places = [place_of_tile(number) for number in tiles]
    return dict(zip(tiles, _all_of(ground, places, on_progress, is_cancelled), strict=True))


def _ground(  # noqa: PLR0917
    mesh: Mesh,
    wanted: Iterable[str],
    options: BakeOptions,
    high_poly: Mesh | None,
    cage: Mesh | None,
    material: str | None,
) -> BakeInputs:
    names = list(dict.fromkeys(wanted))
    _check(mesh, names, options, high_poly)
    return BakeInputs(mesh, names, options, high_poly, cage, material)


def _all_of(
    ground: BakeInputs,
    places: Sequence[tuple[int, int]],
    on_progress: Progress | None,
    is_cancelled: Callable[[], bool] | None,
) -> list[Baked]:
    works = []
    for n, place in enumerate(places):
        began, work = time.monotonic(), TileWork(ground, place)

        def told(share: float, n: int = n) -> None:
            if on_progress:
                on_progress((n + share) / len(places))

        work.run(told, is_cancelled)
        work.seconds = time.monotonic() - began
        works.append(work)
    farthest = max(work.farthest for work in works)
    whole = ground.options.height_range or max(2 * farthest, 1e-9)
    return [replace(work.finished(whole), seconds=work.seconds) for work in works]


def _check(mesh: Mesh, names: list[str], options: BakeOptions, high_poly: Mesh | None) -> None:
    for name in names:
        if name not in BAKED_MAPS:
            raise ParameterError(
                f"unknown map {name}. Maps that can be baked: {', '.join(BAKED_MAPS)}"
            )
        if BAKED_MAPS[name].detail_only and high_poly is None:
            raise ParameterError(f"{name} requires a high-poly model")
        if name == "base_color" and high_poly is not None and high_poly.colors is None:
            raise ParameterError(
                "the high-poly model has no vertex colors. Export it with vertex colors"
            )
    if options.uv_set >= len(mesh.uvs):
        has = len(mesh.uvs)
        raise MeshError(
            f"the model has {has or 'no'} UV set{'' if has == 1 else 's'}, but set "
            f"{options.uv_set + 1} was requested. Unwrap the model, or choose another UV set"
        )
