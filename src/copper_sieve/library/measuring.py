"""Measure the maps of a surface from pictures under different lights (photometric stereo)."""

from __future__ import annotations

from collections.abc import Mapping, Sequence
from dataclasses import dataclass, replace
from pathlib import Path
from typing import Literal

import numpy as np

from copper_sieve.core.errors import MeasureError, ParameterError
from copper_sieve.core.graph.measured import capture_stack_of
from copper_sieve.core.image.map_kind import MapKind, Meaning, NormalY
from copper_sieve.core.image.raster import Float, Picture, Raster
from copper_sieve.core.ingest.light_captures import ReadCapture, calibrated_captures
from copper_sieve.core.measuring.ball import Ball
from copper_sieve.core.measuring.light_directions import Lamp
from copper_sieve.core.measuring.measure import MeasuredSurface as Measured
from copper_sieve.core.measuring.measure import measure_stack
from copper_sieve.core.models.light_captures import CapturesSpec
from copper_sieve.core.operations import OPERATIONS
from copper_sieve.core.operations.declaration import SurfaceContext
from copper_sieve.library.arguments import normal_y_of
from copper_sieve.library.deriving import raster_to_picture
from copper_sieve.library.exposures import exposures
from copper_sieve.library.pictures import read_picture

_DEEP = {"normal", "height"}


@dataclass(frozen=True, slots=True)
class MeasuredMaps:
    """Measured maps and figures.

    Attributes
    ----------
    surface : measured values; see `MeasuredSurface`
    height : (H, W, 1) float32, [0, 1], integrated from the normals
    depth : difference between height 0 and 1, in picture widths
    normal_y : green direction of normal maps
    ball : ball that determined the lights, or None
    """

    surface: Measured
    height: Float
    depth: float
    normal_y: NormalY = NormalY.UP
    ball: Ball | None = None

    @property
    def names(self) -> tuple[str, ...]:
        """Names of the maps."""
        return ("base_color", "normal", "roughness", "height", "uncertainty")

    def picture(self, name: str, bits: int | None = None) -> Picture:
        """Return one map as the codes of a file.

        Parameters
        ----------
        name : str, name of the map; see `names`
        bits : {8, 16}, optional, bits per channel. Default: 16 for normals and heights, else 8

        Returns
        -------
        Picture
            Codes (H, W, C): colors sRGB-encoded, everything else linear.

        Raises
        ------
        ParameterError : if there is no such map
        """
        held = {
            "base_color": Raster(np.clip(self.surface.color, 0, 1), Meaning.COLOR),
            "normal": Raster(self.surface.normal, Meaning.NORMAL),
            "roughness": Raster(self.surface.roughness, Meaning.DATA),
            "height": Raster(self.height, Meaning.DATA),
            "uncertainty": Raster(self.surface.uncertainty, Meaning.DATA),
        }
        if name not in held:
            raise ParameterError(f"{name} wasn't measured. Available: {', '.join(held)}")
        depth = bits or (16 if name in _DEEP else 8)
        return raster_to_picture(held[name], depth, False, self.normal_y)


