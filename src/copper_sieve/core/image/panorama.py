"""Environments as equirectangular panoramas, up at the top.

Column u of width W has the direction (cos a, sin a) in x and z with a = 2 pi (u / W - 1/2), row v
of height H has the elevation pi (1/2 - v / H): the center of the picture is +x, y is up.
"""

from __future__ import annotations

import cv2
import numpy as np

from copper_sieve.core.errors import ShapeError
from copper_sieve.core.image.raster import Float

_LAMP = 0.06  # radians about which light is gathered to find the brightest place
_PROBE = 256  # texels across in which it is looked for
_NOT_TWICE = 0.02  # so much a picture may differ from twice as wide as tall
_NOT_SQUARE = 0.02


def directions(width: int, height: int) -> Float:
    """Return the directions of the texel centers of a panorama: (height, width, 3) unit vectors."""
    around = ((np.arange(width) + 0.5) / width - 0.5) * 2 * np.pi
    up = (0.5 - (np.arange(height) + 0.5) / height) * np.pi
    flat = np.cos(up)[:, None]
    found = np.stack(
        [flat * np.cos(around), np.broadcast_to(np.sin(up)[:, None], (height, width)),
         flat * np.sin(around)], axis=2,
    )  # fmt: skip
    return np.ascontiguousarray(found, dtype=np.float32)


def check_panorama(width: int, height: int) -> None:
    """Raise ShapeError if a picture isn't twice as wide as high."""
    if abs(width / max(height, 1) / 2 - 1) > _NOT_TWICE:
        raise ShapeError(
            f"the picture has {width} x {height} texels. A 360° panorama must be twice as "
            "wide as high; a mirror-ball photo must be square, cropped to the ball"
        )


def from_mirror_ball(ball: Float, width: int = 1024) -> Float:
    """Convert a photo of a mirror ball to an equirectangular panorama (Debevec 1998).

    The region directly behind the ball isn't visible; it is extrapolated from the rim.

    Parameters
    ----------
    ball : (H, H, 3) float32, linear light, cropped to the ball, seen from a distance along -z
    width : texels

    Returns
    -------
    (width / 2, width, 3) float32, linear light

    Raises
    ------
    ShapeError : if the photo isn't square
    """
    height, across = ball.shape[:2]
    if abs(across / max(height, 1) - 1) > _NOT_SQUARE:
        raise ShapeError(
            f"the picture has {across} x {height} texels. Crop the photo to the ball, so "
            "that it is square"
        )
    toward = directions(width, width // 2)
    # The mirror's normal lies halfway between where it looks and the eye, which is at +z.
    halfway = toward + np.array([0, 0, 1], dtype=np.float32)
    length = np.linalg.norm(halfway, axis=2, keepdims=True)
    normal = halfway / np.maximum(length, 1e-4)
    x = (normal[:, :, 0] * 0.5 + 0.5) * across - 0.5
    y = (0.5 - normal[:, :, 1] * 0.5) * height - 0.5
    return np.asarray(
        cv2.remap(ball, x, y, cv2.INTER_LINEAR, borderMode=cv2.BORDER_REPLICATE), dtype=np.float32
    )


def brightest_direction(light: Float) -> tuple[tuple[float, float, float], float, float]:
    """Return the direction of the brightest light in a panorama.

    Parameters
    ----------
    light : (H, W, 3) float32, linear light; texels are weighted by their solid angle

    Returns
    -------
    unit vector, its luminance divided by the mean, mean luminance
    """
    height = _PROBE // 2
    small = cv2.resize(light, (_PROBE, height), interpolation=cv2.INTER_AREA)
    seen = small @ np.array([0.2126, 0.7152, 0.0722], dtype=np.float32)
    toward = directions(_PROBE, height)
    weight = np.sqrt(np.maximum(1 - toward[:, :, 1] ** 2, 1e-6))  # of a row, by its length
    spread = _LAMP / (2 * np.pi) * _PROBE
    wrapped = np.pad(seen * weight, ((0, 0), (32, 32)), mode="wrap")
    gathered = cv2.GaussianBlur(wrapped, (0, 0), spread)[:, 32:-32]
    r, c = np.unravel_index(int(gathered.argmax()), gathered.shape)
    mean = float((seen * weight).sum() / weight.sum())
    x, y, z = (float(v) for v in toward[r, c])
    return (x, y, z), float(seen[r, c] / max(mean, 1e-9)), mean
