"""Errors of surfaces measured with one handheld light near the surface.

For each kind of synthetic surface, with distances that vary by 15 %: error of the normals in
degrees if the light is treated as distant, if its direction is known, if it is 5 degrees wrong
and refined, and if it is estimated; relative error of the estimated distance; and seconds of both
estimations.
"""

from __future__ import annotations

import time

import numpy as np

from copper_sieve.core.image.raster import Float
from copper_sieve.core.measuring.calibration import CalibrationOptions, calibrate
from copper_sieve.core.measuring.light_directions import Lamp
from copper_sieve.core.measuring.measure import measure_stack
from copper_sieve.core.measuring.near_light import FitOptions, fit_lights
from copper_sieve.core.measuring.stack import Capture, CaptureStack
from copper_sieve.demo import lamp_pictures as drawn

QUICK = (48, 2.0, 1)

_CARRIED = 0.15  # of the distance
_WRONG = (5.0, 4.0)  # degrees around and up, one sigma


def carried(widths: float) -> list[Lamp]:
    """One lamp, stronger where it is nearer."""
    away = widths * np.random.default_rng(5).uniform(1 - _CARRIED, 1 + _CARRIED, 8)
    return [
        Lamp(one.direction, float(d), float((widths / d) ** 2))
        for one, d in zip(drawn.ring_of_lamps(8), away, strict=True)
    ]


def row(kind: str, side: int, widths: float) -> str:
    """Of one drawn kind."""
    rng = np.random.default_rng(7)
    true, lamps = drawn.SURFACES[kind](side, rng), carried(widths)
    pictures, exposure = drawn.pictures_of(true, lamps, rng, whole_colors=kind == "painted")

    def off(captures: list[Capture]) -> str:
        return (
            f"{_angle(measure_stack(CaptureStack(captures, exposure)).normal, true.normal):7.2f}°"
        )

    said = [Capture(one, Lamp(a.direction)) for one, a in zip(pictures, lamps, strict=True)]
    told, first = _looked(said, CalibrationOptions(), exposure)
    wrong = np.random.default_rng(3).normal(0, 1, (8, 2)) * _WRONG
    about = [
        Capture(one, Lamp.at(a.azimuth + w[0], a.elevation + w[1]))
        for one, a, w in zip(pictures, lamps, wrong, strict=True)
    ]
    guessed, last = _looked(
        [Capture(one) for one in pictures], CalibrationOptions(uncalibrated=True), exposure
    )
    distance = [
        abs((a.lamp.distance or np.inf) / (b.distance or np.inf) - 1)
        for a, b in zip(told, lamps, strict=True)
    ]
    each = (off(said), off(told), off(fit_lights(about, FitOptions(exposure))), off(guessed))
    return f"{kind:10}{''.join(each)}{max(distance):9.1%}{first:7.1f}{last:7.1f}"


def _looked(
    captures: list[Capture], asked: CalibrationOptions, exposure: float
) -> tuple[list[Capture], float]:
    start = time.perf_counter()
    found = calibrate(captures, asked, white=exposure, static_camera=True)
    return list(found.captures), time.perf_counter() - start


def _angle(one: Float, other: Float) -> float:
    return float(np.degrees(np.arccos(np.clip((one * other).sum(-1), -1, 1))).mean())


def main(side: int = 256, widths: float = 2.0, kinds: int = 8) -> None:
    """Print a row for each of the first kinds of surface."""
    print(
        f"{'':10}{'distant':>9}{'known':>9}{'refined':>9}{'estimated':>9}{'distance':>9}"
        f"{'s':>7}{'s':>7}"
    )
    for kind in list(drawn.SURFACES)[:kinds]:
        print(row(kind, side, widths), flush=True)