def measure(
    pictures: Sequence[Path | str],
    lights: Sequence[Lamp] | Literal["unknown"] = (),
    *,
    ring: float | None = None,
    distant: bool = False,
    ball: Ball | Literal["find"] | None = None,
    white: float = 1.0,
    normal_y: NormalY | str = NormalY.UP,
    static_camera: bool = False,
    flat_field: Path | str | None = None,
) -> MeasuredMaps:
    """Measure a surface from pictures of one camera under different lights.

    Exposure times are read from the files if all of them state one (Exif).

    Parameters
    ----------
    pictures : sequence of Path or str, files of one size, sRGB-encoded or linear floating point
    lights : sequence of Lamp or "unknown", light of each picture, in the order of the pictures;
        "unknown" estimates them. Not needed with a ball
    ring : float, optional, common elevation of unknown lights, in degrees
    distant : bool, treat lights without a stated distance as distant. Default: estimate the
        distance
    ball : Ball or "find", optional, white or mirror ball in all pictures, or "find" to locate it
    white : float, linear value of a white surface directly below a light of intensity 1, > 0
    normal_y : NormalY or {"up", "down"}, green direction of exported normals
    static_camera : bool, skip the alignment of the pictures
    flat_field : Path or str, optional, picture of evenly lit plain paper, which corrects vignetting

    Returns
    -------
    MeasuredMaps

    Raises
    ------
    PictureError : if a file can't be read
    MeasureError : if the arguments contradict each other, or the pictures can't be measured
    """
    uncalibrated, green = lights == "unknown", normal_y_of(normal_y)
    known = _stated(len(pictures), lights, ring, ball)
    paths = [Path(one) for one in pictures]
    stops = exposures(paths)
    taken = {
        f"{n:064x}": ReadCapture(f"{n:064x}", read_picture(path), stop)
        for n, (path, stop) in enumerate(zip(paths, stops or [0.0] * len(paths), strict=True))
    }
    plain = None
    if flat_field is not None:
        plain = ReadCapture("f" * 64, read_picture(flat_field), name=Path(flat_field).name)
    captures = calibrated_captures(
        list(taken.values()), lamps=known, ball=ball, uncalibrated=uncalibrated, elevation=ring,
        distant=distant, static_camera=static_camera, white=white, flat_field=plain,
    )  # fmt: skip
    found, where = _measured(captures, taken, plain)
    found = replace(found, remarks=(*found.remarks, *_exposure_remarks(stops)))
    height, depth = _height(found.normal)
    return MeasuredMaps(found, height, depth, green, where)


def _exposure_remarks(stops: Sequence[float] | None) -> list[str]:
    """Return a remark if the files state different exposures."""
    if not stops or not any(stops):
        return []
    wide = max(stops) - min(stops)
    return [
        f"the files state exposures that differ by {wide:.1f} stops; the difference is compensated"
    ]


def _stated(
    pictures: int,
    lights: Sequence[Lamp] | Literal["unknown"],
    ring: float | None,
    ball: Ball | Literal["find"] | None,
) -> Sequence[Lamp]:
    """Return the stated lights. Raises MeasureError if the arguments contradict each other."""
    uncalibrated = lights == "unknown"
    known: Sequence[Lamp] = () if isinstance(lights, str) else lights
    if ball is None and not uncalibrated and pictures != len(known):
        raise MeasureError(
            f"{pictures} pictures but {len(known)} lights. Give one light per picture, "
            "in the same order"
        )
    if ring is not None and not uncalibrated:
        raise MeasureError('ring requires unknown lights. Add lights="unknown"')
    if ball is not None and lights:
        raise MeasureError("give either lights or a ball, not both")
    return known


def _measured(
    captures: CapturesSpec, taken: Mapping[str, ReadCapture], flat_field: ReadCapture | None
) -> tuple[Measured, Ball | None]:
    """Return the measurement of analyzed pictures, and the ball in pixels."""
    size = taken[captures.captures[0].source].picture.size
    ball = captures.ball.ball(size[0]) if captures.ball else None
    all_taken = {**taken, **({flat_field.sha256: flat_field} if flat_field else {})}
    stack = capture_stack_of(captures, size, {}, lambda sha: all_taken[sha].picture)
    surface = measure_stack(stack, ball)
    return replace(
        surface, remarks=(*captures.all_remarks, *surface.remarks),
        placements=tuple(one.placement.placement(size[0]) for one in captures.captures),
        lamps=tuple(one.lamp.lamp() for one in captures.used),
        left_out=tuple(n for n, one in enumerate(captures.captures) if not one.used),
    ), ball  # fmt: skip


def _height(normal: Float) -> tuple[Float, float]:
    operation = OPERATIONS["height_from_normal"]
    surface = SurfaceContext(tile_size=1.0, depth=0.0)
    height = operation.compute({MapKind.NORMAL: normal}, operation.resolve({}), surface)
    # Its depth: the scale with which its slopes are those of the normals, by least squares.
    level = height[:, :, 0].astype(np.float64)
    down, across = np.gradient(level, 1 / normal.shape[1])
    z = np.maximum(normal[:, :, 2], 0.1)
    slopes = -normal[:, :, 0] / z, normal[:, :, 1] / z
    own = float((across * across + down * down).sum())
    depth = float((across * slopes[0] + down * slopes[1]).sum()) / own if own > 0 else 0.0
    return height, max(depth, 0.0)
