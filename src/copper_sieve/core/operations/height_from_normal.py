"""Height from normals: the field whose central differences fit the slopes best."""

from __future__ import annotations

from collections.abc import Mapping
from typing import Any

import numpy as np
from scipy import fft

from copper_sieve.core.image.map_kind import MapKind
from copper_sieve.core.image.raster import Float
from copper_sieve.core.operations.declaration import Inputs, Parameter, Surface, operation
from copper_sieve.core.operations.height_finish import HEIGHT_FINISH, HEIGHT_SLOTS, finish_height

_STEEPEST = np.float32(1e-3)  # smallest z that still gives a slope
_EMPTY = 1e-7  # a smaller denominator carries no information


@operation(
    "height_from_normal",
    version=2,
    title="From the normals, integrated",
    output=MapKind.HEIGHT,
    inputs=(MapKind.NORMAL,),
    surface_reads=("tile_size", "depth", "wrap"),
    parameters=(
        Parameter(
            "fit", "Fill the range", True,
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

    Least squares in the spectrum of the central difference operator, s = sin(w):
    H = -i (sx P + sy Q) / (sx^2 + sy^2) on a tile; on a picture whose borders end, the same in
    the cosine and sine transforms of a field that reflects there (Neumann).

    inputs : normal (H, W, 3) float32, unit vectors, Y up. Returns (H, W, 1) float32, [0, 1].

    References: Frankot and Chellappa, A Method for Enforcing Integrability in Shape from Shading
    Algorithms, 1988, with the discrete operator.
    """
    normal = inputs[MapKind.NORMAL]
    z = np.maximum(normal[:, :, 2], _STEEPEST)
    p = np.asarray(-normal[:, :, 0] / z, np.float32)  # dh/dx, x to the right
    q = np.asarray(normal[:, :, 1] / z, np.float32)  # dh/dr, rows downwards
    height = _integrate_tile(p, q) if surface.wrap else _integrate_open(p, q)
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


def _divide(above: Float, sx: Float, sy: Float) -> Float:
    below = sx * sx + sy * sy
    # On very large pictures the lowest frequency itself falls under the usual limit.
    lowest = min((np.sin(np.pi / max(size, 2)) ** 2) / 2 for size in (sx.size, sy.size))
    empty = below < min(_EMPTY, float(lowest))
    result: Float = np.where(empty, 0, above / np.where(empty, 1, below))
    return result


def _integrate_tile(p: Float, q: Float) -> Float:
    rows, columns = p.shape
    sx = np.sin(2 * np.pi * fft.rfftfreq(columns)).astype(np.float32)[None, :]
    sy = np.sin(2 * np.pi * fft.fftfreq(rows)).astype(np.float32)[:, None]
    above = fft.rfft2(p, workers=-1) * sx + fft.rfft2(q, workers=-1) * sy
    spectrum = -1j * _divide(above, sx, sy)
    return np.asarray(fft.irfft2(spectrum, s=p.shape, workers=-1), dtype=np.float32)


def _integrate_open(p: Float, q: Float) -> Float:
    # The central difference of a cosine is -sin(w) times the sine of the same frequency, so the
    # slopes live in sine transforms along their own direction; index k there is frequency k + 1.
    rows, columns = p.shape
    sx = np.sin(np.pi * np.arange(columns) / columns).astype(np.float32)[None, :]
    sy = np.sin(np.pi * np.arange(rows) / rows).astype(np.float32)[:, None]
    across = fft.dct(fft.dst(p, axis=1, workers=-1), axis=0, workers=-1)
    down = fft.dct(fft.dst(q, axis=0, workers=-1), axis=1, workers=-1)
    above = np.zeros_like(p)
    above[:, 1:] -= across[:, :-1] * sx[:, 1:]
    above[1:] -= down[:-1] * sy[1:]
    return np.asarray(fft.idctn(_divide(above, sx, sy), workers=-1), dtype=np.float32)
