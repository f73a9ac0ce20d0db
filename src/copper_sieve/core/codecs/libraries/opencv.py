"""Decoding with OpenCV: 16-bit PNG; verification of WebP and Radiance HDR."""

from __future__ import annotations

from pathlib import Path

import numpy as np

from copper_sieve.core.codecs.spec import NAMES_BY_COUNT, PictureSpec, damaged
from copper_sieve.core.image.raster import Codes, Picture

_RED_FIRST = [2, 1, 0, 3]


def read_opencv_codes(path: Path, _level: int = 0) -> Codes:
    """Return the codes of a file without mip levels: (H, W, C), R G B A.

    Raises
    ------
    DamagedPictureError
    """
    import cv2

    codes = cv2.imread(str(path), cv2.IMREAD_UNCHANGED)
    if codes is None:
        raise damaged(path)
    if codes.ndim == 2:
        return np.asarray(codes[:, :, None])
    return np.ascontiguousarray(codes[:, :, _RED_FIRST[: codes.shape[2]]])


def read_deep_png(path: Path, spec: PictureSpec) -> Picture:
    """Decode a 16-bit PNG.

    Raises
    ------
    DamagedPictureError
    """
    codes = read_opencv_codes(path)
    if codes.dtype != np.uint16:
        raise damaged(path)
    if spec.channels[0] == "Y" and codes.shape[2] >= 3:
        codes = codes[:, :, [0, 3][: len(spec.channels)]]
    return Picture(np.ascontiguousarray(codes), NAMES_BY_COUNT[codes.shape[2]], spec.encoding)
