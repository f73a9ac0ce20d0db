"""Height from one picture: delighting, band weights, degraining."""

from __future__ import annotations

from collections.abc import Mapping
from typing import Any

import numpy as np
from numba import njit, prange
from numpy.typing import NDArray

from copper_sieve.core.image import array_pool
from copper_sieve.core.image.encoding import luminance
from copper_sieve.core.image.map_kind import MapKind
from copper_sieve.core.image.parallel import parallel_map
from copper_sieve.core.image.raster import Float
from copper_sieve.core.image.wrap import Wrap
from copper_sieve.core.operations.declaration import Inputs, Parameter, SurfaceContext, operation
from copper_sieve.core.operations.height.calm_grain import calm_grain
from copper_sieve.core.operations.height.height_finish import (
    HEIGHT_FINISH,
    HEIGHT_SLOTS,
    finish_height,
)
from copper_sieve.core.operations.numerics.memo import memoized
from copper_sieve.core.operations.numerics.spectrum import (
    filter_directed,
    filter_spectrum,
    filter_transformed,
    gaussian_response,
    transform,
)

_ROWS = 256  # values per vectorized logarithm
_FLAT = 1e-6  # smaller ranges count as flat
_SPREAD = 3.0  # standard deviations that fill half of the range at contrast 1
_SHADING_SIDE = 512  # texels of the picture for which the regularisation was chosen
_BANDS = (
    # Half of the broad dark areas are stains, not cavities.
    ("very_coarse", "Very coarse", 0.7, "forms larger than about 1/10 of the tile"),
    ("coarse", "Coarse", 1.0, "forms of about 1/30 of the tile"),
    ("medium", "Medium", 1.0, "forms of about 1/100 of the tile"),
    ("fine", "Fine", 1.0, "forms finer than medium"),
)
# Inputs of the relief before scaling, blending and limiting.
_SHAPING = (
    "delight", "lighting_scale", "shading", "light_direction", "detail", "degrain",
    *(b[0] for b in _BANDS),
)  # fmt: skip
_SPLITS = (0.03, 0.01, 0.003)  # sigma, fractions of the tile, between one band and the next


@operation(
    "height_from_color",
    version=4,
    title="Based on luminance",
    output=MapKind.HEIGHT,
    inputs=(MapKind.BASE_COLOR,),
    surface_reads=("wrap",),
    parameters=(
        Parameter(
            "delight", "Delight", 1.0, "share of the uneven lighting that is removed",
            group="Light",
        ),
        Parameter(
            "lighting_scale", "Lighting scale", 0.06,
            "brightness changes over larger distances count as lighting",
            low=0.02, high=0.25, unit="tile", group="Light",
        ),
        Parameter(
            "shading", "Shading", 0.0,
            "share of the relief that is read from lit and shaded sides; for directional "
                "light",
            group="Light",
        ),
        Parameter("light_direction", "Light direction", 135.0, "azimuth of the light in the photo, "
                                                          "in degrees; 0 is right, 90 is top",
                  high=360.0, unit="deg", group="Light"),
        Parameter(
            "detail", "Fine detail", 0.6, "0 keeps low frequencies only; 1 keeps all bands equally",
            group="Relief",
        ),
        Parameter(
            "degrain", "Degrain", 0.5,
            "share of fine grain without a larger form around it that is treated as color, "
                "not relief",
            group="Relief",
        ),
        Parameter(
            "contrast", "Contrast", 1.0, "spread of the heights around the mean",
            high=3.0, group="Relief",
        ),
        Parameter(
            "invert", "Invert", False, "dark is high instead of low", group="Relief",
            form="switch"
        ),
        *(
            Parameter(name, label, weight, f"weight of {meaning}", high=2.0, group="Bands")
            for name, label, weight, meaning in _BANDS
        ),
        *HEIGHT_FINISH,
    ),
    slots=HEIGHT_SLOTS, default=True,
)  # fmt: skip
def height_from_color(
    inputs: Inputs, parameters: Mapping[str, Any], surface: SurfaceContext
) -> Float:
    """Derive a height map from a color picture.

    Log luminance, with low frequencies (Gaussian of sigma `light_scale`) reduced by `evenness`,
    each frequency weighted by wavelength^(1 - detail) and by the weight of its band, scaled around
    0.5. With `shading`, partly the field whose slope toward the light matches the luminance. With
    `calm`, detail finer than 0.003 of the tile is reduced where the next coarser band is weak:
    joints and fibers are present in both bands, grain in the finer one only.

    Parameters
    ----------
    inputs : base_color (H, W, 3) float32, linear light

    Returns
    -------
    (H, W, 1) float32, [0, 1]
    """
    color = inputs[MapKind.BASE_COLOR]
    shaping = {name: parameters[name] for name in _SHAPING}
    relief, spread = memoized(
        "height_from_color", color, (*shaping.values(), surface.wrap),
        lambda: _relief(color, shaping, surface.wrap),
    )  # fmt: skip
    if spread < _FLAT:
        height = np.full(relief.shape, 0.5, dtype=np.float32)
    else:
        sign = -1.0 if parameters["invert"] else 1.0
        scale = np.float32(sign * parameters["contrast"] / (2 * _SPREAD * spread))
        height = np.multiply(relief, scale, out=array_pool.empty(*relief.shape))
        height += np.float32(0.5)
    return finish_height(height, inputs, parameters, surface)


