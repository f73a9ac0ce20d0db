"""./sieve measure: measure a surface from photos with different light directions."""

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
from copper_sieve.core.measuring.light_directions import Lamp
from copper_sieve.core.models.naming import slug
from copper_sieve.library.measuring import measure


def run(arguments: argparse.Namespace) -> int:
    """Measure the surface and write {name}_{map}.png; either all files are written or none."""
    if not arguments.white > 0:
        raise ParameterError(f"--white-level {arguments.white:g}: must be greater than 0")
    if (arguments.lamps is None) == (arguments.ball is None):
        raise ParameterError("measure requires --lights or --ball; see sieve measure --help")
    lamps: list[Lamp] | Literal["unknown"] = "unknown"
    ring = _ring(arguments.lamps or "")
    if ring is None and arguments.lamps != "unknown":
        lamps = [_lamp(word) for word in (arguments.lamps or "").split(",") if word]
    done = measure(
        arguments.pictures, lamps, ring=ring, distant=arguments.distant, ball=_ball(arguments.ball),
        white=arguments.white,
        normal_y=arguments.normal_y, static_camera=arguments.static_camera,
        flat_field=arguments.flat_field,
    )  # fmt: skip
    name = slug(arguments.name or arguments.pictures[0].stem)
    pictures: dict[Path, Picture] = {
        arguments.out / f"{name}_{one}.png": done.picture(one) for one in done.names
    }
    write_whole(pictures)
    options.print_remarks(done.surface.remarks)
    if arguments.json:
        uncertainty, confidence = done.surface.uncertainty, done.surface.confidence
        figures = {
            "files": [str(path) for path in pictures],
            "uncertain_share": round(float((uncertainty > 0.5).mean()), 4),
            "roughness_measured_share": round(float((confidence > 0.5).mean()), 4),
            "depth": round(done.depth, 5),
            "reflectance": round(done.surface.f0, 4),
            "placements": [
                {
                    "right": round(one.right, 3),
                    "down": round(one.down, 3),
                    "rotation": round(one.rotation, 4),
                }
                for one in done.surface.placements
            ],
            "ball": done.ball and asdict(done.ball),
            "lights": [
                {
                    "azimuth": round(one.azimuth, 2),
                    "elevation": round(one.elevation, 2),
                    "distance": one.distance and round(one.distance, 3),
                    "intensity": round(one.intensity, 4),
                }
                for one in done.surface.lamps
            ],
            "excluded": [str(arguments.pictures[n]) for n in done.surface.left_out],
            "remarks": list(done.surface.remarks),
        }
        print(json.dumps(figures, indent=2))
    else:
        for path in pictures:
            print(path)
    return 0


def _ball(word: str | None) -> Ball | Literal["find"] | None:
    if word is None:
        return None
    if word in ("auto", "find"):  # "find" and "shiny" are accepted from the previous version
        return "find"
    parts = word.split(":")
    kind = parts.pop() if parts[-1] in ("white", "mirror", "shiny") else "white"
    try:
        x, y, radius = (float(part) for part in parts)
    except ValueError:
        raise ParameterError(
            f'--ball {word}: give "auto", or X:Y:RADIUS in pixels from the upper left '
            "corner, with :mirror for a mirror ball"
        ) from None
    if not radius > 0:
        raise ParameterError(f"--ball {word}: the radius must be greater than 0 px")
    return Ball(x, y, radius, "white" if kind == "white" else "shiny")


def _ring(word: str) -> float | None:
    """Return the elevation in degrees of a ring of lights; None for anything else."""
    if not word.startswith("ring"):
        return None
    try:
        elevation = float(word.removeprefix("ring:"))
    except ValueError:
        elevation = 0.0
    if not 5 <= elevation <= 85:
        raise ParameterError(
            f"--lights {word}: give ring:ELEVATION with an elevation of 5 to 85 degrees"
        )
    return elevation


def _lamp(word: str) -> Lamp:
    try:
        numbers = [float(part) for part in word.split(":")]
        azimuth, elevation, *distance = numbers
    except ValueError:
        numbers = []
    if len(numbers) not in (2, 3):
        raise ParameterError(
            f"--lights {word}: give AZIMUTH:ELEVATION in degrees, such as 45:50, or "
            "AZIMUTH:ELEVATION:DISTANCE with the distance in picture widths"
        )
    if distance and not distance[0] > 0:
        raise ParameterError(f"--lights {word}: the distance must be greater than 0")
    return Lamp.at(azimuth, elevation, distance[0] if distance else None)
