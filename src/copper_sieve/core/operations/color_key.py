"""How near a color is to some picked ones, as the eye sees it; the base of every color key."""

from __future__ import annotations

import numpy as np
from numba import njit, prange

from copper_sieve.core.image import buffers
from copper_sieve.core.image.encoding import srgb_to_linear
from copper_sieve.core.image.raster import Float
from copper_sieve.core.operations.declaration import Parameter
from copper_sieve.core.operations.stages import stage

KEY_PARAMETERS = (
    Parameter(
        "colors", "Colors", "", "picked from the picture; what is near any of them counts",
        group="Picked",
    ),
    Parameter("tolerance", "Tolerance", 0.08, "difference that still counts as the same color",
              high=0.5, group="Nearness"),
    Parameter("softness", "Softness", 0.05, "difference over which it fades out beyond that",
              high=0.5, group="Nearness"),
    Parameter(
        "light_counts", "Light counts", 0.5,
        "1 tells light from dark, 0 looks at hue and purity only, whatever the light",
        group="Nearness",
    ),
)  # fmt: skip


def colors_to_linear(colors: str) -> Float:
    """#rrggbb colors with commas between them, sRGB, to (N, 3) float32 linear light."""
    codes = [[int(one[i : i + 2], 16) for i in (1, 3, 5)] for one in colors.split(",") if one]
    return srgb_to_linear(np.array(codes, dtype=np.float32).reshape(-1, 3) / 255)


def nearness(
    color_linear: Float, colors: str, *, tolerance: float, softness: float, light_counts: float
) -> Float:
    """1 where a color is within `tolerance` of a picked one, 0 beyond `softness` more.

    The difference is the distance in Oklab, its lightness weighted by `light_counts`; black to
    white is 1. color_linear : (H, W, 3) float32, linear light. Returns (H, W) float32, [0, 1];
    0 everywhere where no color is picked.

    References: B. Ottosson, A perceptual color space for image processing, 2020.
    """
    picked = np.zeros((len(colors_to_linear(colors)), 3), dtype=np.float32)
    for i, color in enumerate(colors_to_linear(colors)):
        picked[i] = _oklab(*(np.float32(v) for v in color))
    seen = stage("color_key", color_linear, None, lambda: _as_seen(color_linear))
    out = buffers.empty(*color_linear.shape[:2])
    _nearness(
        seen, picked, np.float32(tolerance), np.float32(max(softness, 1e-5)),
        np.float32(light_counts), out,
    )  # fmt: skip
    return out


def _as_seen(color_linear: Float) -> Float:
    lab = buffers.empty(*color_linear.shape)
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
def _nearness(  # noqa: PLR0917
    seen: Float,
    picked: Float,
    tolerance: np.float32,
    softness: np.float32,
    light: np.float32,
    out: Float,
) -> None:
    rows, columns, _ = seen.shape
    for r in prange(rows):
        for c in range(columns):
            el, ea, eb = seen[r, c, 0], seen[r, c, 1], seen[r, c, 2]
            best = np.float32(10)
            for k in range(len(picked)):
                dl = (el - picked[k, 0]) * light
                da, db = ea - picked[k, 1], eb - picked[k, 2]
                best = min(best, np.float32(np.sqrt(dl * dl + da * da + db * db)))
            share = np.float32(1) - (best - tolerance) / softness
            share = min(max(share, np.float32(0)), np.float32(1))
            out[r, c] = share * share * (np.float32(3) - np.float32(2) * share)
