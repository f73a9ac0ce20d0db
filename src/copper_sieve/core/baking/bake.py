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
    """Bake maps from a model, or from a high-poly model onto it.

    Parameters
    ----------
    mesh : the low-poly model with the UVs to bake
    wanted : names of BAKED_MAPS
    options : size, samples, rays and distances
    high_poly : detailed model at the same position
    cage : copy of `mesh` with moved vertices, where rays to the high-poly model start
    material : bake only its triangles; the others still occlude
    on_progress : called with the completed share, [0, 1]
    is_cancelled : returns True to cancel

    Returns
    -------
    Baked; see also `bake_tiles`

    Raises
    ------
    MeshError : without UVs in this tile, or if the cage doesn't match
    ParameterError : if a map is unknown or requires a high-poly model
    CancelledError
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
    """Bake maps of several UV tiles; see `bake`.

    Heights of all tiles share one range. All tiles are in memory at the same time.

    Parameters
    ----------
    tiles : tile numbers, from 1001; see `image.tile_layout`
    mesh, wanted, options, high_poly, cage, material, on_progress, is_cancelled : see `bake`

    Returns
    -------
    Baked by tile number
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

        def report(share: float, n: int = n) -> None:
            if on_progress:
                on_progress((n + share) / len(places))

        work.run(report, is_cancelled)
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
