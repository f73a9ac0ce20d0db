"""PNG encoder: rows filtered by compiled kernels, deflated in pieces on all cores.

Row filters are chosen by the minimum sum of absolute differences, as recommended by the
specification (W3C, third edition, section 12.7). The deflate stream consists of pieces that end on
byte boundaries, so they can be compressed in parallel. The kernels are single-threaded, since
several server threads encode pictures at the same time.
"""

from __future__ import annotations

import struct
import zlib
from typing import Any

import numpy as np
from isal import isal_zlib
from numba import njit

from copper_sieve.core.errors import WriteError
from copper_sieve.core.image.parallel import parallel_map
from copper_sieve.core.image.raster import Codes, Encoding, Picture

_LEVEL = 2  # of isal's 0 to 3
_PIECE = 1 << 20  # bytes compressed per piece
_NEARLY_FLAT = 0.03  # of its bytes are left of a piece: zlib leaves a third of that, and is quick
_ROWS = 256  # rows filtered per block
_SAMPLED = 4  # every so many bytes are looked at to choose a row's filter
_COLOR_TYPES = {1: 0, 3: 2, 4: 6}
_SIGNATURE = b"\x89PNG\r\n\x1a\n"


def encode_png(picture: Picture) -> bytes:
    """Encode 8- or 16-bit codes; sRGB pictures are tagged, linear data has no color chunk."""
    codes = picture.codes
    if codes.dtype not in (np.uint8, np.uint16) or codes.shape[2] not in _COLOR_TYPES:
        raise WriteError("PNG files have 1, 3 or 4 channels with 8 or 16 bits here")
    height, width, count = codes.shape
    deep = codes.dtype == np.uint16
    order = np.array(codes, dtype=">u2" if deep else np.uint8, order="C")
    rows = order.view(np.uint8).reshape(height, -1)
    filtered = np.empty((height, rows.shape[1] + 1), dtype=np.uint8)
    step = count * (2 if deep else 1)
    parallel_map(lambda first: _filter(rows, first, min(first + _ROWS, height), step, filtered),
             range(0, height, _ROWS))  # fmt: skip
    header = struct.pack(">IIBBBBB", width, height, 16 if deep else 8, _COLOR_TYPES[count], 0, 0, 0)
    parts = [_SIGNATURE, _chunk(b"IHDR", header)]
    if picture.encoding is Encoding.SRGB:
        parts.append(_chunk(b"sRGB", b"\x00"))
    return b"".join([*parts, *_deflated(filtered), _chunk(b"IEND", b"")])


def _deflated(filtered: Codes) -> list[bytes]:
    """Return the IDAT chunks: one zlib stream in all of them."""
    data = filtered.reshape(-1).data
    starts = range(0, len(data), _PIECE)

    def piece(start: int) -> bytes:
        last = start + _PIECE >= len(data)
        held = data[start : start + _PIECE]
        flush = isal_zlib.Z_FINISH if last else isal_zlib.Z_FULL_FLUSH
        deflate = isal_zlib.compressobj(_LEVEL, isal_zlib.DEFLATED, -15)
        done = deflate.compress(held) + deflate.flush(flush)
        if len(done) < _NEARLY_FLAT * len(held):
            careful = zlib.compressobj(zlib.Z_DEFAULT_COMPRESSION, zlib.DEFLATED, -15)
            done = min(done, careful.compress(held) + careful.flush(flush), key=len)
        head = b"\x78\x01" if start == 0 else b""
        tail = struct.pack(">I", isal_zlib.adler32(data)) if last else b""
        return _chunk(b"IDAT", head + done + tail)

    return parallel_map(piece, starts)


def _chunk(name: bytes, data: bytes) -> bytes:
    body = name + data
    return struct.pack(">I", len(data)) + body + struct.pack(">I", isal_zlib.crc32(body))


@njit(cache=True, nogil=True, error_model="numpy")
def _filter(rows: Codes, first: int, end: int, step: int, out: Codes) -> None:
    width = rows.shape[1]
    for r in range(first, end):
        best, least = 0, np.int64(1) << 62
        for kind in range(5):
            if r == 0 and kind > 1:
                break
            total = np.int64(0)
            for i in range(0, width, _SAMPLED):
                v = _filtered(rows, r, i, step, kind)
                total += v if v < 128 else 256 - v
            if total < least:
                best, least = kind, total
        out[r, 0] = best
        for i in range(width):
            out[r, i + 1] = _filtered(rows, r, i, step, best)


@njit(cache=True, nogil=True, error_model="numpy", inline="always")
def _filtered(rows: Codes, r: int, i: int, step: int, kind: int) -> Any:
    """Apply the filters None, Sub, Up, Average, Paeth; values outside are 0."""
    here = np.int32(rows[r, i])
    left = np.int32(rows[r, i - step]) if i >= step else np.int32(0)
    if kind == 0:
        return here
    if kind == 1:
        return (here - left) & 255
    up = np.int32(rows[r - 1, i]) if r > 0 else np.int32(0)
    if kind == 2:
        return (here - up) & 255
    if kind == 3:
        return (here - ((left + up) >> 1)) & 255
    corner = np.int32(rows[r - 1, i - step]) if i >= step and r > 0 else np.int32(0)
    p = left + up - corner
    a, b, c = abs(p - left), abs(p - up), abs(p - corner)
    nearest = left if a <= b and a <= c else up if b <= c else corner
    return (here - nearest) & 255
