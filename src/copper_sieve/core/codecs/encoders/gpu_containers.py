"""DDS (with DX10 header) and KTX2 (Khronos, 2.0): textures with mip levels in GPU formats.

Both containers are short open specifications; their blocks come from a library.
"""

from __future__ import annotations

import struct
import tempfile
from collections.abc import Sequence
from pathlib import Path

from copper_sieve.core.codecs.encoders.blocks import BLOCKS, BlockFormat, compress
from copper_sieve.core.codecs.libraries.openimage import read_oiio_codes
from copper_sieve.core.codecs.spec import NAMES_BY_COUNT, PictureSpec
from copper_sieve.core.errors import DamagedPictureError
from copper_sieve.core.image.raster import Codes, Encoding

_KTX2 = b"\xabKTX 20\xbb\r\n\x1a\n"
_KTX2_HEADER = "<12s9I4I2Q"
_WRITER = b"copper-sieve"


def encode_dds(levels: Sequence[Codes], name: str, encoding: Encoding) -> bytes:
    """Encode a DDS file of mip levels, (H, W, C) uint8, largest first."""
    block = BLOCKS[name]
    height, width = levels[0].shape[:2]
    datas = [compress(level, name) for level in levels]
    return _dds_header(block, encoding, width, height, len(levels)) + b"".join(datas)


def _dds_header(
    block: BlockFormat, encoding: Encoding, width: int, height: int, levels: int
) -> bytes:
    whole = block.side > 1
    flags = 0x1007 | (0x80000 if whole else 0x8) | (0x20000 if levels > 1 else 0)
    pitch = block.length(width, height) if whole else width * block.block_bytes
    shows = 0x1000 | (0x400008 if levels > 1 else 0)
    return (
        struct.pack("<4s7I44x", b"DDS ", 124, flags, height, width, pitch, 0, levels)
        + struct.pack("<2I4s5I", 32, 0x4, b"DX10", 0, 0, 0, 0, 0)
        + struct.pack("<4I4x", shows, 0, 0, 0)
        + struct.pack("<5I", block.numbers(encoding)[0], 3, 0, 1, 1)  # 2D, straight alpha
    )


def encode_ktx2(levels: Sequence[Codes], name: str, encoding: Encoding) -> bytes:
    """Encode a KTX2 file of mip levels, (H, W, C) uint8, largest first."""
    block = BLOCKS[name]
    height, width = levels[0].shape[:2]
    datas = [compress(level, name) for level in levels]
    description = _descriptor(block, encoding)
    notes = _notes({b"KTXorientation": b"rd", b"KTXwriter": _WRITER})
    start = struct.calcsize(_KTX2_HEADER) + 24 * len(levels)
    body = bytearray(description + notes)
    places: list[tuple[int, int, int]] = []
    for data in reversed(datas):  # the smallest first, each on a border of its blocks
        body.extend(b"\0" * (-(start + len(body)) % max(4, block.block_bytes)))
        places.append((start + len(body), len(data), len(data)))
        body.extend(data)
    header = struct.pack(
        _KTX2_HEADER, _KTX2, block.numbers(encoding)[1], 1, width, height, 0, 0, 1, len(levels), 0,
        start, len(description), start + len(description), len(notes), 0, 0,
    )  # fmt: skip
    index = b"".join(struct.pack("<3Q", *place) for place in reversed(places))
    return header + index + bytes(body)


def _descriptor(block: BlockFormat, encoding: Encoding) -> bytes:
    """Return the basic block of the Khronos data format descriptor."""
    srgb = encoding is Encoding.SRGB
    side = block.side - 1
    size = 24 + 16 * len(block.samples)
    words = struct.pack("<4xHH4B4B8B", 2, size, block.model, 1, 2 if srgb else 1, 0,
                        side, side, 0, 0, block.block_bytes, *[0] * 7)  # fmt: skip
    for channel, offset, bits in block.samples:
        linear = 0x10 if srgb and channel == 15 else 0
        top = 255 if bits == 8 else 0xFFFFFFFF
        words += struct.pack("<HBB4xII", offset, bits - 1, channel | linear, 0, top)
    return struct.pack("<I", len(words) + 4) + words


def _notes(entries: dict[bytes, bytes]) -> bytes:
    out = b""
    for key, value in sorted(entries.items()):
        entry = key + b"\0" + value + b"\0"
        out += struct.pack("<I", len(entry)) + entry + b"\0" * (-len(entry) % 4)
    return out


def read_ktx2_spec(path: Path) -> PictureSpec:
    """Return facts about a KTX2 file.

    Raises
    ------
    DamagedPictureError : if the file is invalid or its format isn't supported
    """
    _, block, encoding, width, height, _ = _ktx2(path)
    count = max(block.channels)
    names = NAMES_BY_COUNT[3 if count == 2 else count]  # two: as red and green, blue is full
    return PictureSpec("ktx2", width, height, names, 8, False, encoding, "file: format")


def read_ktx2_codes(path: Path, level: int = 0) -> Codes:
    """Return the codes of one level, (H, W, C) uint8, decoded by OpenImageIO as a DDS."""
    data, block, encoding, width, height, places = _ktx2(path)
    if level >= len(places):
        raise DamagedPictureError(
            f"{path.name} has {len(places)} mip levels; level {level} doesn't exist"
        )
    offset, length = places[level]
    width, height = max(1, width >> level), max(1, height >> level)
    held = data[offset : offset + length]
    if len(held) != block.length(width, height):
        raise DamagedPictureError(f"{path.name} is truncated or corrupt. Export or copy it again")
    with tempfile.TemporaryDirectory() as folder:
        other = Path(folder) / "level.dds"
        other.write_bytes(_dds_header(block, encoding, width, height, 1) + held)
        return read_oiio_codes(other)[:, :, : max(block.channels)]


def _ktx2(
    path: Path,
) -> tuple[bytes, BlockFormat, Encoding, int, int, list[tuple[int, int]]]:
    data = path.read_bytes()
    try:
        magic, number, _, width, height, depth, layers, faces, levels, packed, *_ = (
            struct.unpack_from(_KTX2_HEADER, data)
        )
        if magic != _KTX2 or packed or depth or layers > 1 or faces != 1:
            raise ValueError("not a plain 2D texture")
        at = struct.calcsize(_KTX2_HEADER)
        places = [struct.unpack_from("<2Q", data, at + 24 * n) for n in range(max(levels, 1))]
        block, encoding = next(
            (block, encoding)
            for block in BLOCKS.values()
            for encoding, known in zip((Encoding.LINEAR, Encoding.SRGB), block.vulkan, strict=True)
            if known == number
        )
    except (struct.error, ValueError, StopIteration) as error:
        raise DamagedPictureError(
            f"{path.name} is truncated, or isn't a KTX2 texture with BC1, BC3, BC4, BC5, BC7 "
            "or RGBA data. Export it in one of these formats"
        ) from error
    return data, block, encoding, width, height, [(int(a), int(b)) for a, b in places]
