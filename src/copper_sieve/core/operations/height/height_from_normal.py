"""Height from normals: least-squares integration of five-point differences."""

from __future__ import annotations

from collections.abc import Mapping
from typing import Any

import numpy as np
from numba import njit, prange
from numpy.typing import NDArray

from copper_sieve.core.image import array_pool
from copper_sieve.core.image.map_kind import MapKind
from copper_sieve.core.image.raster import Float
from copper_sieve.core.image.wrap import Wrap
from copper_sieve.core.operations.declaration import Inputs, Parameter, SurfaceContext, operation
from copper_sieve.core.operations.height.height_finish import (
    HEIGHT_FINISH,
    HEIGHT_SLOTS,
    finish_height,
)
from copper_sieve.core.operations.numerics.spectrum import frequencies, transform, transform_back

_STEEPEST = np.float32(19.08)  # tan 87 degrees: steeper texels are damage, not relief
_NEAR, _FAR = np.float32(8 / 12), np.float32(-1 / 12)  # of the five-point kernel
_EMPTY = 1e-7  # a smaller denominator carries no information
# Cycles per texel between which the height fades out: finite differences hardly respond to finer
# detail, and dividing by that response would amplify noise to a texel grid.
_FADE = (0.36, 0.46)


@operation(
    "height_from_normal",
    version=4,
    title="Integrated from normals",
    output=MapKind.HEIGHT,
    inputs=(MapKind.NORMAL,),
    surface_reads=("tile_size", "depth", "wrap"),
    parameters=(
        Parameter(
            "full_range", "Full range", True,
            "scales the lowest point to 0 and the highest to 1; off: uses the surface's "
                "depth around the mid-level",
            group="Fit", form="switch"
        ),
        Parameter(
            "flatten", "Flatten", True,
            "removes the overall slope; always on for tileable surfaces",
            group="Fit", form="switch"
        ),
        Parameter("invert", "Invert", False, "raised becomes recessed", group="Fit", form="switch"),
        *HEIGHT_FINISH,
    ),
    slots=HEIGHT_SLOTS, default=True,
)  # fmt: skip
def height_from_normal(
    inputs: Inputs, parameters: Mapping[str, Any], surface: SurfaceContext
) -> Float:
    """Integrate tangent-space normals to a height map.

    Least squares for the five-point difference operator D of `normal_from_height`, with the
    eigenvalues i s, s = (8 sin w - sin 2w) / 6: H = -i (sx P + sy Q) / (sx^2 + sy^2), faded out
    toward Nyquist. The numerator is the transform of the adjoint of D applied to the slopes, so
    one transform is sufficient for both. Across borders that don't tile, the cosine transform of
    the mirrored field is used (Neumann). Without `fit`, a surface of unknown depth (0) is scaled as
    with it, centered at 0.5.

    Parameters
    ----------
    inputs : normal (H, W, 3) float32, unit vectors, Y up

    Returns
    -------
    (H, W, 1) float32, [0, 1]

    References
    ----------
    R. Frankot and R. Chellappa, A Method for Enforcing Integrability in Shape from Shading
    Algorithms, 1988, with the discrete operator.
    """
    normal = np.ascontiguousarray(inputs[MapKind.NORMAL])
    wrap = surface.wrap
    mean = _mean_slope(normal)
    level = bool(parameters["flatten"])
    lean = mean * np.array([level or wrap.across, level or wrap.down], dtype=np.float32)
    fall = array_pool.empty(*normal.shape[:2])
    _parting_slopes(normal, lean, wrap.across, wrap.down, fall)
    height = _integrate(fall, wrap)
    if parameters["invert"]:
        height = -height
    if parameters["full_range"]:
        height -= height.min()
        spread = height.max()
        height = height / spread if spread > 1e-9 else np.full_like(height, 0.5)
    else:
        texel = surface.tile_size / height.shape[1]
        depth = surface.depth or float(2 * max(height.max(), -height.min(), 1e-9)) * texel
        height = height * np.float32(texel / max(depth, 1e-9)) + np.float32(0.5)
    return finish_height(height, inputs, parameters, surface)


@njit(cache=True, nogil=True, error_model="numpy", inline="always")
def _slope(part: np.float32, other: np.float32, z: np.float32) -> np.float32:
    """Return part / z; the total slope is limited to _STEEPEST in its direction."""
    least = np.sqrt(part * part + other * other) / _STEEPEST
    z = max(z, least)
    return part / z if z > np.float32(0) else np.float32(0)


