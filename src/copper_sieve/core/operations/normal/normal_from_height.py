"""Normals from height: the physical slope with a choice of kernels, frequency bands, grain."""

from __future__ import annotations

from collections.abc import Mapping
from typing import Any

import numpy as np
from numba import njit, prange

from copper_sieve.core.image import array_pool
from copper_sieve.core.image.map_kind import MapKind
from copper_sieve.core.image.raster import Float
from copper_sieve.core.image.wrap import Wrap
from copper_sieve.core.operations.declaration import Inputs, Parameter, SurfaceContext, operation
from copper_sieve.core.operations.normal.blend_normals import NORMAL_MIX, NORMAL_SLOTS, mix_in
from copper_sieve.core.operations.numerics.spectrum import filter_spectrum, gaussian_response

# Weights of (h[+1] - h[-1]), of (h[+2] - h[-2]), and of the two neighboring lines.
_KERNELS = {
    "accurate": (8 / 12, -1 / 12, 0.0),  # five points, fourth order
    "central": (1 / 2, 0.0, 0.0),
    "scharr": (1 / 2, 0.0, 3 / 16),
    "sobel": (1 / 2, 0.0, 1 / 4),
}
_GRAIN_SEED = 20


@operation(
    "normal_from_height",
    version=3,
    title="Slope of the height",
    output=MapKind.NORMAL,
    inputs=(MapKind.HEIGHT,),
    surface_reads=("tile_size", "depth", "wrap"),
    parameters=(
        Parameter(
            "strength", "Intensity", 1.0, "factor on the physical slope (depth divided by width)",
            high=8.0, group="Relief",
        ),
        Parameter(
            "kernel", "Slope filter", "accurate",
            "accurate for clean relief; scharr and sobel for noisy relief",
            choices=tuple(_KERNELS), group="Relief", form="choice"
        ),
        Parameter("invert", "Invert", False, "raised becomes recessed", group="Relief",
                  form="switch"),
        Parameter(
            "high_frequency", "High frequency", 1.0, "factor on relief smaller than the split",
            high=2.0, group="Frequencies",
        ),
        Parameter(
            "low_frequency", "Low frequency", 1.0, "factor on relief larger than the split",
            high=2.0, group="Frequencies",
        ),
        Parameter(
            "split", "Split", 0.01, "size that separates high and low frequencies",
            low=0.001, high=0.1, unit="tile", group="Frequencies",
        ),
        Parameter(
            "smoothing", "Smoothing", 0.0, "blur radius of the height before slopes are computed",
            high=0.02, unit="tile", group="Finish",
        ),
        Parameter(
            "grain", "Grain", 0.0, "random slope per texel, for pixel art; not resampled",
            high=0.2, group="Finish",
        ),
        *NORMAL_MIX,
    ),
    slots=NORMAL_SLOTS, default=True,
)  # fmt: skip
def normal_from_height(
    inputs: Inputs, parameters: Mapping[str, Any], surface: SurfaceContext
) -> Float:
    """Derive tangent-space normals from a height map.

    n is proportional to (-dh/dx, +dh/dr, 1), with h in meters, x to the right, rows r downward;
    wrapped or mirrored at the borders. Frequency bands and smoothing are applied to the height's
    spectrum first.

    Parameters
    ----------
    inputs : height (H, W, 1) float32, [0, 1]

    Returns
    -------
    (H, W, 3) float32, unit vectors, Y up
    """
    height = _filtered(inputs[MapKind.HEIGHT][:, :, 0], parameters, surface.wrap)
    factor = surface.depth * parameters["strength"] * height.shape[1] / surface.tile_size
    if parameters["invert"]:
        factor = -factor
    near, far, side = (np.float32(weight) for weight in _KERNELS[parameters["kernel"]])
    scale = np.float32(factor)
    field = np.ascontiguousarray(height)
    grain = np.zeros((0, 0, 2), dtype=np.float32)
    if parameters["grain"]:
        rng = np.random.default_rng(_GRAIN_SEED)
        grain = rng.standard_normal((*field.shape, 2), dtype=np.float32)
        grain *= np.float32(parameters["grain"])
    normal = array_pool.empty(*field.shape, 3)
    wrap = surface.wrap
    _normals(field, near * scale, far * scale, side, grain, wrap.across, wrap.down, normal)
    return mix_in(normal, inputs, parameters)


def _filtered(height: Float, parameters: Mapping[str, Any], wrap: Wrap) -> Float:
    crisp, soft = parameters["high_frequency"], parameters["low_frequency"]
    smoothing = parameters["smoothing"]
    if crisp == soft == 1 and not smoothing:
        return height
    below = gaussian_response(parameters["split"])
    smooth = gaussian_response(smoothing)

    def response(frequency: Float) -> Float:
        weight = below(frequency) * np.float32(soft - crisp) + np.float32(crisp)
        return weight * smooth(frequency) if smoothing else weight

    return filter_spectrum(height, response, wrap=wrap)


@njit(cache=True, nogil=True, error_model="numpy")
def _border(i: int, size: int, wrap: bool) -> int:
    """Return the index inside for an index outside: wrapped, or mirrored."""
    if wrap:
        return i % size
    i = i % (2 * size)
    return 2 * size - 1 - i if i >= size else i


@njit(parallel=True, cache=True, nogil=True, error_model="numpy")
def _normals(  # noqa: PLR0917
    height: Float,
    near: np.float32,
    far: np.float32,
    side: np.float32,
    grain: Float,
    across: bool,
    down: bool,
    out: Float,
) -> None:
    rows, columns = height.shape
    one = np.float32(1)
    middle = one - side - side
    for r in prange(rows):
        up1 = height[_border(r - 1, rows, down)]
        up2 = height[_border(r - 2, rows, down)]
        down1 = height[_border(r + 1, rows, down)]
        down2 = height[_border(r + 2, rows, down)]
        # For wide kernels: the line smoothed across rows, the rows' difference across columns.
        line = np.empty(columns + 4, dtype=np.float32)
        fall = np.empty(columns + 2, dtype=np.float32)
        for c in range(columns):
            line[c + 2] = height[r, c] * middle + (up1[c] + down1[c]) * side
            fall[c + 1] = (down1[c] - up1[c]) * near + (down2[c] - up2[c]) * far
        for k in range(2):
            left, right = _border(-1 - k, columns, across), _border(columns + k, columns, across)
            line[1 - k] = line[left + 2]
            line[columns + 2 + k] = line[right + 2]
        fall[0] = fall[_border(-1, columns, across) + 1]
        fall[columns + 1] = fall[_border(columns, columns, across) + 1]
        # Computed in separate buffers first, which vectorizes; interleaved afterwards.
        xs = np.empty(columns, dtype=np.float32)
        ys = np.empty(columns, dtype=np.float32)
        zs = np.empty(columns, dtype=np.float32)
        for c in range(columns):
            xs[c] = (line[c + 1] - line[c + 3]) * near + (line[c] - line[c + 4]) * far
            ys[c] = fall[c + 1] * middle + (fall[c] + fall[c + 2]) * side
        if grain.size:
            for c in range(columns):
                xs[c] += grain[r, c, 0]
                ys[c] += grain[r, c, 1]
        for c in range(columns):
            inverse = one / np.sqrt(xs[c] * xs[c] + ys[c] * ys[c] + one)
            xs[c] *= inverse
            ys[c] *= inverse
            zs[c] = inverse
        for c in range(columns):
            out[r, c, 0] = xs[c]
            out[r, c, 1] = ys[c]
            out[r, c, 2] = zs[c]
