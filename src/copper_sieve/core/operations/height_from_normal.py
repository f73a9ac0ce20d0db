"""Height from normals: the field whose central differences fit the slopes best."""

from __future__ import annotations

from collections.abc import Mapping
from typing import Any

import numpy as np
from numba import njit, prange
from scipy import fft

from copper_sieve.core.image import buffers
from copper_sieve.core.image.map_kind import MapKind
from copper_sieve.core.image.raster import Float
from copper_sieve.core.operations.declaration import Inputs, Parameter, Surface, operation
from copper_sieve.core.operations.height_finish import HEIGHT_FINISH, HEIGHT_SLOTS, finish_height

_STEEPEST = np.float32(1e-3)  # smallest z that still gives a slope
_EMPTY = 1e-7  # a smaller denominator carries no information


@operation(
    "height_from_normal",
    version=3,
    title="From the normals, integrated",
    output=MapKind.HEIGHT,
    inputs=(MapKind.NORMAL,),
    surface_reads=("tile_size", "depth", "wrap"),
    parameters=(
        Parameter(
            "fit", "Full range", True,
            "lowest point 0, highest 1; otherwise by the surface's depth about the middle",
            group="Fit",
        ),
        Parameter("invert", "Inside out", False, "bumps become dents", group="Fit"),
        *HEIGHT_FINISH,
    ),
    slots=HEIGHT_SLOTS,
)  # fmt: skip
def height_from_normal(inputs: Inputs, parameters: Mapping[str, Any], surface: Surface) -> Float:
    """Integrate tangent-space normals to a height map.

    Least squares for the central difference operator D, whose eigenvalues are i s, s = sin(w):
    H = -i (sx P + sy Q) / (sx^2 + sy^2). The numerator is the transform of the adjoint of D on the
    slopes, so one transform does for both. On a picture whose borders end, the same in the cosine
    transform of a field that reflects there (Neumann).

    inputs : normal (H, W, 3) float32, unit vectors, Y up. Returns (H, W, 1) float32, [0, 1].

    References: Frankot and Chellappa, A Method for Enforcing Integrability in Shape from Shading
    Algorithms, 1988, with the discrete operator.
    """
    normal = np.ascontiguousarray(inputs[MapKind.NORMAL])
    fall = buffers.empty(*normal.shape[:2])
    _parting_slopes(normal, surface.wrap, fall)
    height = _integrate(fall, surface.wrap)
    if parameters["invert"]:
        height = -height
    if parameters["fit"]:
        height -= height.min()
        spread = height.max()
        height = height / spread if spread > 1e-9 else np.full_like(height, 0.5)
    else:
        texel = surface.tile_size / height.shape[1]
        height = height * np.float32(texel / max(surface.depth, 1e-9)) + np.float32(0.5)
    return finish_height(height, inputs, parameters, surface)


@njit(cache=True, nogil=True, error_model="numpy", inline="always")
def _slope(part: np.float32, z: np.float32) -> np.float32:
    return part / max(z, _STEEPEST)


@njit(parallel=True, cache=True, nogil=True, error_model="numpy")
def _parting_slopes(normal: Float, wrap: bool, out: Float) -> None:
    """The adjoint of central differences on the slopes p = dh/dx, q = dh/dr: less their divergence.

    Beyond the border lies the other side of a tile, or the slopes mirrored with the other sign,
    which is what the adjoint of differences of a reflected height is.
    """
    rows, columns, _ = normal.shape
    half = np.float32(0.5)
    for r in prange(rows):
        above = r - 1 if r > 0 else (rows - 1 if wrap else 0)
        below = r + 1 if r < rows - 1 else (0 if wrap else rows - 1)
        # q = y / z; mirrored at an open border.
        up = half if r > 0 or wrap else -half
        down = half if r < rows - 1 or wrap else -half
        across = np.empty(columns + 2, dtype=np.float32)  # p = -x / z
        for c in range(columns):
            across[c + 1] = -_slope(normal[r, c, 0], normal[r, c, 2])
        across[0] = across[columns] if wrap else -across[1]
        across[columns + 1] = across[1] if wrap else -across[columns]
        for c in range(columns):
            before = _slope(normal[above, c, 1], normal[above, c, 2]) * up
            after = _slope(normal[below, c, 1], normal[below, c, 2]) * down
            out[r, c] = (across[c] - across[c + 2]) * half + before - after


def _integrate(parting: Float, wrap: bool) -> Float:
    rows, columns = parting.shape
    if wrap:
        sx = np.sin(2 * np.pi * fft.rfftfreq(columns)).astype(np.float32)
        sy = np.sin(2 * np.pi * fft.fftfreq(rows)).astype(np.float32)
        spectrum = fft.rfft2(parting, workers=-1)
    else:
        sx = np.sin(np.pi * np.arange(columns) / columns).astype(np.float32)
        sy = np.sin(np.pi * np.arange(rows) / rows).astype(np.float32)
        spectrum = fft.dctn(parting, workers=-1, overwrite_x=True)
    # On very large pictures the lowest frequency itself falls under the usual limit.
    lowest = min((np.sin(np.pi / max(size, 2)) ** 2) / 2 for size in (sx.size, sy.size))
    _divide(spectrum, sx * sx, sy * sy, np.float32(min(_EMPTY, float(lowest))))
    if wrap:
        return np.asarray(fft.irfft2(spectrum, s=parting.shape, workers=-1, overwrite_x=True))
    return np.asarray(fft.idctn(spectrum, workers=-1, overwrite_x=True))


@njit(parallel=True, cache=True, nogil=True, error_model="numpy")
def _divide(spectrum: Float, across: Float, down: Float, empty: np.float32) -> None:
    for r in prange(len(down)):
        for c in range(len(across)):
            below = across[c] + down[r]
            spectrum[r, c] *= np.float32(1) / below if below >= empty else np.float32(0)
