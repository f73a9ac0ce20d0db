"""Blend of two normal maps: by adding slopes, or by rotating the detail onto the base."""

from __future__ import annotations

from collections.abc import Mapping
from typing import Any

import numpy as np
from numba import njit, prange

from copper_sieve.core.errors import ShapeError
from copper_sieve.core.image import array_pool
from copper_sieve.core.image.map_kind import MapKind
from copper_sieve.core.image.raster import Float
from copper_sieve.core.operations.declaration import Inputs, OperationInput, Parameter

NORMAL_SLOTS = (
    OperationInput(
        "second", "Second normal", "a normal map whose relief is blended in",
        takes=MapKind.NORMAL, group="Blend", laid_over=True,
    ),
)  # fmt: skip

NORMAL_MIX = (
    Parameter(
        "weight", "Second intensity", 1.0, "factor on the slopes of the second normal map",
        high=2.0, group="Blend",
    ),
    Parameter(
        "blend_mode", "Blend mode", "add slopes",
        "adding slopes sums both reliefs; turning applies the second map as detail on top "
        "of this one and keeps its contrast on steep slopes",
        choices=("add slopes", "reorient"), group="Blend", form="choice"
    ),
    Parameter(
        "invert_second", "Invert second", False,
        "raised becomes recessed in the second normal map", group="Blend", form="switch"
    ),
)  # fmt: skip


def mix_in(normal: Float, inputs: Inputs, parameters: Mapping[str, Any]) -> Float:
    """Blend the normal map of an optional input into a normal map; see `blend_normals`."""
    other = inputs.get("second")
    weight = parameters["weight"] * (-1 if parameters["invert_second"] else 1)
    if other is None or not weight:
        return normal
    return blend_normals(
        normal, other, weight=weight, turning=parameters["blend_mode"] == "reorient"
    )


def blend_normals(base: Float, detail: Float, *, weight: float, turning: bool = False) -> Float:
    """Blend two normal maps.

    By default, slopes (partial derivatives) are added: (ax bz + bx az, ay bz + by az, az bz), the
    normal of the summed heights. With `turning`, the detail is rotated by the rotation from
    (0, 0, 1) to the base.

    Parameters
    ----------
    base, detail : (H, W, 3) float32, unit vectors, Y up, z >= 0
    weight : factor for the slopes of the detail
    turning : rotate instead of adding slopes

    Returns
    -------
    (H, W, 3) float32, unit vectors, Y up

    Raises
    ------
    ShapeError : if the sizes differ

    References
    ----------
    C. Barre-Brisebois and S. Hill, Blending in Detail, 2012.
    """
    if base.shape != detail.shape:
        raise ShapeError(
            f"normal maps have different sizes: {base.shape[:2]} and {detail.shape[:2]}"
        )
    out = array_pool.empty(*base.shape)
    base, detail = np.ascontiguousarray(base), np.ascontiguousarray(detail)
    _blend(base, detail, np.float32(weight), turning, out)
    return out


@njit(parallel=True, cache=True, nogil=True, error_model="numpy")
def _blend(base: Float, detail: Float, weight: np.float32, turning: bool, out: Float) -> None:
    rows, columns, _ = base.shape
    one = np.float32(1)
    tiny = np.float32(1e-6)
    for r in prange(rows):
        for c in range(columns):
            ax, ay, az = base[r, c, 0], base[r, c, 1], base[r, c, 2]
            bx, by, bz = detail[r, c, 0] * weight, detail[r, c, 1] * weight, detail[r, c, 2]
            if turning:
                scale = one / np.sqrt(bx * bx + by * by + bz * bz)
                bx, by, bz = -bx * scale, -by * scale, bz * scale
                tz = az + one
                share = (ax * bx + ay * by + tz * bz) / tz
                x, y, z = ax * share - bx, ay * share - by, tz * share - bz
                z = max(z, np.float32(0))
            else:
                x, y, z = ax * bz + bx * az, ay * bz + by * az, az * bz
            length = np.sqrt(x * x + y * y + z * z)
            if length > tiny:
                inverse = one / length
                out[r, c, 0], out[r, c, 1], out[r, c, 2] = x * inverse, y * inverse, z * inverse
            else:
                out[r, c, 0], out[r, c, 1], out[r, c, 2] = ax, ay, az
