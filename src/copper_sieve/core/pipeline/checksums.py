"""SHA-256 of files and of the codes of channels."""

from __future__ import annotations

import hashlib
from pathlib import Path

import numpy as np

from copper_sieve.core.image.raster import Codes


def file_sha256(path: Path) -> str:
    """SHA-256 of a file, read in pieces."""
    with path.open("rb") as file:
        return hashlib.file_digest(file, "sha256").hexdigest()


def codes_sha256(codes: Codes) -> str:
    """SHA-256 of one channel's codes, (H, W), row-major and little-endian."""
    little = np.ascontiguousarray(codes, dtype=codes.dtype.newbyteorder("<"))
    return hashlib.sha256(little.tobytes()).hexdigest()
