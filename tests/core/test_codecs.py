"""Files: exact round trips through independent readers, honest specs, clear refusals."""

from __future__ import annotations

import io
import struct
import zlib
from pathlib import Path

import cv2
import numpy as np
import OpenImageIO as oiio  # noqa: N813
import pytest
import tifffile
from PIL import Image, ImageCms

from copper_sieve.core.codecs import (
    CODECS,
    FORMATS,
    Limits,
    Writing,
    read_picture,
    read_spec,
    reopen,
    write_picture,
)
from copper_sieve.core.codecs.registry import writer_for_suffix
from copper_sieve.core.errors import (
    DamagedPictureError,
    EmptyPictureError,
    NotAPictureError,
    PictureError,
    PictureTooLargeError,
    WriteError,
)
from copper_sieve.core.image.raster import Encoding, Picture

_TYPES = {8: np.uint8, 16: np.uint16, 32: np.float32}
_EXACT = [
    (name, bits, count)
    for name, entry in FORMATS.items()
    if not entry.loses()
    for bits in entry.bits
    if name != "exr"
    for count in entry.channels
]


def _random(bits: int, count: int, seed: int = 5) -> np.ndarray:
    rng = np.random.default_rng(seed)
    shape = (23, 31, count)
    if bits == 32:
        return rng.normal(size=shape).astype(np.float32)
    codes = rng.integers(0, 1 << bits, shape).astype(_TYPES[bits])
    if count == 4:
        codes[:8, :, 3] = 0  # what lies under a transparent pixel must survive
    return codes


def _picture(codes: np.ndarray, encoding: Encoding = Encoding.LINEAR) -> Picture:
    names = {1: ("Y",), 2: ("R", "G"), 3: tuple("RGB"), 4: tuple("RGBA")}[codes.shape[2]]
    return Picture(codes, names, encoding)


@pytest.mark.parametrize(("name", "bits", "count"), _EXACT)
def test_lossless_formats_are_exact_through_both_readers(
    tmp_path: Path, name: str, bits: int, count: int
) -> None:
    codes = _random(bits, count)
    path = tmp_path / f"x{CODECS[name].ending}"
    write_picture(path, _picture(codes), name)
    spec, picture = read_picture(path)
    shown = 3 if count == 2 else count  # red and green alone come in as a picture, blue full
    assert (spec.format, spec.bit_depth, len(spec.channels)) == (name, bits, shown)
    np.testing.assert_array_equal(picture.codes[:, :, :count], codes)
    np.testing.assert_array_equal(reopen(path), codes)


def test_half_float_exr_is_exact_to_half_precision(tmp_path: Path) -> None:
    values = _random(32, 3)
    write_picture(tmp_path / "x.exr", _picture(values), "exr")
    spec, picture = read_picture(tmp_path / "x.exr")
    assert (spec.floating, spec.encoding, spec.bit_depth) == (True, Encoding.LINEAR, 16)
    np.testing.assert_array_equal(picture.codes, values.astype(np.float16).astype(np.float32))


@pytest.mark.parametrize("encoding", list(Encoding))
def test_only_color_pngs_carry_the_srgb_tag(tmp_path: Path, encoding: Encoding) -> None:
    path = tmp_path / "x.png"
    write_picture(path, _picture(_random(8, 3), encoding), "png")
    assert (b"sRGB" in path.read_bytes()) == (encoding is Encoding.SRGB)
    wanted = "file: sRGB" if encoding is Encoding.SRGB else "assumed"
    assert read_spec(path).encoding_source == wanted
    with Image.open(path) as image:  # and another reader agrees
        assert ("srgb" in image.info) == (encoding is Encoding.SRGB)


def test_16_bit_png_with_alpha_is_not_cut_to_8(tmp_path: Path) -> None:
    codes = _random(16, 4)
    cv2.imwrite(str(tmp_path / "x.png"), codes[:, :, [2, 1, 0, 3]])
    np.testing.assert_array_equal(read_picture(tmp_path / "x.png")[1].codes, codes)


