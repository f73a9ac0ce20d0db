"""Ambient occlusion from height: horizons in several directions, cosine weighted."""

from __future__ import annotations

from collections.abc import Mapping
from typing import Any

import cv2
import numpy as np
from numba import njit, prange
from numpy.typing import NDArray

from copper_sieve.core.image.map_kind import MapKind
from copper_sieve.core.image.raster import Float
from copper_sieve.core.operations.declaration import Parameter, Surface, operation

_STEP_RATIO = 1.2
_AZIMUTHS = {"draft": 6, "good": 8, "best": 16}


@operation(
    "ambient_occlusion_from_height",
    version=1,
    title="From the height's horizons",
    output=MapKind.AMBIENT_OCCLUSION,
    inputs=(MapKind.HEIGHT,),
    surface_reads=("tile_size", "depth", "wrap"),
    parameters=(
        Parameter(
            "radius", "Reach", 0.05, "how far occluders are looked for",
            low=0.002, high=0.25, unit="tile", group="Shade",
        ),
        Parameter(
            "intensity", "Intensity", 1.0, "1 is physical; the exponent of the visibility",
            high=4.0, group="Shade",
        ),
        Parameter(
            "quality", "Quality", "good", "number of directions looked in",
            choices=tuple(_AZIMUTHS), group="Shade",
        ),
    ),
)  # fmt: skip
def ambient_occlusion_from_height(
    inputs: Mapping[MapKind, Float], parameters: Mapping[str, Any], surface: Surface
) -> Float:
    """Derive the visibility of the upper hemisphere, cosine weighted, from a height map.

    With slopes in texel per texel, gradient (gx, gr), nz = 1 / sqrt(1 + |g|^2), N azimuths and
    t = gx cos + gr sin, u = max(t, horizon slope), c = 1 / (1 + u^2):
    AO = nz / N * sum(c - t (arccot u - u c)). Horizons are found at log-spaced steps over a
    pyramid that mixes mean and maximum.

    inputs : height (H, W, 1) float32, [0, 1]. Returns (H, W, 1) float32, [0, 1], 1 = open.
    """
    height = inputs[MapKind.HEIGHT][:, :, 0]
    columns = height.shape[1]
    scaled = height * np.float32(surface.depth * columns / surface.tile_size)
    reach = max(1.0, parameters["radius"] * columns)
    steps = np.exp(np.arange(0, np.log(reach) + 1e-9, np.log(_STEP_RATIO))).astype(np.float32)
    levels = np.maximum(np.floor(np.log2(steps)).astype(np.int64) - 1, 0)
    border = int(np.ceil(reach)) + 2
    atlas, offsets, shapes, levels = _pyramid(scaled, levels, border, surface.wrap)
    azimuths = _AZIMUTHS[parameters["quality"]]
    angles = 2 * np.pi * (np.arange(azimuths) + 0.5) / azimuths
    directions = np.stack([np.cos(angles), np.sin(angles)], axis=1).astype(np.float32)
    field = np.ascontiguousarray(scaled)
    shade = _horizons(
        field, atlas, offsets, shapes, levels, steps, directions, border, surface.wrap
    )
    np.power(shade, np.float32(parameters["intensity"]), out=shade)
    return shade[:, :, None]


def _pyramid(
    field: Float, levels: NDArray[np.int64], border: int, wrap: bool
) -> tuple[Float, NDArray[np.int64], NDArray[np.int64], NDArray[np.int64]]:
    """Levels of half size each, half mean and half maximum, flat in one array.

    The field is padded by `border` texels first, so that no step ever leaves a level.
    """
    size = 1 << int(levels.max())
    rows, columns = field.shape
    more = (-(rows + 2 * border) % size, -(columns + 2 * border) % size)
    mean = highest = np.pad(
        field,
        ((border, border + more[0]), (border, border + more[1])),
        mode="wrap" if wrap else "symmetric",
    )
    pyramid = [mean]
    for _ in range(int(levels.max())):
        rows, columns = mean.shape[0] // 2, mean.shape[1] // 2
        highest = highest.reshape(rows, 2, columns, 2).max(axis=(1, 3))
        mean = np.asarray(
            cv2.resize(mean, (columns, rows), interpolation=cv2.INTER_AREA), np.float32
        )
        pyramid.append(((mean + highest) / 2).astype(np.float32))
    shapes = np.array([level.shape for level in pyramid], dtype=np.int64)
    offsets = np.concatenate([[0], np.cumsum(shapes.prod(axis=1))[:-1]]).astype(np.int64)
    return np.concatenate([level.ravel() for level in pyramid]), offsets, shapes, levels


@njit(parallel=True, cache=True, nogil=True, error_model="numpy", fastmath={"contract", "nsz"})
def _horizons(  # noqa: PLR0917
    field: Float,
    atlas: Float,
    offsets: NDArray[np.int64],
    shapes: NDArray[np.int64],
    levels: NDArray[np.int64],
    steps: Float,
    directions: Float,
    border: int,
    wrap: bool,
) -> Float:
    rows, columns = field.shape
    out = np.empty((rows, columns), dtype=np.float32)
    one = np.float32(1)
    half = np.float32(0.5)
    for r in prange(rows):
        gx = np.empty(columns, dtype=np.float32)
        gr = np.empty(columns, dtype=np.float32)
        along = np.empty(columns, dtype=np.float32)
        highest = np.empty(columns, dtype=np.float32)
        total = np.zeros(columns, dtype=np.float32)
        here = field[r]
        above = r - 1 if r > 0 else (rows - 1 if wrap else 0)
        below = r + 1 if r < rows - 1 else (0 if wrap else rows - 1)
        for c in range(columns):
            left = c - 1 if c > 0 else (columns - 1 if wrap else 0)
            right = c + 1 if c < columns - 1 else (0 if wrap else columns - 1)
            gx[c] = (here[right] - here[left]) * half
            gr[c] = (field[below, c] - field[above, c]) * half
        for k in range(len(directions)):
            for c in range(columns):
                along[c] = gx[c] * directions[k, 0] + gr[c] * directions[k, 1]
                highest[c] = along[c]
            for i in range(len(steps)):
                level = levels[i]
                y = int(np.floor(r + half + steps[i] * directions[k, 1])) + border
                x = int(np.floor(half + steps[i] * directions[k, 0])) + border
                start = offsets[level] + (y >> level) * shapes[level, 1]
                scan = atlas[start : start + shapes[level, 1]]
                inverse = one / steps[i]
                if level == 0:
                    near = scan[x : x + columns]
                    for c in range(columns):
                        highest[c] = max(highest[c], (near[c] - here[c]) * inverse)
                else:
                    for c in range(columns):
                        slope = (scan[(c + x) >> level] - here[c]) * inverse
                        highest[c] = max(highest[c], slope)
            for c in range(columns):
                t = along[c]
                u = highest[c]
                share = one / (one + u * u)
                total[c] += share - t * (np.float32(np.pi / 2) - np.arctan(u) - u * share)
        for c in range(columns):
            steep = np.sqrt(one + gx[c] * gx[c] + gr[c] * gr[c])
            visible = total[c] / (np.float32(len(directions)) * steep)
            out[r, c] = min(max(visible, np.float32(0)), one)
    return out
