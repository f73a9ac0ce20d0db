"""Normal vectors and their encoding: n = 2v - 1, tangent space, Y+ unless stated otherwise."""

from __future__ import annotations

import numpy as np
from numba import njit, prange

from copper_sieve.core.image import array_pool
from copper_sieve.core.image.map_kind import NormalY
from copper_sieve.core.image.raster import Codes, Float


def normalize(vectors: Float) -> Float:
    """Normalize vectors to unit length with z >= 0; vectors of zero length become (0, 0, 1).

    Parameters
    ----------
    vectors : (H, W, 3) float32

    Returns
    -------
    (H, W, 3) float32, unit vectors
    """
    out = array_pool.empty(*vectors.shape)
    _normalize(np.ascontiguousarray(vectors, dtype=np.float32), out)
    return out


@njit(parallel=True, cache=True, nogil=True, error_model="numpy")
def _normalize(vectors: Float, out: Float) -> None:
    one, tiny = np.float32(1), np.float32(1e-6)
    for r in prange(vectors.shape[0]):
        for c in range(vectors.shape[1]):
            x, y, z = vectors[r, c, 0], vectors[r, c, 1], max(vectors[r, c, 2], np.float32(0))
            length = np.sqrt(x * x + y * y + z * z)
            if length > tiny:  # NaN is not
                inverse = one / length
                out[r, c, 0], out[r, c, 1], out[r, c, 2] = x * inverse, y * inverse, z * inverse
            else:
                out[r, c, 0], out[r, c, 1], out[r, c, 2] = np.float32(0), np.float32(0), one


def encoded_to_vectors(normal_encoded: Float, y: NormalY) -> Float:
    """Decode normals to unit vectors.

    Parameters
    ----------
    normal_encoded : (H, W, 3) float32, [0, 1]
    y : green direction of the encoded normals

    Returns
    -------
    (H, W, 3) float32, unit vectors, [-1, 1], Y up
    """
    vectors = normal_encoded * 2 - 1
    if y is NormalY.DOWN:
        vectors[:, :, 1] *= -1
    return normalize(vectors)


def with_rebuilt_z(encoded: Float) -> Float:
    """Reconstruct the blue channel of two-channel normals: z = sqrt(1 - x^2 - y^2).

    Parameters
    ----------
    encoded : (H, W, 2 or more) float32, [0, 1]

    Returns
    -------
    (H, W, 3) float32, [0, 1]
    """
    xy = encoded[:, :, :2] * np.float32(2) - np.float32(1)
    z = np.sqrt(np.clip(1 - (xy**2).sum(axis=2), 0, 1))
    return np.dstack([encoded[:, :, :2], z * np.float32(0.5) + np.float32(0.5)])


def vectors_to_encoded(vectors: Float) -> Float:
    """Encode unit vectors as normals, green up: v = (n + 1) / 2.

    Parameters
    ----------
    vectors : (H, W, 3) float32, unit vectors, Y up

    Returns
    -------
    (H, W, 3) float32, [0, 1]
    """
    return vectors * np.float32(0.5) + np.float32(0.5)


def flip_green_codes(codes: Codes) -> Codes:
    """Flip the green direction of integer codes: max - g. It is exact and its own inverse."""
    return np.asarray(np.iinfo(codes.dtype).max - codes, dtype=codes.dtype)
