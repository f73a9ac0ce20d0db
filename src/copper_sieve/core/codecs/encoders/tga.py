"""TGA 2.0 encoder, with or without run-length encoding, top row first; alpha is straight.

A row is a sequence of packets that don't continue in the next row, as specified.
"""

from __future__ import annotations

import struct
from collections.abc import Iterator
from itertools import chain
from typing import Any

import cv2
import numpy as np
from numba import njit
from numpy.typing import NDArray

from copper_sieve.core.errors import WriteError
from copper_sieve.core.image.parallel import parallel_iter
from copper_sieve.core.image.raster import Codes

_ROWS = 64  # texels packed per block, cache-sized
_FOOTER = b"\0" * 8 + b"TRUEVISION-XFILE.\0"
_TOP_FIRST = 0x20
_LARGEST = 65535
_LONGEST = np.uint64(128)  # texels of a packet
Buffer = bytes | memoryview


def encode_tga(codes: Codes, *, runs: bool = True) -> Iterator[Buffer]:
    """Encode 8-bit codes; yield the parts of the file in order.

    Parameters
    ----------
    codes : (H, W, C) uint8 with 1, 3 or 4 channels
    runs : use run-length encoding

    Raises
    ------
    WriteError : before the first part, if the format doesn't support the picture
    """
    height, width, count = codes.shape
    if codes.dtype != np.uint8 or count not in (1, 3, 4):
        raise WriteError("TGA files have 1, 3 or 4 channels with 8 bits. Choose another format")
    if max(height, width) > _LARGEST:
        raise WriteError(
            f"TGA files are limited to {_LARGEST} texels per side. Choose another format"
        )
    kind = (3 if count == 1 else 2) + (8 if runs else 0)
    alpha = 8 if count == 4 else 0
    head = struct.pack(
        "<3BHHB4H2B", 0, 0, kind, 0, 0, 0, 0, 0, width, height, 8 * count, alpha | _TOP_FIRST
    )
    texels = np.ascontiguousarray(codes)

    def rows(first: int) -> Buffer:
        part = texels[first : first + _ROWS]
        ordered = _in_file_order(part)
        if not runs:
            return ordered.data
        # A packet has one header byte for up to 128 texels.
        room = part.shape[0] * (width * count + -(-width // 128) + width // 2 + 1)
        out = np.empty(room, dtype=np.uint8)
        packed = _pack_rows(ordered.reshape(-1, width * count), _keys(part), out)
        return out[: int(packed)].data

    return chain([head], parallel_iter(rows, range(0, height, _ROWS)), [_FOOTER])


def _in_file_order(texels: Codes) -> Codes:
    """Return the channels in the order blue, green, red, alpha."""
    count = texels.shape[2]
    if count == 1:
        return texels
    return cv2.cvtColor(texels, cv2.COLOR_RGB2BGR if count == 3 else cv2.COLOR_RGBA2BGRA)


def _keys(texels: Codes) -> NDArray[Any]:
    """Return (H, W) integers, equal for texels with equal channels."""
    if texels.shape[2] == 1:
        return texels[:, :, 0]
    four = cv2.cvtColor(texels, cv2.COLOR_RGB2RGBA) if texels.shape[2] == 3 else texels
    return four.view(np.uint32)[:, :, 0]


@njit(cache=True, nogil=True)
def _pack_rows(rows: Any, keys: Any, out: Any) -> np.uint64:
    """Write the packets of all rows to `out`, (H, W * count); return the number of bytes."""
    zero, one = np.uint64(0), np.uint64(1)  # an index that cannot be negative costs half as much
    width = np.uint64(keys.shape[1])
    count = np.uint64(rows.shape[1]) // width
    reach = 2 if count == one else 1  # shorter runs of single bytes gain nothing
    begins = np.zeros(keys.shape[1], dtype=np.uint8)
    to = zero
    for r in range(rows.shape[0]):
        row, key = rows[r], keys[r]
        for c in range(keys.shape[1] - reach):
            begins[c] = (key[c] == key[c + 1]) & (key[c] == key[c + reach])
        at = zero
        while at < width:
            first, last = at, min(width, at + _LONGEST)
            while at < last and begins[at] == 0:
                at += one
            if at > first:
                out[to] = at - first - one
                to += one
                begin = first * count
                length = at * count - begin
                for i in range(length):
                    out[to + i] = row[begin + i]
                to += length
            if at < width and begins[at] != 0:
                first, last = at, min(width, at + _LONGEST)
                while at < last and key[at] == key[first]:
                    at += one
                out[to] = _LONGEST + at - first - one
                to += one
                begin = first * count
                for i in range(count):
                    out[to + i] = row[begin + i]
                to += count
    return to
