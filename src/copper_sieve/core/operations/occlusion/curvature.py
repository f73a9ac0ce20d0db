"""Curvature and cavities of a height or normal map."""

from __future__ import annotations

from collections.abc import Mapping
from typing import Any

import numpy as np

from copper_sieve.core.image.map_kind import MapKind
from copper_sieve.core.image.raster import Float
from copper_sieve.core.image.wrap import pad
from copper_sieve.core.operations.declaration import Inputs, Parameter, SurfaceContext, operation
from copper_sieve.core.operations.numerics.spectrum import blur, filter_spectrum, gaussian_response

_SIZE = Parameter("size", "Size", 0.004, "size of the edges and cavities", low=0.0005,
                  high=0.05, unit="tile", group="Feature")  # fmt: skip
_CURVATURE = (
    _SIZE,
    Parameter(
        "show", "Show", "both", "both is centered on 0.5; convex or concave only starts at 0",
        choices=("both", "convex", "concave"), group="Feature", form="choice"
    ),
    Parameter("convex", "Convex", 1.0, "factor on convex edges", high=4.0, group="Strength"),
    Parameter("concave", "Concave", 1.0, "factor on concave edges", high=4.0,
              group="Strength"),
)  # fmt: skip
_GAIN = np.float32(4.0)  # of a curvature times its size, before it is eased into the range


@operation(
    "curvature_from_height",
    version=1,
    title="Curvature of the height",
    output=MapKind.CURVATURE,
    inputs=(MapKind.HEIGHT,),
    surface_reads=("tile_size", "depth", "wrap"),
    parameters=_CURVATURE,
    default=True,
)
def curvature_from_height(
    inputs: Inputs, parameters: Mapping[str, Any], surface: SurfaceContext
) -> Float:
    """Derive mean curvature times `size`, compressed to the range: convex above 0.5, concave below.

    It is -1/2 of the Laplacian of the height in meters, after a Gaussian of sigma `size`.

    Parameters
    ----------
    inputs : height (H, W, 1) float32, [0, 1]

    Returns
    -------
    (H, W, 1) float32, [0, 1]; flat is 0.5, or 0 if only one sign is shown
    """
    smooth = gaussian_response(parameters["size"])
    # Cycles per tile to metres: the curvature is per metre, the size in metres cancels that.
    factor = np.float32(
        0.5 * (2 * np.pi) ** 2 * parameters["size"] * surface.depth / surface.tile_size
    )
    bend = filter_spectrum(
        inputs[MapKind.HEIGHT][:, :, 0],
        lambda f: f * f * smooth(f) * factor,
        wrap=surface.wrap,
    )
    return _shown(bend, parameters)


@operation(
    "curvature_from_normal",
    version=1,
    title="Divergence of the normals",
    output=MapKind.CURVATURE,
    inputs=(MapKind.NORMAL,),
    surface_reads=("wrap",),
    parameters=_CURVATURE,
    default=True,
)
def curvature_from_normal(
    inputs: Inputs, parameters: Mapping[str, Any], surface: SurfaceContext
) -> Float:
    """Derive curvature from normals: half their divergence times `size`, after a Gaussian.

    Parameters
    ----------
    inputs : normal (H, W, 3) float32, unit vectors, Y up

    Returns
    -------
    (H, W, 1) float32, [0, 1]; see `curvature_from_height`
    """
    normal = inputs[MapKind.NORMAL]
    edge = 1
    x, y = (np.ascontiguousarray(normal[:, :, i]) for i in (0, 1))
    wide, tall = (pad(part, edge, surface.wrap, "edge") for part in (x, y))
    parting = wide[1:-1, 2:] - wide[1:-1, :-2] + tall[:-2, 1:-1] - tall[2:, 1:-1]
    parting *= np.float32(0.5 * 0.5 * normal.shape[1] * parameters["size"])
    bend = filter_spectrum(parting, gaussian_response(parameters["size"]), wrap=surface.wrap)
    return _shown(bend, parameters)


def _shown(bend: Float, parameters: Mapping[str, Any]) -> Float:
    out = np.maximum(bend, 0) * np.float32(parameters["convex"])
    hollow = np.maximum(-bend, 0) * np.float32(parameters["concave"])
    if parameters["show"] == "both":
        out = np.tanh((out - hollow) * _GAIN) * np.float32(0.5) + np.float32(0.5)
    else:
        out = np.tanh((out if parameters["show"] == "convex" else hollow) * _GAIN)
    return np.asarray(out, dtype=np.float32)[:, :, None]


@operation(
    "cavity_from_height",
    version=1,
    title="Height below its neighborhood",
    output=MapKind.CAVITY,
    inputs=(MapKind.HEIGHT,),
    surface_reads=("tile_size", "depth", "wrap"),
    parameters=(
        _SIZE,
        Parameter("intensity", "Intensity", 1.0, "darkness of cavities", high=4.0,
                  group="Strength"),
        Parameter("edges", "Bright edges", 0.0,
            "brightness of edges above 0.5; at 0 everything except cavities "
            "is white", group="Strength"),
    ), default=True,
)  # fmt: skip
def cavity_from_height(
    inputs: Inputs, parameters: Mapping[str, Any], surface: SurfaceContext
) -> Float:
    """Derive cavities: darker with depth below the neighborhood.

    The depth below a Gaussian mean of sigma `size`, divided by that size and compressed to the
    range.

    Parameters
    ----------
    inputs : height (H, W, 1) float32, [0, 1]

    Returns
    -------
    (H, W, 1) float32, [0, 1], 1 = not below the neighborhood
    """
    height = inputs[MapKind.HEIGHT][:, :, 0]
    size = parameters["size"]
    deep = blur(height, size, wrap=surface.wrap) - height
    deep *= np.float32(surface.depth / (surface.tile_size * size) * parameters["intensity"]) * _GAIN
    hollow = np.tanh(np.maximum(deep, 0))
    edges = np.float32(parameters["edges"])
    if edges:
        lifted = np.tanh(np.maximum(-deep, 0)) * edges
        out = (1 - hollow) * (1 - edges / 2) + lifted / 2
    else:
        out = 1 - hollow
    return np.asarray(np.clip(out, 0, 1).astype(np.float32)[:, :, None])
