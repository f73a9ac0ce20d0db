"""./sieve measure: maps of a surface from pictures under light from different sides."""

from __future__ import annotations

import argparse
import json
from dataclasses import asdict
from pathlib import Path
from typing import Literal

from copper_sieve.cli import options
from copper_sieve.cli.writing import write_whole
from copper_sieve.core.errors import ParameterError
from copper_sieve.core.image.raster import Picture
from copper_sieve.core.measuring.ball import Ball
from copper_sieve.core.measuring.lamps import Lamp
from copper_sieve.core.models.naming import slug
from copper_sieve.library.measuring import measure


def run(arguments: argparse.Namespace) -> int:
    """Measure and write {name}_{map}.png, all of them or none."""
    if not arguments.white > 0:
        raise ParameterError(f"--white {arguments.white:g}: a white surface shows more than 0")
    if (arguments.lamps is None) == (arguments.ball is None):
        raise ParameterError("measure needs --lamps or --ball; see sieve measure --help")
    lamps: list[Lamp] | Literal["unknown"] = "unknown"
    ring = _ring(arguments.lamps or "")
    if ring is None and arguments.lamps != "unknown":
        lamps = [_lamp(word) for word in (arguments.lamps or "").split(",") if word]
    done = measure(
        arguments.pictures, lamps, ring=ring, far=arguments.far, ball=_ball(arguments.ball),
        white=arguments.white,
        normal_y=arguments.normal_y, still=arguments.still, paper=arguments.paper,
    )  # fmt: skip
    name = slug(arguments.name or arguments.pictures[0].stem)
    pictures: dict[Path, Picture] = {
        arguments.out / f"{name}_{one}.png": done.picture(one) for one in done.names
    }
    write_whole(pictures)
    options.tell(done.surface.remarks)
    if arguments.json:
        doubt, told = done.surface.doubt, done.surface.told
        figures = {
            "files": [str(path) for path in pictures],
            "unsure": round(float((doubt > 0.5).mean()), 4),
            "roughness_told": round(float((told > 0.5).mean()), 4),
            "depth": round(done.depth, 5),
            "mirrors": round(done.surface.mirrors, 4),
            "moved": [
                {
                    "right": round(one.right, 3),
                    "down": round(one.down, 3),
                    "turn": round(one.turn, 4),
                }
                for one in done.surface.placements
            ],
            "ball": done.ball and asdict(done.ball),
            "lamps": [
                {
                    "around": round(one.around, 2),
                    "up": round(one.up, 2),
                    "distance": one.distance and round(one.distance, 3),
                    "strength": round(one.strength, 4),
                }
                for one in done.surface.lamps
            ],
            "left_out": [str(arguments.pictures[n]) for n in done.surface.left_out],
            "remarks": list(done.surface.remarks),
        }
        print(json.dumps(figures, indent=2))
    else:
        for path in pictures:
            print(path)
    return 0


def _ball(word: str | None) -> Ball | Literal["find"] | None:
    if word is None or word == "find":
        return "find" if word else None
    parts = word.split(":")
    kind = parts.pop() if parts[-1] in ("white", "shiny") else "white"
    try:
        x, y, radius = (float(part) for part in parts)
    except ValueError:
        raise ParameterError(
            f"--ball {word}: say find, or X:Y:RADIUS in texels from the upper left corner, and "
            ":shiny for one that mirrors the lamp"
        ) from None
    if not radius > 0:
        raise ParameterError(f"--ball {word}: its radius is more than 0 texels")
    return Ball(x, y, radius, "shiny" if kind == "shiny" else "white")


def _ring(word: str) -> float | None:
    """Degrees above the surface of lamps in a ring, if that is what is said of them."""
    if not word.startswith("ring"):
        return None
    try:
        up = float(word.removeprefix("ring:"))
    except ValueError:
        up = 0.0
    if not 5 <= up <= 85:
        raise ParameterError(
            f"--lamps {word}: say ring:UP, with the degrees above the surface, 5 to 85, at which "
            "the lamp was carried around"
        )
    return up


def _lamp(word: str) -> Lamp:
    try:
        numbers = [float(part) for part in word.split(":")]
        around, up, *distance = numbers
    except ValueError:
        numbers = []
    if len(numbers) not in (2, 3):
        raise ParameterError(
            f"--lamps {word}: say AROUND:UP in degrees, such as 45:50, or AROUND:UP:DISTANCE with "
            "the distance in widths of the picture"
        )
    if distance and not distance[0] > 0:
        raise ParameterError(f"--lamps {word}: a lamp is more than 0 widths away")
    return Lamp.at(around, up, distance[0] if distance else None)
