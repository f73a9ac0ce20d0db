"""SHA-256 of files and of the codes of channels, and what is said of each channel."""

from __future__ import annotations

import hashlib
import mmap
from dataclasses import dataclass
from pathlib import Path
from typing import Any

import numpy as np
from numba import njit

from copper_sieve.core.image.raster import Codes


@dataclass(frozen=True, slots=True)
class ChannelFacts:
    """SHA-256 of a channel's codes, row-major and little-endian, and their range and mean."""

    sha256: str
    minimum: int | float
    maximum: int | float
    mean: float


def file_sha256(path: Path) -> str:
    """SHA-256 of a file, never whole in memory."""
    with path.open("rb") as file:
        if not path.stat().st_size:
            return hashlib.sha256().hexdigest()
        with mmap.mmap(file.fileno(), 0, access=mmap.ACCESS_READ) as held:
            return hashlib.sha256(held).hexdigest()


def codes_sha256(codes: Codes) -> str:
    """SHA-256 of one channel's codes, (H, W), or of all, row-major and little-endian."""
    little = np.ascontiguousarray(codes, dtype=codes.dtype.newbyteorder("<"))
    return hashlib.sha256(little.data).hexdigest()


def channel_facts(codes: Codes) -> list[ChannelFacts]:
    """What is said of each channel of a picture, (H, W, C)."""
    found = []
    plane = np.empty(codes.shape[:2], dtype=codes.dtype)
    for index in range(codes.shape[2]):
        low, high, total = _take_apart(codes, index, plane)
        mean = round(float(total) / plane.size, 4)
        number = float if codes.dtype.kind == "f" else int
        found.append(ChannelFacts(codes_sha256(plane), number(low), number(high), mean))
    return found


@njit(cache=True, nogil=True)
def _take_apart(codes: Any, index: int, plane: Any) -> tuple[Any, Any, float]:
    low = high = codes[0, 0, index]
    total = 0.0
    for r in range(codes.shape[0]):
        row = 0.0
        for c in range(codes.shape[1]):
            v = codes[r, c, index]
            plane[r, c] = v
            low, high = min(low, v), max(high, v)
            row += v
        total += row
    return low, high, total