def _log_light(color: Float) -> Float:
    light = luminance(color)

    def piece(first: int) -> None:
        rows = light[first : first + _ROWS]
        rows += np.float32(0.01)
        np.log(rows, out=rows)

    parallel_map(piece, range(0, len(light), _ROWS))
    return light


def _relief(color: Float, parameters: Mapping[str, Any], wrap: Wrap) -> tuple[Float, float]:
    """Return the relief around 0, and its standard deviation."""
    evenness, detail = parameters["delight"], parameters["detail"]
    lighting = gaussian_response(parameters["lighting_scale"])

    def response(frequency: Float) -> Float:
        weight = np.maximum(frequency, 1) ** np.float32(-(1 - detail))
        weight *= 1 - evenness * lighting(frequency)
        weight *= _bands(frequency, parameters)
        weight[frequency < 0.25] = 0  # no mean: the middle of the range is that of the relief
        return weight

    spectrum = memoized(
        "height_from_color.spectrum", color, wrap, lambda: transform(_log_light(color), wrap=wrap)
    )
    relief = filter_transformed(spectrum, color.shape[:2], response, wrap=wrap)
    share = parameters["shading"]
    if share and (spread := _spread(relief)) >= _FLAT:
        lit = _from_shading(_log_light(color), parameters["light_direction"], wrap)
        # Slopes contain little information about low frequencies; integration would drift.
        lit = filter_spectrum(
            lit,
            lambda f: _bands(f, parameters) * (1 - evenness * lighting(f)) * (f >= 0.25),
            wrap=wrap,
        )
        relief *= np.float32((1 - share) / spread)
        relief += lit * np.float32(share / max(_spread(lit), _FLAT))
    if parameters["degrain"]:
        calm_grain(relief, parameters["degrain"], wrap)
    return relief, _spread(relief)


def _spread(field: Float) -> float:
    """Return the standard deviation of a field of mean zero."""
    return float(np.sqrt(_power_of_rows(field).mean()))


@njit(parallel=True, cache=True, nogil=True, error_model="numpy")
def _power_of_rows(field: Float) -> NDArray[np.float64]:
    # Row by row, so that the sum does not depend on how many threads there are.
    out = np.empty(field.shape[0], dtype=np.float64)
    for r in prange(field.shape[0]):
        power = 0.0
        for c in range(field.shape[1]):
            power += np.float64(field[r, c]) * np.float64(field[r, c])
        out[r] = power / field.shape[1]
    return out


def _bands(frequency: Float, parameters: Mapping[str, Any]) -> Float:
    """Return the weights of the bands; with all weights at 1, they sum to 1 at every frequency."""
    weights = [parameters[name] for name, *_ in _BANDS]
    total = np.full_like(frequency, weights[-1])
    for split, coarser, finer in zip(_SPLITS, weights, weights[1:], strict=False):
        total += np.float32(coarser - finer) * gaussian_response(split)(frequency)
    return total


def _from_shading(light: Float, azimuth: float, wrap: Wrap) -> Float:
    """Return the relief whose slope toward the light explains the picture best (linear shading)."""
    across = np.float32(np.cos(np.radians(azimuth)) * 2 * np.pi / _SHADING_SIDE)
    down = np.float32(-np.sin(np.radians(azimuth)) * 2 * np.pi / _SHADING_SIDE)
    radian = np.float32(2 * np.pi / _SHADING_SIDE)

    def response(fx: Float, fy: Float) -> NDArray[np.complex64]:
        d = fx * across + fy * down
        size = (fx * fx + fy * fy) * (radian * radian)
        return np.asarray(1j * d / (d * d + 0.02 * size + 2e-4), dtype=np.complex64)

    return filter_directed(light, response, wrap=wrap)
