"""The three built-in environments of the lit view, generated from formulas.

`python -m copper_sieve.demo.environments FOLDER` writes them as Radiance HDR files; those in
`web/public/environments` were created this way, and a test compares them.
"""

from __future__ import annotations

import sys
from pathlib import Path

import cv2
import numpy as np

from copper_sieve.core.image.raster import Float

WIDTH, HEIGHT = 256, 128


def _directions() -> tuple[Float, Float, Float]:
    """Return the unit vector of every equirectangular texel: x right, y up, z front."""
    v, u = np.mgrid[0:HEIGHT, 0:WIDTH].astype(np.float32)
    around = (u + 0.5) / WIDTH * 2 * np.pi - np.pi
    up = np.pi / 2 - (v + 0.5) / HEIGHT * np.pi
    return np.cos(up) * np.sin(around), np.sin(up), np.cos(up) * np.cos(around)


def _spot(toward: tuple[float, float, float], width: float) -> Float:
    """Return 1 in a direction, with a falloff over `width` (radians)."""
    x, y, z = _directions()
    unit = np.array(toward) / np.linalg.norm(toward)
    angle = np.arccos(np.clip(x * unit[0] + y * unit[1] + z * unit[2], -1, 1))
    return np.asarray(np.exp(-((angle / width) ** 2)), dtype=np.float32)


def _paint(*parts: tuple[Float, tuple[float, float, float]]) -> Float:
    whole = sum(amount[:, :, None] * np.array(color, np.float32) for amount, color in parts)
    return np.maximum(np.asarray(whole, dtype=np.float32), 0)


def _floor(y: Float) -> Float:
    """Return the light from the ground: full near the horizon, half of it straight down."""
    return np.asarray(0.5 + 0.5 * np.exp(-((y / 0.45) ** 2)), dtype=np.float32)


def soft() -> Float:
    """Draw an overcast yard: a wide pale sky, brighter overhead, a floor of warm gravel."""
    _, y, _ = _directions()
    sky = np.clip(y * 4 + 0.5, 0, 1)
    return _paint(
        (sky * (0.55 + 0.5 * np.clip(y, 0, 1)), (0.96, 0.99, 1.05)),
        ((1 - sky) * _floor(y) * 0.34, (1.05, 0.99, 0.9)),
        (_spot((-0.5, 1.0, 0.6), 0.9), (0.45, 0.45, 0.45)),
    )


def hard() -> Float:
    """Draw a court at noon: a small strong sun, deep sky, a pale wall opposite."""
    x, y, z = _directions()
    sky = np.clip(y * 6 + 0.5, 0, 1)
    wall = np.clip(1 - np.abs(y - 0.05) * 3, 0, 1) * np.clip(x * 1.4, 0, 1) * np.clip(z + 1, 0, 1)
    return _paint(
        (sky * (0.25 + 0.2 * np.clip(1 - y, 0, 1)), (0.75, 0.95, 1.3)),
        ((1 - sky) * _floor(y) * (0.85 + 0.45 * x), (0.46, 0.42, 0.36)),
        (_spot((0.55, -0.45, 0.7), 0.42), (0.5, 0.45, 0.37)),  # where the sun lies on the stones
        (_spot((-0.7, -0.35, 0.6), 0.35), (-0.1, -0.09, -0.07)),  # and the shadow of the eaves
        (wall, (0.6, 0.56, 0.5)),
        (_spot((-0.62, 0.66, 0.5), 0.055), (160.0, 150.0, 132.0)),
        (_spot((-0.62, 0.66, 0.5), 0.3), (1.4, 1.3, 1.15)),
    )


def dark() -> Float:
    """Draw a room at night: dark except for one paper lamp and a cool window."""
    _, y, _ = _directions()
    return _paint(
        (0.02 + 0.008 * y, (1.0, 0.95, 0.9)),
        (_spot((-0.8, 0.35, 0.55), 0.2), (7.5, 5.0, 2.8)),
        (_spot((0.85, 0.25, -0.45), 0.16), (0.5, 0.75, 1.2)),
    )


def dusk() -> Float:
    """Draw the row at dusk: a low red sun, a violet sky, a string of paper lanterns opposite."""
    _, y, _ = _directions()
    sky = np.clip(y * 5 + 0.5, 0, 1)
    lanterns = [(_spot((-0.9 + 0.3 * n, 0.28, -0.75), 0.09), (6.0, 3.2, 1.2)) for n in range(7)]
    return _paint(
        (sky * (0.18 + 0.25 * np.clip(1 - y, 0, 1)), (0.75, 0.6, 0.95)),
        ((1 - sky) * _floor(y) * 0.22, (0.9, 0.62, 0.5)),
        (_spot((0.75, 0.16, 0.6), 0.5), (1.3, 0.5, 0.2)),
        (_spot((0.75, 0.16, 0.6), 0.06), (90.0, 40.0, 16.0)),
        *lanterns,
    )


SURROUNDINGS = {"soft": soft, "hard": hard, "dark": dark}


def main(folder: Path) -> None:
    """Write all environments."""
    folder.mkdir(parents=True, exist_ok=True)
    for name, draw in SURROUNDINGS.items():
        cv2.imwrite(str(folder / f"{name}.hdr"), draw()[:, :, ::-1])


if __name__ == "__main__":
    main(Path(sys.argv[1]))
