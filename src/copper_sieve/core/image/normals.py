"""Normal vectors and their encoding: n = 2v - 1, tangent space, Y up unless told otherwise."""

from __future__ import annotations

import numpy as np

from copper_sieve.core.image.map_kind import NormalY
from copper_sieve.core.image.raster import Codes, Float


def normalize(vectors: Float) -> Float:
    """Unit length with z >= 0; vectors without length become flat. (H, W, 3) float32."""
    out = vectors.astype(np.float32, copy=True)
    np.maximum(out[:, :, 2], 0, out=out[:, :, 2])
    length = np.sqrt(np.einsum("ijk,ijk->ij", out, out))
    empty = ~(length > 1e-6)
    out /= np.where(empty, 1, length)[:, :, None]
    out[empty] = (0.0, 0.0, 1.0)
    return out


def encoded_to_vectors(normal_encoded: Float, y: NormalY) -> Float:
    """Encoded normals, (H, W, 3) in [0, 1] with green along `y`, to unit vectors, Y up."""
    vectors = normal_encoded * 2 - 1
    if y is NormalY.DOWN:
        vectors[:, :, 1] *= -1
    return normalize(vectors)


def vectors_to_encoded(vectors: Float) -> Float:
    """Unit vectors, Y up, to encoded normals in [0, 1], green up: v = (n + 1) / 2."""
    return vectors * np.float32(0.5) + np.float32(0.5)


def flip_green_codes(codes: Codes) -> Codes:
    """Change the direction of green on integer codes: max - g, exact and its own inverse."""
    return np.asarray(np.iinfo(codes.dtype).max - codes, dtype=codes.dtype)
