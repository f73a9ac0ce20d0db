"""Perceptual similarity of a color to picked ones; the base of every color key."""

from __future__ import annotations

from dataclasses import dataclass
from typing import Any

import numpy as np
from numba import njit, prange

from copper_sieve.core.image import array_pool
from copper_sieve.core.image.encoding import linear_to_srgb, srgb_to_linear
from copper_sieve.core.image.raster import Float
from copper_sieve.core.image.wrap import Wrap
from copper_sieve.core.operations.declaration import Parameter
from copper_sieve.core.operations.numerics.memo import memoized
from copper_sieve.core.operations.numerics.spectrum import blur

_CLEAR = 0.7  # of the way from half counted to counted or not, from which a texel is clear
_APART = 0.2  # two sides are measured as if they were that far apart
_CELL = 0.04  # of Oklab: colors in one cell of that size count as one
# From Oklab back to cone responses and to linear Rec. 709 light.
_LMS = np.array([[1, 0.3963377774, 0.2158037573], [1, -0.1055613458, -0.0638541728],
                 [1, -0.0894841775, -1.2914855480]])  # fmt: skip
_RGB = np.array([[4.0767416621, -3.3077115913, 0.2309699292],
                 [-1.2684380046, 2.6097574011, -0.3413193965],
                 [-0.0041960863, -0.7034186147, 1.7076147010]])  # fmt: skip

KEY_PARAMETERS = (
    Parameter(
        "colors", "Colors", "", "picked colors; similar colors are selected",
        group="Selection", form="colors"
    ),
    Parameter(
        "exclude", "Exclude", "",
        "picked colors that aren't selected; each texel is assigned to the closer color",
        group="Selection", form="colors"
    ),
    Parameter("tolerance", "Tolerance", 0.08,
              "largest difference that counts as the same color; with excluded colors, "
                  "texels that differ more from both are uncertain",
              high=0.5, group="Similarity"),
    Parameter("softness", "Softness", 0.05, "width of the fade beyond the tolerance",
              high=0.5, group="Similarity"),
    Parameter(
        "use_lightness", "Use lightness", 0.5,
        "1 compares lightness too; 0 compares hue and saturation only",
        group="Similarity",
    ),
    Parameter("denoise", "Denoise", 0.0,
              "size of grain that is averaged before comparing; edges stay sharp",
              high=0.01, unit="tile", group="Similarity"),
)  # fmt: skip


@dataclass(frozen=True, slots=True)
class KeyUncertainty:
    """Certainty of a color key.

    near, doubtful : shares of selected and of uncertain texels: half selected, or unlike all picked
        colors
    like : most frequent uncertain color, #rrggbb sRGB; None if nothing is uncertain
    """

    near: float
    uncertain: float
    like: str | None


def colors_to_linear(colors: str) -> Float:
    """Parse comma-separated #rrggbb colors to (N, 3) float32 linear light."""
    codes = [[int(one[i : i + 2], 16) for i in (1, 3, 5)] for one in colors.split(",") if one]
    return srgb_to_linear(np.array(codes, dtype=np.float32).reshape(-1, 3) / 255)


def key_similarity(
    color_linear: Float,
    colors: str,
    *,
    exclude: str,
    tolerance: float,
    softness: float,
    use_lightness: float,
    denoise: float,
    wrap: Wrap,
) -> Float:
    """Compute the similarity of each texel to picked colors (color key).

    The difference is the distance in Oklab with weighted lightness; black to white is 1. Without
    `exclude`, texels within `tolerance` of a picked color are 1 and fade to 0 over `softness`. With
    `exclude`, each texel belongs to the nearer side, with a fade over `softness` around the
    middle, where both sides are assumed to be 0.2 apart.

    Parameters
    ----------
    color_linear : (H, W, 3) float32, linear light
    colors : picked colors, comma-separated #rrggbb
    exclude : colors to exclude, likewise
    tolerance, softness : Oklab distances, >= 0
    use_lightness : weight of the lightness difference, [0, 1]
    denoise : standard deviation of a blur as a fraction of the tile, >= 0
    wrap : tiling directions

    Returns
    -------
    (H, W) float32, [0, 1]; 0 everywhere if no color is picked

    References
    ----------
    B. Ottosson, A perceptual color space for image processing, 2020.
    """
    if not colors:
        return np.zeros(color_linear.shape[:2], dtype=np.float32)
    margin = _margin(color_linear, colors, exclude, tolerance, use_lightness)
    if denoise > 0:
        margin = blur(margin, denoise, wrap=wrap)
    out = array_pool.empty(*margin.shape)
    # Beyond the tolerance where it stands alone, about the middle where there are two sides.
    _ease(margin, np.float32(max(softness, 1e-5)), np.float32(0.5 if exclude else 1), out)
    return out


