"""Pictures of UV islands: texel density and problems."""

from __future__ import annotations

import numpy as np
from numpy.typing import NDArray

from copper_sieve.core.image.raster import Codes, Float
from copper_sieve.core.mesh.islands import Islands
from copper_sieve.core.mesh.mesh import Mesh
from copper_sieve.core.mesh.rasterization import rasterize

_PLAIN = (150, 146, 140)  # sRGB color of islands without finding
_COARSE, _FINE = (164, 81, 42), (44, 119, 103)  # half as fine as the middle or less; twice or more
_TOLD = {"error": (161, 43, 43), "warning": (154, 107, 20), "info": (74, 96, 130)}
_DARKER = 0.82  # every second island, to distinguish neighbors


def density_picture(mesh: Mesh, islands: Islands, uv_set: int, side: int) -> Codes:
    """Draw the texel density of islands relative to the median.

    Parameters
    ----------
    mesh : triangles
    islands : their UV islands
    uv_set : number of the UV set, from 0
    side : texels per side of the result

    Returns
    -------
    (side, side, 4) uint8, sRGB and alpha: gray is the median, copper half of it or less, green
        twice
        or more; alpha is 0 outside islands
    """
    found = islands.densities(side)
    middle = islands.middle_density(side)
    octaves = np.log2(np.maximum(found, 1e-9) / max(middle, 1e-9))
    share = np.clip(octaves, -1, 1)[:, None]
    toward = np.where(share < 0, np.array(_COARSE), np.array(_FINE))
    colors = np.array(_PLAIN) * (1 - np.abs(share)) + toward * np.abs(share)
    colors[1::2] *= _DARKER
    return _drawn(mesh.uvs[uv_set], colors[islands.of], side)


def evidence_picture(
    mesh: Mesh, which: NDArray[np.bool_] | None, weight: str, uv_set: int, side: int
) -> Codes:
    """Draw selected triangles among all.

    Parameters
    ----------
    mesh : triangles
    which : (T,) bool, or None for all
    weight : severity, which determines the color
    uv_set : number of the UV set, from 0
    side : texels per side of the result

    Returns
    -------
    (side, side, 4) uint8, sRGB and alpha
    """
    marked = np.ones(mesh.count, bool) if which is None else which
    colors = np.where(marked[:, None], np.array(_TOLD[weight]), np.array(_PLAIN))
    return _drawn(mesh.uvs[uv_set], colors, side, above=marked)


def _drawn(
    uv: Float, colors: NDArray[np.float64], side: int, above: NDArray[np.bool_] | None = None
) -> Codes:
    """Draw triangles in their colors; those `above` are drawn last."""
    out = np.zeros((side, side, 4), dtype=np.uint8)
    wrapped = uv - np.floor(uv.mean(1, keepdims=True))
    layers = [np.ones(len(uv), bool)] if above is None else [~above, above]
    for layer in layers:
        chosen = np.flatnonzero(layer)
        if not len(chosen):
            continue
        drawn = rasterize(np.ascontiguousarray(wrapped[chosen]), side, side)
        out[drawn.covered, :3] = np.rint(colors[chosen[drawn.triangles[drawn.covered]]])
        out[drawn.covered, 3] = 255
    return out
