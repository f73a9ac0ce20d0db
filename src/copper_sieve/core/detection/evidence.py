"""Pictures that help users check a guess: a normal map lit from above, and packed channels."""

from __future__ import annotations

import cv2
import numpy as np

from copper_sieve.core.image.encoding import dequantize
from copper_sieve.core.image.map_kind import NormalY
from copper_sieve.core.image.normals import encoded_to_vectors, with_rebuilt_z
from copper_sieve.core.image.raster import Encoding, Picture

_WINDOW = 384  # texels a side that are shown, so that fine relief is seen
_SHOWN = 192
_LIGHT = np.array([0.0, 0.64, 0.77], dtype=np.float32)  # from the picture's top
_CLEAR_SLOPE = 0.4  # root mean square; flatter and steeper relief is shown like this


def lit_from_above(picture: Picture, y: NormalY) -> Picture:
    """Render the center of a normal map lit from the top, if green is `y`.

    With the correct direction, bumps are bright at the top and dark at the bottom.

    Returns
    -------
    Picture, 8-bit gray, at most 192 texels per side
    """
    codes = np.stack([_middle(picture.channel(name)) for name in "RGB"], axis=2)
    encoded = dequantize(codes) if codes.dtype.kind == "u" else codes.astype(np.float32)
    blue = encoded[:, :, 2]
    if blue.max() - blue.min() < 0.01:  # two channels
        encoded = with_rebuilt_z(encoded)
    vectors = encoded_to_vectors(np.ascontiguousarray(encoded), y)
    z = np.maximum(vectors[:, :, 2:], 0.1)
    slopes = vectors[:, :, :2] / z
    gain = _CLEAR_SLOPE / max(float(np.sqrt((slopes**2).sum(axis=2).mean())), 1e-4)
    slopes = slopes * min(gain, 60.0)
    length = np.sqrt(1 + (slopes**2).sum(axis=2))
    shade = (slopes[:, :, 0] * _LIGHT[0] + slopes[:, :, 1] * _LIGHT[1] + _LIGHT[2]) / length
    return _shown(np.clip(shade, 0, 1))


def one_channel(picture: Picture, name: str) -> Picture:
    """Return one channel as an 8-bit gray picture of at most 192 texels per side.

    Raises
    ------
    ChannelError : if there is no such channel
    """
    codes = picture.channel(name)
    values = dequantize(codes) if codes.dtype.kind == "u" else codes.astype(np.float32)
    return _shown(np.clip(values, 0, 1))


def _middle(codes: np.ndarray) -> np.ndarray:
    rows, columns = codes.shape
    top, left = max(0, (rows - _WINDOW) // 2), max(0, (columns - _WINDOW) // 2)
    return codes[top : top + _WINDOW, left : left + _WINDOW]


def _shown(values: np.ndarray) -> Picture:
    rows, columns = values.shape
    scale = min(1.0, _SHOWN / max(rows, columns))
    if scale < 1:
        size = (max(1, round(columns * scale)), max(1, round(rows * scale)))
        values = cv2.resize(values.astype(np.float32), size, interpolation=cv2.INTER_AREA)
    codes = np.round(values * 255).astype(np.uint8)[:, :, None]
    return Picture(codes, ("Y",), Encoding.SRGB)
