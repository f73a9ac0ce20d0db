"""Light of a picture, and whether several lights are sufficient for a measurement."""

from __future__ import annotations

from collections.abc import Sequence
from dataclasses import dataclass, replace

import numpy as np

from copper_sieve.core.errors import MeasureError
from copper_sieve.core.image.raster import Float

FEWEST = 3  # lights: two leave the slope between them open
MOST = 64
_NARROWEST = 0.12  # the least singular value of the directions, over the root of their number
_WIDEST_GAP = 185.0  # degrees around without a light: beyond, one side was never lit


@dataclass(frozen=True, slots=True)
class Lamp:
    """The light of one capture.

    direction : from the image center toward the light, x right, y up, z toward the camera; any
    length
    distance : of a near light, in image widths; None for a distant light, whose direction is
    constant
    intensity : linear radiance of a white surface that faces the light, directly below it
    """

    direction: tuple[float, float, float]
    distance: float | None = None
    intensity: float = 1.0

    @classmethod
    def at(
        cls, azimuth: float, elevation: float, distance: float | None = None, intensity: float = 1.0
    ) -> Lamp:
        """Create a light from angles.

        Parameters
        ----------
        azimuth : degrees, counterclockwise from the right
        elevation : degrees above the surface
        distance : picture widths; None: distant
        intensity : relative to the other lights
        """
        a, u = np.radians(azimuth), np.radians(elevation)
        direction = (float(np.cos(u) * np.cos(a)), float(np.cos(u) * np.sin(a)), float(np.sin(u)))
        return cls(direction, distance, intensity)

    def turned(self, degrees: float) -> Lamp:
        """Return the light relative to a camera that was rotated clockwise by this angle."""
        c, s = float(np.cos(np.radians(degrees))), float(np.sin(np.radians(degrees)))
        x, y, z = self.direction
        return replace(self, direction=(c * x - s * y, s * x + c * y, z))

    @property
    def unit(self) -> Float:
        """(3,) float64, the direction at length 1."""
        towards = np.array(self.direction, dtype=np.float64)
        return np.asarray(towards / np.linalg.norm(towards))

    def ways(self, places: Float) -> tuple[Float, Float]:
        """Return direction and relative squared distance of the light from places.

        Parameters
        ----------
        places : (h, w, 3), picture widths from the center, y up

        Returns
        -------
        (h, w, 3) unit vectors; (h, w, 1) squared distance divided by that from the center
        """
        unit = self.unit.astype(np.float32)
        if self.distance is None:
            one = np.ones((*places.shape[:-1], 1), np.float32)
            return np.broadcast_to(unit, places.shape), one
        way = unit - np.asarray(places, np.float32) / np.float32(self.distance)
        square = (way * way).sum(-1, keepdims=True)
        return np.asarray(way / np.sqrt(square)), np.asarray(square)

    @property
    def azimuth(self) -> float:
        """Degrees from the right over the top, [0, 360)."""
        x, y, _ = self.unit
        return float(np.degrees(np.arctan2(y, x)) % 360)

    @property
    def elevation(self) -> float:
        """Degrees above the surface."""
        return float(np.degrees(np.arcsin(np.clip(self.unit[2], -1, 1))))


def check_lamps(lamps: Sequence[Lamp]) -> None:
    """Check that there are enough lights, from enough sides.

    Raises
    ------
    MeasureError : with a remedy
    """
    if len(lamps) < FEWEST:
        raise MeasureError(
            f"{len(lamps)} light captures are too few. Take at least {FEWEST}, preferably "
            "eight, with a different light direction each time"
        )
    if len(lamps) > MOST:
        raise MeasureError(
            f"{len(lamps)} light captures are more than the limit. Use {MOST} with light "
            "directions from all sides"
        )
    for n, lamp in enumerate(lamps):
        if lamp.elevation <= 0:
            raise MeasureError(
                f"the light of picture {n + 1} is below the surface (elevation "
                f"{lamp.elevation:.0f}°). Correct the light direction"
            )
    towards = np.stack([lamp.unit for lamp in lamps])
    least = np.linalg.svd(towards, compute_uv=False)[-1] / np.sqrt(len(lamps))
    if least < _NARROWEST:
        raise MeasureError(
            "all lights come from almost the same side or are on one line, so slopes across "
            "it can't be measured. Move the light around the surface, at about 45° "
            "elevation"
        )


def widest_gap(lamps: Sequence[Lamp]) -> float:
    """Return the largest difference of adjacent azimuths in degrees."""
    azimuth = np.sort([lamp.azimuth for lamp in lamps])
    return float(np.diff(azimuth, append=azimuth[0] + 360).max())


def one_sided_slopes(lamps: Sequence[Lamp]) -> bool:
    """Return True if some slopes are in shadow under all lights, and less certain therefore."""
    return widest_gap(lamps) > _WIDEST_GAP