def measure_key_uncertainty(
    color_linear: Float, colors: str, exclude: str, *, tolerance: float, softness: float,
    use_lightness: float,
) -> KeyUncertainty:  # fmt: skip
    """Measure how clearly a color key separates a picture.

    Parameters
    ----------
    color_linear : (H, W, 3) float32, linear light; a small picture is sufficient
    colors, exclude, tolerance, softness, use_lightness : see `key_similarity`

    Returns
    -------
    KeyUncertainty
    """
    if not colors:
        return KeyUncertainty(0.0, 0.0, None)
    margin = _margin(color_linear, colors, exclude, tolerance, use_lightness)
    half = softness / 2
    middle = 0.0 if exclude else -half
    uncertain = np.abs(margin - middle) < half * _CLEAR
    if exclude:
        nearest = np.maximum(
            _margin(color_linear, colors, "", tolerance, use_lightness),
            _margin(color_linear, exclude, "", tolerance, use_lightness),
        )
        uncertain |= nearest < -softness
    like = _commonest(_seen(color_linear)[uncertain]) if uncertain.any() else None
    return KeyUncertainty(float((margin > middle).mean()), float(uncertain.mean()), like)


def _margin(
    color_linear: Float, colors: str, exclude: str, tolerance: float, use_lightness: float
) -> Float:
    """Return the Oklab distance of each texel from the border of the selection; (H, W) float32.

    Between two sides it is a share of their distance, with lightness squared, because light and
    shade vary more over a surface than its colors.
    """
    seen, near, far = _seen(color_linear), _picked(colors), _picked(exclude)
    out = array_pool.empty(*color_linear.shape[:2])
    _margins(seen, near, far, np.float32(tolerance), np.float32(use_lightness), out)
    return out


def _picked(colors: str) -> Float:
    linear = colors_to_linear(colors)
    found = np.zeros((len(linear), 3), dtype=np.float32)
    for i, color in enumerate(linear):
        found[i] = _oklab(*(np.float32(v) for v in color))
    return found


def _commonest(seen: Float) -> str:
    """Return the mean of the Oklab colors (N, 3) in the fullest cell, as #rrggbb."""
    cells = np.floor(seen / np.float32(_CELL)).astype(np.int64)
    _, where, counts = np.unique(cells, axis=0, return_inverse=True, return_counts=True)
    mean = seen[where.reshape(-1) == counts.argmax()].mean(axis=0)
    cubed = (mean @ _LMS.T) ** 3
    codes = np.clip(np.round(linear_to_srgb(np.clip(cubed @ _RGB.T, 0, 1)) * 255), 0, 255)
    return "#" + "".join(f"{int(code):02x}" for code in codes)


def _seen(color_linear: Float) -> Float:
    return memoized("color_key", color_linear, None, lambda: _as_seen(color_linear))


def _as_seen(color_linear: Float) -> Float:
    lab = array_pool.empty(*color_linear.shape)
    _to_oklab(np.ascontiguousarray(color_linear), lab)
    return lab


@njit(parallel=True, cache=True, nogil=True, error_model="numpy")
def _to_oklab(color: Float, lab: Float) -> None:
    for r in prange(color.shape[0]):
        for c in range(color.shape[1]):
            lightness, a, b = _oklab(color[r, c, 0], color[r, c, 1], color[r, c, 2])
            lab[r, c, 0], lab[r, c, 1], lab[r, c, 2] = lightness, a, b


@njit(cache=True, nogil=True, error_model="numpy")
def _oklab(r: np.float32, g: np.float32, b: np.float32) -> tuple[float, float, float]:
    el = np.cbrt(0.4122214708 * r + 0.5363325363 * g + 0.0514459929 * b)
    em = np.cbrt(0.2119034982 * r + 0.6806995451 * g + 0.1073969566 * b)
    es = np.cbrt(0.0883024619 * r + 0.2817188376 * g + 0.6299787005 * b)
    return (
        0.2104542553 * el + 0.7936177850 * em - 0.0040720468 * es,
        1.9779984951 * el - 2.4285922050 * em + 0.4505937099 * es,
        0.0259040371 * el + 0.7827717662 * em - 0.8086757660 * es,
    )


@njit(parallel=True, cache=True, nogil=True, error_model="numpy")
def _margins(  # noqa: PLR0917
    seen: Float,
    picked: Float,
    exclude: Float,
    tolerance: np.float32,
    light: np.float32,
    out: Float,
) -> None:
    rows, columns, _ = seen.shape
    half = np.float32(_APART / 2)
    for r in prange(rows):
        for c in range(columns):
            if len(exclude) == 0:
                out[r, c] = tolerance - _distance(seen[r, c], picked, light)
            else:
                near = _distance(seen[r, c], picked, light * light)
                far = _distance(seen[r, c], exclude, light * light)
                out[r, c] = half * (far - near) / max(far + near, np.float32(1e-4))


@njit(cache=True, nogil=True, error_model="numpy")
def _distance(color: Float, picked: Float, light: np.float32) -> Any:
    best = np.float32(100)
    for k in range(len(picked)):
        dl = (color[0] - picked[k, 0]) * light
        da, db = color[1] - picked[k, 1], color[2] - picked[k, 2]
        best = min(best, np.float32(dl * dl + da * da + db * db))
    return np.sqrt(best)


@njit(parallel=True, cache=True, nogil=True, error_model="numpy")
def _ease(margin: Float, softness: np.float32, middle: np.float32, out: Float) -> None:
    rows, columns = margin.shape
    for r in prange(rows):
        for c in range(columns):
            share = middle + margin[r, c] / softness
            share = min(max(share, np.float32(0)), np.float32(1))
            out[r, c] = share * share * (np.float32(3) - np.float32(2) * share)