@njit(parallel=True, cache=True, nogil=True, error_model="numpy")
def _sum_of_rows(normal: Float, out: NDArray[np.float64]) -> None:
    for r in prange(normal.shape[0]):
        across, down = np.float64(0), np.float64(0)
        for c in range(normal.shape[1]):
            x, y, z = normal[r, c, 0], normal[r, c, 1], normal[r, c, 2]
            across -= _slope(x, y, z)
            down += _slope(y, x, z)
        out[r, 0], out[r, 1] = across, down


def _mean_slope(normal: Float) -> Float:
    """Return the mean slope of the picture, across and down, (2,) float32."""
    rows, columns, _ = normal.shape
    sums = np.empty((rows, 2), dtype=np.float64)
    _sum_of_rows(normal, sums)
    return np.asarray(sums.sum(axis=0) / (rows * columns), dtype=np.float32)


@njit(parallel=True, cache=True, nogil=True, error_model="numpy")
def _parting_slopes(normal: Float, lean: Float, across: bool, down: bool, out: Float) -> None:
    """Apply the adjoint of five-point differences to the slopes p = dh/dx, q = dh/dr without mean.

    Beyond a border are the wrapped slopes of a tile, or the mirrored slopes with inverted sign,
    which is the adjoint for a mirrored height.
    """
    rows, columns, _ = normal.shape
    for r in prange(rows):
        p = np.empty(columns + 4, dtype=np.float32)
        for c in range(columns):
            p[c + 2] = -_slope(normal[r, c, 0], normal[r, c, 1], normal[r, c, 2]) - lean[0]
        for k in range(2):
            if across:
                p[1 - k] = p[2 + (columns - 1 - k) % columns]
                p[columns + 2 + k] = p[2 + k % columns]
            else:
                p[1 - k] = -p[2 + min(k, columns - 1)]
                p[columns + 2 + k] = -p[2 + max(columns - 1 - k, 0)]
        for c in range(columns):
            out[r, c] = (p[c + 1] - p[c + 3]) * _NEAR + (p[c] - p[c + 4]) * _FAR
        for k in (-2, -1, 1, 2):
            weight = (_NEAR if abs(k) == 1 else _FAR) * np.float32(-1 if k > 0 else 1)
            at = r + k
            if down:
                at %= rows
            elif at < 0:
                at, weight = min(-1 - at, rows - 1), -weight
            elif at >= rows:
                at, weight = max(2 * rows - 1 - at, 0), -weight
            for c in range(columns):
                q = _slope(normal[at, c, 1], normal[at, c, 0], normal[at, c, 2]) - lean[1]
                out[r, c] += q * weight


def _integrate(parting: Float, wrap: Wrap) -> Float:
    fx, fy = frequencies(parting.shape, wrap=wrap)
    spectrum = transform(parting, wrap=wrap)
    # On very large pictures the lowest frequency itself falls under the usual limit.
    lowest = min((np.pi / max(size, 2)) ** 2 / 2 for size in parting.shape)
    limit = np.float32(min(_EMPTY, lowest))
    _divide(spectrum, _seen(fx), _seen(fy), _faded(fx), _faded(fy), limit)
    return transform_back(spectrum, parting.shape, wrap=wrap)


def _seen(frequency: Float) -> Float:
    """Return the squared response of five-point differences at a frequency in cycles per texel."""
    w = 2 * np.pi * frequency.astype(np.float64)
    return np.asarray(((8 * np.sin(w) - np.sin(2 * w)) / 6) ** 2, dtype=np.float32)


def _faded(frequency: Float) -> Float:
    share = np.clip((_FADE[1] - np.abs(frequency)) / (_FADE[1] - _FADE[0]), 0, 1)
    return np.asarray(share * share * (3 - 2 * share), dtype=np.float32)


@njit(parallel=True, cache=True, nogil=True, error_model="numpy")
def _divide(  # noqa: PLR0917
    spectrum: Float, across: Float, down: Float, fade_x: Float, fade_y: Float, empty: np.float32
) -> None:
    for r in prange(len(down)):
        for c in range(len(across)):
            below = across[c] + down[r]
            share = min(fade_x[c], fade_y[r])
            spectrum[r, c] *= share / below if below >= empty else np.float32(0)
