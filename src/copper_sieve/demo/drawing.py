"""Drawing functions of the demo: tileable noise, cells, and codes from linear light."""

from __future__ import annotations

from dataclasses import dataclass
from typing import Any

import numpy as np
import scipy  # its parts are loaded when they are used
from numpy.typing import NDArray

from copper_sieve.core.image.encoding import linear_to_srgb, quantize
from copper_sieve.core.image.raster import Codes, Encoding, Float, Picture


def grid(size: int) -> tuple[Float, Float]:
    """Return row and column coordinates of a picture, 0 to 1."""
    y, x = np.mgrid[0:size, 0:size].astype(np.float32) / size
    return y, x


def tiling_noise(rng: np.random.Generator, size: int, cycles: float, slope: float = 1.6) -> Float:
    """Return tileable noise, about -1 to 1.

    cycles : per picture width; the spectrum falls off above
    slope : exponent of the falloff
    """
    spectrum = np.fft.rfft2(rng.standard_normal((size, size)))
    f = np.hypot(np.fft.fftfreq(size, 1 / size)[:, None], np.fft.rfftfreq(size, 1 / size)[None])
    spectrum *= 1 / (1 + (f / cycles) ** (2 * slope))
    spectrum[0, 0] = 0
    field = np.fft.irfft2(spectrum, s=(size, size))
    return np.asarray(field / (2.5 * field.std()), dtype=np.float32)


@dataclass(frozen=True, slots=True)
class Cells:
    """Voronoi cells of scattered points on a torus: (size, size) each.

    nearest : index of the cell
    first, second : distance to its point and to the next one, in picture widths
    """

    nearest: NDArray[np.int64]
    first: Float
    second: Float


def cells(rng: np.random.Generator, size: int, count: int, *, even: bool = True) -> Cells:
    """Return the Voronoi cells of `count` points; with `even`, points keep their distance."""
    if even:
        side = int(np.sqrt(count))
        corners = np.stack(np.meshgrid(np.arange(side), np.arange(side)), axis=-1).reshape(-1, 2)
        points = ((corners + 0.5 + rng.uniform(-0.42, 0.42, corners.shape)) / side) % 1
    else:
        points = rng.random((count, 2))
    y, x = grid(size)
    tree = scipy.spatial.cKDTree(points, boxsize=1)
    distance, index = tree.query(np.stack([x, y], axis=-1).reshape(-1, 2), k=2, workers=-1)
    shape = (size, size)
    return Cells(
        index[:, 0].reshape(shape),
        distance[:, 0].reshape(shape).astype(np.float32),
        distance[:, 1].reshape(shape).astype(np.float32),
    )


def mix(a: Float, b: Float, share: NDArray[Any]) -> Float:
    """Blend two colors with a share of (H, W)."""
    t = np.clip(share, 0, 1)[:, :, None]
    return np.asarray(a * (1 - t) + b * t, dtype=np.float32)


def rgb(*values: float) -> Float:
    """Return a color in linear light."""
    return np.array(values, dtype=np.float32)


def color_picture(light: Float) -> Picture:
    """Encode linear light (H, W, 3) as 8-bit sRGB codes."""
    codes = quantize(linear_to_srgb(np.clip(light, 0, 1)), 8)
    return Picture(codes, ("R", "G", "B"), Encoding.SRGB)


def data_picture(*channels: Float) -> Picture:
    """Encode one or three data channels (H, W) as 8-bit codes, without a curve."""
    names = ("Y",) if len(channels) == 1 else ("R", "G", "B")
    codes: Codes = quantize(np.clip(np.stack(channels, axis=2), 0, 1), 8)
    return Picture(codes, names, Encoding.LINEAR)
