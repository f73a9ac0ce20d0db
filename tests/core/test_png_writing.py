"""PNG as written here, read by three programs of others."""

from __future__ import annotations

import io
import struct
import zlib
from pathlib import Path

import cv2
import numpy as np
import OpenImageIO as oiio  # noqa: N813
import pytest
from PIL import Image

from copper_sieve.core.codecs import read_spec
from copper_sieve.core.codecs.encoders.png import encode_png
from copper_sieve.core.errors import WriteError
from copper_sieve.core.image.raster import Encoding, Picture
from tests.core.recognition.maps import relief

NAMES = {1: ("Y",), 3: ("R", "G", "B"), 4: ("R", "G", "B", "A")}


def codes_of(what: str, count: int, bits: int, side: tuple[int, int]) -> np.ndarray:
    """Random codes, a smooth field, or one value."""
    height, width = side
    rng = np.random.default_rng(count * bits)
    if what == "random":
        values = rng.random((height, width, count))
    elif what == "smooth":
        field = relief("soft", 3, max(64, *side))[:height, :width, None]
        values = field * np.linspace(0.5, 1, count)
    else:
        values = np.full((height, width, count), 0.4)
    return np.round(values * ((1 << bits) - 1)).astype(np.uint8 if bits == 8 else np.uint16)


@pytest.mark.parametrize("what", ["random", "smooth", "a constant"])
@pytest.mark.parametrize("count", [1, 3, 4])
@pytest.mark.parametrize("bits", [8, 16])
@pytest.mark.parametrize("side", [(1, 1), (3, 300), (700, 520)])
def test_other_programs_read_the_same_codes(
    what: str, count: int, bits: int, side: tuple[int, int], tmp_path: Path
) -> None:
    codes = codes_of(what, count, bits, side)
    if count == 4:
        codes[: side[0] // 2, :, 3] = 0  # what lies under alpha 0 stays
    kept = codes.copy()
    path = tmp_path / "x.png"
    path.write_bytes(encode_png(Picture(codes, NAMES[count], Encoding.LINEAR)))
    np.testing.assert_array_equal(codes, kept)
    read = cv2.imread(str(path), cv2.IMREAD_UNCHANGED)
    assert read is not None
    read = read[:, :, None] if read.ndim == 2 else read[:, :, [2, 1, 0, 3][:count]]
    np.testing.assert_array_equal(read, codes)
    config = oiio.ImageSpec()
    config.attribute("oiio:UnassociatedAlpha", 1)
    opened = oiio.ImageInput.open(str(path), config)
    third = np.asarray(opened.read_image(0, 0, 0, count, oiio.UINT8 if bits == 8 else oiio.UINT16))
    np.testing.assert_array_equal(third.reshape(codes.shape), codes)
    if bits == 8 or count == 1:  # Pillow gives 16 bits of color as 8
        with Image.open(path) as image:
            second = np.asarray(image).reshape(codes.shape)
        np.testing.assert_array_equal(second, codes)
    spec = read_spec(path)
    assert (spec.width, spec.height, spec.bit_depth) == (side[1], side[0], bits)


def test_color_is_tagged_and_data_is_not() -> None:
    codes = codes_of("smooth", 3, 8, (40, 40))
    assert b"sRGB" in encode_png(Picture(codes, NAMES[3], Encoding.SRGB))
    plain = encode_png(Picture(codes, NAMES[3], Encoding.LINEAR))
    assert not any(name in plain for name in (b"sRGB", b"gAMA", b"cHRM", b"iCCP"))


def test_the_pieces_make_one_zlib_stream() -> None:
    codes = codes_of("random", 3, 8, (900, 800))
    data = encode_png(Picture(codes, NAMES[3], Encoding.LINEAR))
    at, parts = 8, []
    while at < len(data):
        (length,) = struct.unpack(">I", data[at : at + 4])
        if data[at + 4 : at + 8] == b"IDAT":
            parts.append(data[at + 8 : at + 8 + length])
        at += 12 + length
    assert len(parts) > 1
    whole = zlib.decompressobj()
    rows = whole.decompress(b"".join(parts))
    assert whole.eof
    assert not whole.unused_data
    assert len(rows) == 900 * (800 * 3 + 1)


def test_files_are_hardly_larger_than_the_common_library_s() -> None:
    codes = codes_of("smooth", 3, 8, (512, 512))
    codes = codes + np.random.default_rng(1).integers(0, 9, codes.shape, dtype=np.uint8)
    common = io.BytesIO()
    Image.fromarray(codes).save(common, "PNG")
    own = encode_png(Picture(codes, NAMES[3], Encoding.SRGB))
    assert len(own) <= 1.15 * len(common.getvalue())


@pytest.mark.parametrize("codes", [np.zeros((4, 4, 2), np.uint8), np.zeros((4, 4, 3), np.float32)])
def test_what_png_does_not_hold_is_refused(codes: np.ndarray) -> None:
    with pytest.raises(WriteError, match="1, 3 or 4 channels"):
        encode_png(Picture(codes, ("R", "G", "B"), Encoding.SRGB))
