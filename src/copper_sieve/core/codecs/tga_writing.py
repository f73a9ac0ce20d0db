"""Writing TGA 2.0, with runs or without, top row first; alpha is straight.

A row is a sequence of packets that do not cross into the next one, as the specification has it.
"""

from __future__ import annotations

import struct
from typing import Any

import numpy as np
from numba import njit

from copper_sieve.core.codecs.at_once import at_once
from copper_sieve.core.errors import WriteError
from copper_sieve.core.image.raster import Codes

_ROWS = 256  # that are packed at once
_FOOTER = b"\0" * 8 + b"TRUEVISION-XFILE.\0"
_TOP_FIRST = 0x20
_LARGEST = 65535
Buffer = bytes | memoryview


def encode_tga(codes: Codes, *, runs: bool = True) -> list[Buffer]:
    """Encode 8-bit codes, (H, W, C) of 1, 3 or 4 channels, as parts in order. Raises WriteError."""
    height, width, count = codes.shape
    if codes.dtype != np.uint8 or count not in (1, 3, 4):
        raise WriteError("TGA holds 1, 3 or 4 channels of 8 bits a channel: choose another format")
    if max(height, width) > _LARGEST:
        raise WriteError(f"TGA holds {_LARGEST} texels a side at most: choose another format")
    kind = (3 if count == 1 else 2) + (8 if runs else 0)
    alpha = 8 if count == 4 else 0
    head = struct.pack(
        "<3BHHB4H2B", 0, 0, kind, 0, 0, 0, 0, 0, width, height, 8 * count, alpha | _TOP_FIRST
    )
    texels = np.ascontiguousarray(codes)

    def rows(first: int) -> Buffer:
        part = texels[first : first + _ROWS]
        if not runs:
            order = [0] if count == 1 else [2, 1, 0, 3][:count]
            return np.ascontiguousarray(part[:, :, order]).data
        # A packet has one byte of its own for up to 128 texels.
        room = part.shape[0] * (width * count + -(-width // 128) + width // 2 + 1)
        out = np.empty(room, dtype=np.uint8)
        return out[: _pack_rows(part, out)].data

    return [head, *at_once(rows, range(0, height, _ROWS)), _FOOTER]


@njit(cache=True, nogil=True)
def _pack_rows(part: Any, out: Any) -> int:
    """Fill `out` with the packets of all rows; gives how many bytes they take."""
    to = 0
    width, count = part.shape[1], part.shape[2]
    least = 3 if count == 1 else 2  # shorter runs of single bytes gain nothing
    row = np.empty(width * count, dtype=np.uint8)  # blue, green, red, alpha
    runs = np.empty(width, dtype=np.int32)  # from each texel on, how many are the same
    for r in range(part.shape[0]):
        _turn(part[r], row)
        _measure(part[r], runs)
        at = 0
        while at < width:
            run = min(runs[at], 128)
            if run >= least:
                out[to] = 127 + run
                for k in range(count):
                    out[to + 1 + k] = row[at * count + k]
                to += 1 + count
                at += run
                continue
            first = at
            while at < width and at - first < 128 and runs[at] < least:
                at += 1
            out[to] = at - first - 1
            length = (at - first) * count
            out[to + 1 : to + 1 + length] = row[first * count : at * count]
            to += 1 + length
    return to


@njit(cache=True, nogil=True)
def _turn(texels: Any, row: Any) -> None:
    width, count = texels.shape
    for c in range(width):
        if count == 1:
            row[c] = texels[c, 0]
            continue
        row[c * count] = texels[c, 2]
        row[c * count + 1] = texels[c, 1]
        row[c * count + 2] = texels[c, 0]
        if count == 4:
            row[c * count + 3] = texels[c, 3]


@njit(cache=True, nogil=True)
def _measure(texels: Any, runs: Any) -> None:
    width, count = texels.shape
    runs[width - 1] = 1
    for c in range(width - 2, -1, -1):
        same = texels[c, 0] == texels[c + 1, 0]
        for k in range(1, count):
            same &= texels[c, k] == texels[c + 1, k]
        runs[c] = runs[c + 1] + 1 if same else 1