def test_palette_and_bilevel_and_interlaced_pngs(tmp_path: Path) -> None:
    rgb = np.zeros((4, 4, 3), np.uint8)
    rgb[:2] = (200, 10, 30)
    Image.fromarray(rgb).convert("P", palette=Image.Palette.ADAPTIVE).save(tmp_path / "p.png")
    np.testing.assert_array_equal(read_picture(tmp_path / "p.png")[1].codes, rgb)
    Image.fromarray(rgb[:, :, 0] > 0).save(tmp_path / "b.png")
    spec, picture = read_picture(tmp_path / "b.png")
    assert spec.bit_depth == 1
    assert set(np.unique(picture.codes)) == {0, 255}
    Image.fromarray(rgb[:, :, :2], "LA").save(tmp_path / "la.png")
    spec, picture = read_picture(tmp_path / "la.png")
    assert (spec.channels, picture.codes.shape) == (("Y", "A"), (4, 4, 2))


def test_jpeg_is_turned_upright_and_cmyk_becomes_rgb(tmp_path: Path) -> None:
    codes = np.zeros((16, 32, 3), np.uint8)
    codes[:, :16] = 255  # left half white
    exif = Image.Exif()
    exif[0x0112] = 6  # to be turned by a quarter clockwise
    Image.fromarray(codes).save(tmp_path / "t.jpg", exif=exif, quality=100)
    spec, picture = read_picture(tmp_path / "t.jpg")
    assert (spec.width, spec.height) == picture.size == (16, 32)
    assert picture.codes[2, 8, 0] > 250
    assert picture.codes[29, 8, 0] < 5
    Image.new("CMYK", (8, 8), (0, 255, 255, 0)).save(tmp_path / "c.jpg")
    spec, picture = read_picture(tmp_path / "c.jpg")
    assert spec.channels == tuple("CMYK")
    red = picture.codes[4, 4].astype(int)
    assert red[0] > 200
    assert red[1:].max() < 60


def test_tga_of_both_origins_and_a_multi_strip_tiff(tmp_path: Path) -> None:
    codes = _random(8, 3)
    for orientation in (-1, 1):
        image = Image.fromarray(codes)
        image.save(tmp_path / "o.tga", orientation=orientation)
        np.testing.assert_array_equal(read_picture(tmp_path / "o.tga")[1].codes, codes)
    deep = _random(16, 3)
    tifffile.imwrite(tmp_path / "s.tif", deep, photometric="rgb", rowsperstrip=5)
    np.testing.assert_array_equal(read_picture(tmp_path / "s.tif")[1].codes, deep)


def test_float_tiff_written_by_another_library(tmp_path: Path) -> None:
    values = _random(32, 3)
    spec = oiio.ImageSpec(31, 23, 3, "float")
    out = oiio.ImageOutput.create(str(tmp_path / "f.tif"))
    out.open(str(tmp_path / "f.tif"), spec)
    out.write_image(values)
    out.close()
    found, picture = read_picture(tmp_path / "f.tif")
    assert found.encoding is Encoding.LINEAR
    np.testing.assert_array_equal(picture.codes, values)


@pytest.mark.parametrize("name", ["png", "jpeg", "tiff", "tga", "webp", "exr"])
@pytest.mark.parametrize("share", [0.02, 0.3, 0.7, 0.95])
def test_files_cut_short_are_refused_by_name(tmp_path: Path, name: str, share: float) -> None:
    rng = np.random.default_rng(0)
    codes = rng.integers(0, 256, (64, 64, 3)).astype(np.uint8)
    path = tmp_path / f"whole{CODECS[name].ending}"
    whole = codes.astype(np.float32) if name == "exr" else codes
    write_picture(path, _picture(whole), name)
    cut = tmp_path / f"cut{CODECS[name].ending}"
    data = path.read_bytes()
    cut.write_bytes(data[: int(len(data) * share)])
    with pytest.raises(PictureError, match=cut.name):
        read_picture(cut)


