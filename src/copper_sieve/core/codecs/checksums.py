"""SHA-256 of files, digests of channel codes, and channel statistics.

SHA-256 is for interchange. Digests of codes only detect damage and use the faster 128-bit XXH3,
written as `xxh3-128:…`; manifests of version 1 use `sha256:…`.
"""

from __future__ import annotations

import contextlib
import hashlib
import mmap
import threading
from collections.abc import Callable, Sequence
from dataclasses import dataclass
from pathlib import Path
from typing import Any

import cv2
import numpy as np
import xxhash

from copper_sieve.core.image.raster import Codes

_ROWS = 64
_USUAL = "xxh3-128"
_WAYS: dict[str, Callable[[Any], Any]] = {_USUAL: xxhash.xxh3_128, "sha256": hashlib.sha256}


@dataclass(frozen=True, slots=True)
class ChannelChecksum:
    """The digest of a channel's codes, row-major and little-endian, and their range and mean."""

    digest: str
    minimum: int | float
    maximum: int | float
    mean: float


def file_sha256(path: Path) -> str:
    """Return the SHA-256 of a file, read in blocks."""
    with path.open("rb") as file:
        if not path.stat().st_size:
            return hashlib.sha256().hexdigest()
        with mmap.mmap(file.fileno(), 0, access=mmap.ACCESS_READ) as held:
            return hashlib.sha256(held).hexdigest()


_Signature = tuple[int, int, int, int, int]
_MOST_KNOWN = 50_000
_known: dict[Path, tuple[_Signature, str]] = {}
_knowing = threading.Lock()


def file_signature(path: Path) -> _Signature:
    """Return device, inode, size, and the modification and status change times in ns of a file.

    Raises
    ------
    OSError : if the file can't be accessed
    """
    found = path.stat()
    return found.st_dev, found.st_ino, found.st_size, found.st_mtime_ns, found.st_ctime_ns


def known_sha256(path: Path) -> str:
    """Return the SHA-256 of a file, cached while its signature is unchanged; thread-safe.

    Raises
    ------
    OSError : if the file can't be read
    """
    signature = file_signature(path)
    with _knowing:
        known = _known.get(path)
    if known and known[0] == signature:
        return known[1]
    digest = file_sha256(path)
    with _knowing:
        if len(_known) >= _MOST_KNOWN:
            _known.clear()
        _known[path] = (signature, digest)
    return digest


def remember_sha256(path: Path, signature: Sequence[int], digest: str) -> None:
    """Cache the SHA-256 of a file, which is valid while the file has this signature."""
    with contextlib.suppress(OSError):
        if file_signature(path) == tuple(signature):
            with _knowing:
                _known[path] = (file_signature(path), digest)


def codes_digest(codes: Codes, way: str = _USUAL) -> str:
    """Return the digest of codes, row-major and little-endian.

    Parameters
    ----------
    codes : (H, W) one channel, or (H, W, C)
    way : name of the algorithm

    Returns
    -------
    "algorithm:hexadecimal"
    """
    little = np.ascontiguousarray(codes, dtype=codes.dtype.newbyteorder("<"))
    return f"{way}:{_WAYS[way](little.data).hexdigest()}"


def has_digest(codes: Codes, digest: str) -> bool:
    """Return whether codes match a digest from a manifest, by its stated algorithm."""
    way = digest.partition(":")[0]
    return way in _WAYS and codes_digest(codes, way) == digest


def channel_checksum(codes: Codes) -> list[ChannelChecksum]:
    """Return statistics of each channel of a picture, (H, W, C), in cache-sized blocks of rows."""
    height, width, count = codes.shape
    planes = np.empty((count, _ROWS, width), dtype=codes.dtype)
    digests = [xxhash.xxh3_128() for _ in range(count)]
    low, high = codes[0, 0].copy(), codes[0, 0].copy()
    totals = [0.0] * count
    for row in range(0, height, _ROWS):
        band = codes[row : row + _ROWS]
        parts = [plane[: len(band)] for plane in planes]
        cv2.split(band, parts)
        for n, part in enumerate(parts):
            digests[n].update(part.data)
            low[n], high[n] = min(low[n], part.min()), max(high[n], part.max())
            totals[n] += cv2.sumElems(part)[0]
    return [
        ChannelChecksum(
            f"{_USUAL}:{digests[n].hexdigest()}",
            low[n].item(),
            high[n].item(),
            round(totals[n] / (height * width), 4),
        )
        for n in range(count)
    ]
