"""./sieve bake: bake maps from a model, or from its high-poly model."""

from __future__ import annotations

import argparse
import json
from pathlib import Path
from typing import Any, Literal

import numpy as np

from copper_sieve.cli import options
from copper_sieve.cli.progress import progress
from copper_sieve.cli.writing import write_whole
from copper_sieve.core.baking import BAKED_MAPS, BakeOptions
from copper_sieve.core.errors import ParameterError
from copper_sieve.core.image.raster import Picture
from copper_sieve.core.models.naming import slug
from copper_sieve.library.baking import BakedMaps, bake
from copper_sieve.settings import load_settings


def run(arguments: argparse.Namespace) -> int:
    """Bake the maps and write {model}_{map}.png, either all files or none; or list all maps."""
    if arguments.list:
        _list(arguments.json)
        return 0
    for word, given in (("MODEL", arguments.model), ("--maps", arguments.maps),
                        ("--out", arguments.out)):  # fmt: skip
        if given is None:
            raise ParameterError(f"bake requires {word}; see sieve bake --help")
    names = [name for word in arguments.maps for name in word.split(",") if name]
    with progress(f"{arguments.model.name}: {', '.join(names)}", quiet=arguments.json) as report:
        done = bake(
            arguments.model,
            names,
            options=_options(arguments),
            material=arguments.material,
            high_poly=arguments.high_poly,
            cage=_cage(arguments.cage),
            tiles=_tiles(arguments.tiles),
            normal_y=arguments.normal_y,
            limits=load_settings().model_limits,
            on_progress=(lambda share: report(share, "")) if report else None,
        )
    stem = slug(arguments.model.stem)
    files: dict[str, Path] = {}
    pictures: dict[Path, Picture] = {}
    for tile in done.tiles or [None]:
        end = "" if tile is None else f".{tile}"
        made = {name: done.picture(name, tile=tile) for name in done.names}
        if missed := done.missed(tile):
            made["missed"] = missed
        for name, picture in made.items():
            files[name + end] = arguments.out / f"{stem}_{name}{end}.png"
            pictures[files[name + end]] = picture
    write_whole(pictures)
    options.print_remarks(done.remarks)
    _tell(arguments, done, files)
    return 0


def _options(arguments: argparse.Namespace) -> BakeOptions:
    return BakeOptions(
        width=arguments.size,
        height=arguments.size,
        uv_set=arguments.uv,
        samples=arguments.samples,
        rays=arguments.rays,
        max_distance=arguments.max_distance,
        ground_plane=arguments.ground_plane,
        isolate_parts=arguments.isolate_parts,
        max_thickness=arguments.max_thickness,
        edge_width=arguments.edge,
        match_by_name=arguments.match_by_name,
        match_by_uvs=arguments.match_by_uvs,
        height_range=arguments.height_range,
    )


def _cage(given: str | None) -> Path | float | None:
    """Return a distance in meters for a number, and a path for anything else."""
    if given is None:
        return None
    try:
        return float(given)
    except ValueError:
        return Path(given)


def _tiles(given: str | None) -> list[int] | Literal["all"] | None:
    """Return tile numbers, or all."""
    if given is None:
        return None
    if given == "all":
        return "all"
    try:
        return [int(one) for one in given.split(",")]
    except ValueError:
        raise ParameterError(
            f'--tiles {given}: give "all" or tile numbers such as 1001,1002'
        ) from None


def _tell(arguments: argparse.Namespace, done: BakedMaps, files: dict[str, Path]) -> None:
    baked, all_of = done.baked, [*done.tiles.values()] or [done.baked]
    if not arguments.json:
        for path in files.values():
            print(path)
        return
    facts: dict[str, Any] = {
        "model": str(arguments.model),
        "files": {name: str(path) for name, path in files.items()},
        "tangents": "MikkTSpace",
        "normal_y": done.normal_y,
        "rays": sum(one.rays for one in all_of),
        "samples": sum(one.samples for one in all_of),
        "misses": sum(one.misses for one in all_of),
        "seconds": round(sum(one.seconds for one in all_of), 3),
        "covered": round(float(np.mean([one.covered.mean() for one in all_of])), 4),
        "cage_distance": baked.offset,
        "height_range": baked.height_range,
        "colors": baked.colors,
        "remarks": list(done.remarks),
    }
    print(json.dumps(facts, indent=2))


def _list(as_json: bool) -> None:
    if as_json:
        facts = {one.name: {"meaning": one.meaning, "requires_high_poly": one.detail_only}
                 for one in BAKED_MAPS.values()}  # fmt: skip
        print(json.dumps({"maps": facts}, indent=2))
        return
    for one in BAKED_MAPS.values():
        print(f"{one.name}: {one.meaning}{' (requires --high-poly)' if one.detail_only else ''}")