def test_a_flipped_bit_in_a_png_is_noticed(tmp_path: Path) -> None:
    path = tmp_path / "x.png"
    write_picture(path, _picture(_random(8, 3)), "png")
    data = bytearray(path.read_bytes())
    data[len(data) // 2] ^= 1
    path.write_bytes(data)
    with pytest.raises(DamagedPictureError, match=r"x\.png is truncated or corrupt"):
        read_picture(path)


def _png_of(width: int, height: int) -> bytes:
    def chunk(name: bytes, data: bytes) -> bytes:
        body = name + data
        return struct.pack(">I", len(data)) + body + struct.pack(">I", zlib.crc32(body))

    header = struct.pack(">IIBBBBB", width, height, 8, 2, 0, 0, 0)
    return b"\x89PNG\r\n\x1a\n" + chunk(b"IHDR", header) + chunk(b"IDAT", b"") + chunk(b"IEND", b"")


@pytest.mark.parametrize(
    ("name", "data", "error", "says"),
    [
        ("notes.png", b"just some words, no picture at all", NotAPictureError, "supported picture"),
        ("none.jpg", b"", EmptyPictureError, "is empty"),
        ("flat.png", _png_of(0, 5), EmptyPictureError, r"no texels \(0 x 5\)"),
        ("flat.tga", bytes(2) + b"\x02" + bytes(13) + b"\x18\x00", EmptyPictureError, "no texels"),
        (
            "huge.png",
            _png_of(20000, 5),
            PictureTooLargeError,
            "texels; the limit is 16384 per side",
        ),
    ],
)
def test_refusals_name_the_file_and_the_reason(
    tmp_path: Path, name: str, data: bytes, error: type[Exception], says: str
) -> None:
    path = tmp_path / name
    path.write_bytes(data)
    with pytest.raises(error, match=f"{name}.*{says}"):
        read_picture(path)


def test_files_over_the_byte_limit_are_refused_unread(tmp_path: Path) -> None:
    path = tmp_path / "big.png"
    path.write_bytes(bytes(2000))
    with pytest.raises(PictureTooLargeError, match="SIEVE_MAX_BYTES"):
        read_spec(path, Limits(max_bytes=1000))
    with pytest.raises(NotAPictureError, match="missing"):
        read_spec(tmp_path / "missing.png")


def test_writers_refuse_what_a_format_cannot_hold(tmp_path: Path) -> None:
    with pytest.raises(WriteError, match="8 bits"):
        write_picture(tmp_path / "x.tga", _picture(_random(16, 3)), "tga")
    with pytest.raises(WriteError, match="support alpha"):
        write_picture(tmp_path / "x.jpg", _picture(_random(8, 4)), "jpeg")
    with pytest.raises(WriteError, match="isn't a supported output format"):
        writer_for_suffix(tmp_path / "x.bmp")


@pytest.mark.parametrize("encoding", list(Encoding))
@pytest.mark.parametrize(
    ("ending", "how"),
    [("tif", Writing("tiff")), ("tif", Writing("tiff", tiles=True)), ("jpg", Writing("jpeg")),
     ("webp", Writing("webp"))],
)  # fmt: skip
def test_colors_carry_a_profile_and_data_none(
    tmp_path: Path, ending: str, how: Writing, encoding: Encoding
) -> None:
    path = tmp_path / f"x.{ending}"
    write_picture(path, _picture(_random(8, 3), encoding), how)
    with Image.open(path) as image:
        profile = image.info.get("icc_profile")
    assert bool(profile) == (encoding is Encoding.SRGB)
    if profile:
        assert "sRGB" in ImageCms.getProfileDescription(
            ImageCms.ImageCmsProfile(io.BytesIO(profile))
        )
    tagged = read_spec(path).encoding_source == "file: profile"
    assert tagged == (encoding is Encoding.SRGB)
    again = tmp_path / f"y.{ending}"
    write_picture(again, _picture(_random(8, 3), encoding), how)
    if not how.tiles:  # those carry the time at which they were written
        assert again.read_bytes() == path.read_bytes()
