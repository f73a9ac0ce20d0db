"""Base color from a photo: delighting, exposure and white balance, plausible range."""

from __future__ import annotations

from collections.abc import Mapping
from typing import Any

import numpy as np
from numba import njit, prange

from copper_sieve.core.image import array_pool
from copper_sieve.core.image.encoding import luminance
from copper_sieve.core.image.map_kind import MapKind
from copper_sieve.core.image.raster import Float
from copper_sieve.core.operations.color.color_key import colors_to_linear
from copper_sieve.core.operations.declaration import (
    Inputs,
    OperationInput,
    Parameter,
    SurfaceContext,
    operation,
)
from copper_sieve.core.operations.numerics.memo import memoized
from copper_sieve.core.operations.numerics.spectrum import blur

# Linear values of sRGB 30 and 240, the range of diffuse reflectance of real materials.
DARKEST, LIGHTEST = np.float32(0.01298), np.float32(0.87137)
DARKEST_LEFT = np.float32(0.7) * DARKEST  # sRGB 24: darker values keep a little contrast
_KNEE = np.float32(0.25)  # share of the range over which the limit fades in


@operation(
    "base_color_from_photo",
    version=2,
    title="Delighted photo",
    output=MapKind.BASE_COLOR,
    inputs=(),
    surface_reads=("wrap",),
    slots=(
        OperationInput("photo", "Photo", "the original picture", takes=MapKind.BASE_COLOR,
             required=True, group="Lighting removed"),
    ),
    parameters=(
        Parameter("delight", "Delight", 0.8, "share of the uneven lighting that is removed",
                  group="Lighting removed"),
        Parameter("lighting_scale", "Lighting scale", 0.08,
                  "brightness changes over larger distances count as lighting",
                  low=0.02, high=0.25, unit="tile", group="Lighting removed"),
        Parameter("crevices", "Crevices", 0.3, "share of the darkness in small cavities that "
                                               "is removed",
                  group="Lighting removed"),
        Parameter("highlights", "Highlights", 0.3,
        "share of small bright reflections that is removed",
                  group="Lighting removed"),
        Parameter("feature_size", "Crevice and highlight size", 0.01,
            "size of crevices and highlights", low=0.002,
                  high=0.05, unit="tile", group="Lighting removed"),
        Parameter("exposure", "Exposure", 0.0, "in stops; above 0 is lighter", low=-3.0, high=3.0,
                  unit="stops", group="Exposure and white balance"),
        Parameter("warmth", "Warmth", 0.0, "below 0 is bluer, above 0 is yellower", low=-1.0,
                  group="Exposure and white balance"),
        Parameter("gray_point", "Gray point", "", "picked color that should be neutral gray",
        most=1,
                  group="Exposure and white balance", form="colors"),
        Parameter("saturation", "Saturation", 1.0, "0 is gray, 1 is unchanged", high=2.0,
                  group="Exposure and white balance"),
        Parameter(
            "plausible_range", "Plausible range", True,
            "limits values that no real surface has to sRGB 24–240", group="Range",
            form="switch",
        ),
    ),
)  # fmt: skip
def base_color_from_photo(
    inputs: Inputs, parameters: Mapping[str, Any], surface: SurfaceContext
) -> Float:
    """Derive diffuse reflectance from a photo.

    In log luminance: low frequencies above `light_scale` (Gaussian) are reduced by `evenness`
    toward their mean; areas darker than their neighborhood of size `hollow` are reduced by
    `crevices`, lighter ones by `glints`. Hue and saturation are preserved. Then exposure, white
    balance and saturation are applied.

    Parameters
    ----------
    inputs : photo (H, W, 3) float32, linear light

    Returns
    -------
    (H, W, 3) float32, linear light
    """
    photo = inputs["photo"]
    light = memoized("base_color_from_photo.light", photo, None, lambda: _log_light(photo))

    def environment(size: str) -> Float:
        sigma = parameters[size]
        return memoized(
            f"base_color_from_photo.{size}", photo, (sigma, surface.wrap),
            lambda: blur(light, sigma, wrap=surface.wrap),
        )  # fmt: skip

    # A neighborhood with weight 0 isn't computed.
    large = environment("lighting_scale") if parameters["delight"] else light
    small = (
        environment("feature_size") if parameters["crevices"] or parameters["highlights"] else light
    )
    taken = (
        np.float32(parameters["delight"]), np.float32(large.mean(dtype=np.float64)),
        np.float32(parameters["crevices"]), np.float32(parameters["highlights"]),
    )  # fmt: skip
    out = array_pool.empty(*photo.shape)
    _finish(
        np.ascontiguousarray(photo), light, large, small, taken, _gains(parameters),
        np.float32(parameters["saturation"]), parameters["plausible_range"], out,
    )  # fmt: skip
    return out


def _log_light(photo: Float) -> Float:
    light = luminance(photo)
    light += np.float32(0.002)
    return np.log(light, out=light)


def _gains(parameters: Mapping[str, Any]) -> Float:
    gains = np.ones(3, dtype=np.float32)
    if parameters["gray_point"]:
        picked = np.maximum(colors_to_linear(parameters["gray_point"])[0], 1e-3)
        gains = luminance(picked) / picked
    warmth = np.float32(parameters["warmth"])
    gains = gains * np.array([1 + 0.3 * warmth, 1, 1 - 0.3 * warmth], dtype=np.float32)
    gains = gains / luminance(gains)  # warmer is not lighter
    return np.asarray(gains * 2 ** np.float32(parameters["exposure"]), dtype=np.float32)


@njit(parallel=True, cache=True, nogil=True, error_model="numpy")
def _finish(  # noqa: PLR0917
    photo: Float,
    light: Float,
    large: Float,
    small: Float,
    taken: tuple[np.float32, np.float32, np.float32, np.float32],
    gains: Float,
    saturation: np.float32,
    limit: bool,
    out: Float,
) -> None:
    evenness, mean, crevices, glints = taken
    rows, columns, _ = photo.shape
    low, high = DARKEST, LIGHTEST
    span = (high - low) * _KNEE
    for r in prange(rows):
        for c in range(columns):
            above = light[r, c] - small[r, c]
            local = above * (crevices if above < 0 else glints)
            scale = np.exp(-evenness * (large[r, c] - mean) - local)
            red = photo[r, c, 0] * scale * gains[0]
            green = photo[r, c, 1] * scale * gains[1]
            blue = photo[r, c, 2] * scale * gains[2]
            grey = np.float32(0.2126) * red + np.float32(0.7152) * green
            grey += np.float32(0.0722) * blue
            red = max(grey + (red - grey) * saturation, np.float32(0))
            green = max(grey + (green - grey) * saturation, np.float32(0))
            blue = max(grey + (blue - grey) * saturation, np.float32(0))
            if limit and grey > 0:
                # The luminance is eased into the range; the color keeps its proportions.
                eased = grey
                if grey > high - span:
                    over = (grey - (high - span)) / span
                    eased = high - span + span * over / (np.float32(1) + over)
                elif grey < low:
                    eased = DARKEST_LEFT + np.float32(0.3) * grey
                share = eased / grey
                red, green, blue = red * share, green * share, blue * share
                top = max(red, green, blue)
                if top > 1:  # paler instead of cut off
                    share = (np.float32(1) - eased) / (top - eased)
                    red = eased + (red - eased) * share
                    green = eased + (green - eased) * share
                    blue = eased + (blue - eased) * share
            elif limit:  # black has no proportions to keep
                red = green = blue = DARKEST_LEFT
            out[r, c, 0], out[r, c, 1], out[r, c, 2] = red, green, blue
