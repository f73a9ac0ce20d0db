"""DDS, KTX2, tiled mip-mapped TIFF and EXR, HDR: read back by libraries that did not write them."""

from __future__ import annotations

import json
import subprocess
from pathlib import Path

import cv2
import numpy as np
import OpenImageIO as oiio  # noqa: N813
import pytest
import texture2ddecoder
import tifffile
from PIL import Image

from copper_sieve.core.codecs import Writing, read_picture, read_spec, reopen, write_picture
from copper_sieve.core.codecs.encoders.blocks import BLOCKS
from copper_sieve.core.errors import DamagedPictureError, WriteError
from copper_sieve.core.image.raster import Encoding, Picture
from copper_sieve.core.image.reduction import mip_sizes

WEB = Path(__file__).resolve().parents[2] / "web"
# By how many codes a smooth picture may be off on average, after the blocks were decoded.
_CLOSE = {"bc7": 1.5, "bc1": 4.0, "bc3": 4.0, "bc4": 1.0, "bc5": 1.0, "none": 0.0}


def smooth(width: int, height: int, count: int) -> np.ndarray:
    coarse = np.random.default_rng(3).integers(90, 150, (3, 4, count)).astype(np.float32)
    wide = cv2.resize(coarse, (width, height), interpolation=cv2.INTER_CUBIC)
    return np.clip(wide, 0, 255).astype(np.uint8).reshape(height, width, count)


def levels_of(width: int, height: int, count: int) -> list[np.ndarray]:
    whole = smooth(width, height, count)
    return [
        cv2.resize(whole, size, interpolation=cv2.INTER_AREA).reshape(size[1], size[0], count)
        for size in mip_sizes(width, height)
    ]


def picture(codes: np.ndarray, encoding: Encoding = Encoding.LINEAR) -> Picture:
    names = {1: ("Y",), 2: ("R", "G"), 3: tuple("RGB"), 4: tuple("RGBA")}[codes.shape[2]]
    return Picture(codes, names, encoding)


def apart(found: np.ndarray, due: np.ndarray) -> float:
    count = due.shape[2]
    return float(np.abs(found[:, :, :count].astype(int) - due.astype(int)).mean())


_BLOCKS = [(name, block.channels[-1]) for name, block in BLOCKS.items()]


@pytest.mark.parametrize(("name", "count"), _BLOCKS)
@pytest.mark.parametrize("kind", ["dds", "ktx2"])
def test_every_level_of_a_gpu_texture_comes_back(
    tmp_path: Path, kind: str, name: str, count: int
) -> None:
    whole, *mips = levels_of(116, 76, count)  # no power of two, and levels smaller than a block
    path = tmp_path / f"x.{kind}"
    srgb = BLOCKS[name].dxgi[1] is not None
    encoding = Encoding.SRGB if srgb else Encoding.LINEAR
    write_picture(path, picture(whole, encoding), Writing(kind, compression=name), mips)
    spec = read_spec(path)
    assert (spec.format, spec.width, spec.height, spec.bit_depth) == (kind, 116, 76, 8)
    for n, due in enumerate([whole, *mips]):
        found = reopen(path, n)
        assert found.shape[:2] == due.shape[:2]
        # The fewer texels, the steeper the slopes within a block.
        assert apart(found, due) <= _CLOSE[name] * (1 + 3 * n)


@pytest.mark.parametrize("name", ["bc1", "bc3", "bc4", "bc5", "bc7"])
def test_blocks_are_what_another_decoder_reads(tmp_path: Path, name: str) -> None:
    whole = smooth(64, 32, BLOCKS[name].channels[-1])
    path = tmp_path / "x.dds"
    write_picture(path, picture(whole), Writing("dds", compression=name))
    data = path.read_bytes()[148:]
    decoded = getattr(texture2ddecoder, f"decode_{name}")(data, 64, 32)
    bgra = np.frombuffer(decoded, np.uint8).reshape(32, 64, 4)
    assert apart(bgra[:, :, [2, 1, 0, 3]], whole) <= _CLOSE[name]


@pytest.mark.parametrize(("name", "mode"), [("bc7", "RGBA"), ("bc5", "RGB"), ("bc4", "L")])
def test_a_dds_opens_in_a_third_reader(tmp_path: Path, name: str, mode: str) -> None:
    whole = smooth(64, 32, BLOCKS[name].channels[-1])
    write_picture(tmp_path / "x.dds", picture(whole), Writing("dds", compression=name))
    with Image.open(tmp_path / "x.dds") as image:
        assert image.mode == mode
        found = np.asarray(image)
    assert apart(found.reshape(32, 64, -1), whole) <= _CLOSE[name]


_SCRIPT = """
const { read } = await import("ktx-parse");
const { readFileSync } = await import("node:fs");
const k = read(readFileSync(process.argv[1]));
const d = k.dataFormatDescriptor[0];
console.log(JSON.stringify({
  vkFormat: k.vkFormat, size: [k.pixelWidth, k.pixelHeight, k.pixelDepth], faces: k.faceCount,
  levels: k.levels.map((l) => l.levelData.length), scheme: k.supercompressionScheme,
  model: d.colorModel, transfer: d.transferFunction, flags: d.flags, plane: d.bytesPlane[0],
  block: [...d.texelBlockDimension], note: k.keyValue["KTXorientation"],
  samples: d.samples.map((s) => [s.channelType, s.bitOffset, s.bitLength]),
}));
"""


@pytest.mark.parametrize(
    ("name", "encoding", "number", "model", "block", "samples"),
    [
        ("bc7", Encoding.SRGB, 146, 134, 16, [[0, 0, 127]]),
        ("bc7", Encoding.LINEAR, 145, 134, 16, [[0, 0, 127]]),
        ("bc5", Encoding.LINEAR, 141, 132, 16, [[0, 0, 63], [1, 64, 63]]),
        ("bc3", Encoding.SRGB, 138, 130, 16, [[31, 0, 63], [0, 64, 63]]),
        ("bc1", Encoding.LINEAR, 131, 128, 8, [[0, 0, 63]]),
        ("none", Encoding.SRGB, 43, 1, 4, [[0, 0, 7], [1, 8, 7], [2, 16, 7], [31, 24, 7]]),
    ],
)
def test_a_ktx2_is_read_by_another_library(
    tmp_path: Path,
    name: str,
    encoding: Encoding,
    number: int,
    model: int,
    block: int,
    samples: list[list[int]],
) -> None:
    levels = levels_of(40, 24, BLOCKS[name].channels[-1])
    path = tmp_path / "x.ktx2"
    how = Writing("ktx2", compression=name)
    write_picture(path, picture(levels[0], encoding), how, levels[1:])
    ran = subprocess.run(
        ["node", "--input-type=module", "-e", _SCRIPT, str(path)],
        cwd=WEB, capture_output=True, text=True, check=True,
    )  # fmt: skip
    found = json.loads(ran.stdout)
    side = BLOCKS[name].side
    due = [-(-w // side) * -(-h // side) * block for w, h in mip_sizes(40, 24)]
    assert found == {
        "vkFormat": number, "size": [40, 24, 0], "faces": 1, "levels": due, "scheme": 0,
        "model": model, "transfer": 2 if encoding is Encoding.SRGB else 1, "flags": 0,
        "plane": block, "block": [side - 1, side - 1, 0, 0], "note": "rd", "samples": samples,
    }  # fmt: skip


def test_a_gpu_texture_comes_in_again(tmp_path: Path) -> None:
    whole = smooth(32, 32, 2)
    for kind in ("dds", "ktx2"):
        path = tmp_path / f"x.{kind}"
        write_picture(path, picture(whole), Writing(kind, compression="bc5"))
        spec, back = read_picture(path)
        assert spec.channels == ("R", "G", "B")
        assert apart(back.codes, whole) <= 1
        assert (back.codes[:, :, 2] == 255).all()


@pytest.mark.parametrize("share", [0.02, 0.3, 0.9])
def test_a_ktx2_cut_short_is_refused_by_name(tmp_path: Path, share: float) -> None:
    write_picture(tmp_path / "x.ktx2", picture(smooth(64, 64, 4)), "ktx2")
    data = (tmp_path / "x.ktx2").read_bytes()
    cut = tmp_path / "cut.ktx2"
    cut.write_bytes(data[: int(len(data) * share)])
    with pytest.raises(DamagedPictureError, match=r"cut\.ktx2"):
        read_picture(cut)


def test_what_a_format_cannot_hold_is_refused(tmp_path: Path) -> None:
    three, sixteen = picture(smooth(8, 8, 3)), picture(np.zeros((8, 8, 1), np.uint16))
    for how, one in [
        (Writing("dds", compression="bc4"), three),
        (Writing("ktx2", compression="bc4"), sixteen),
        (Writing("png", compression="rle"), three),
        (Writing("exr"), three),
        (Writing("gif"), three),
    ]:
        with pytest.raises(WriteError):
            write_picture(tmp_path / "x", one, how)
    with pytest.raises(WriteError, match="support mipmaps"):
        write_picture(tmp_path / "x.png", three, "png", [three.codes])
    assert not list(tmp_path.iterdir())


@pytest.mark.parametrize("count", [1, 3, 4])
def test_a_tiled_tiff_has_every_level_exactly(tmp_path: Path, count: int) -> None:
    rng = np.random.default_rng(1)
    sizes = mip_sizes(100, 60)
    levels = [rng.integers(0, 65536, (h, w, count)).astype(np.uint16) for w, h in sizes]
    levels[0][:5, :, -1] = 0
    path = tmp_path / "x.tif"
    write_picture(path, picture(levels[0]), Writing("tiff", 16, tiles=True), levels[1:])
    with tifffile.TiffFile(path) as file:
        assert all(page.is_tiled and page.tilewidth == 64 for page in file.pages)
        for page, due in zip(file.pages, levels, strict=True):
            np.testing.assert_array_equal(page.asarray().reshape(due.shape), due)
    for n, due in enumerate(levels):
        np.testing.assert_array_equal(reopen(path, n), due)


@pytest.mark.parametrize(("bits", "way"), [(16, "zip"), (32, "piz"), (16, "rle"), (32, "none")])
def test_a_tiled_exr_has_every_level_exactly(tmp_path: Path, bits: int, way: str) -> None:
    rng = np.random.default_rng(1)
    kept = np.float16 if bits == 16 else np.float32
    levels = [
        rng.random((h, w, 3), dtype=np.float32).astype(kept).astype(np.float32)
        for w, h in mip_sizes(100, 60)
    ]
    path = tmp_path / "x.exr"
    write_picture(path, picture(levels[0]), Writing("exr", bits, way, tiles=True), levels[1:])
    opened = oiio.ImageInput.open(str(path))
    spec = opened.spec()
    assert (spec.tile_width, spec.get_string_attribute("compression")) == (64, way)
    assert str(spec.format) == ("half" if bits == 16 else "float")
    opened.close()
    for n, due in enumerate(levels):
        np.testing.assert_array_equal(reopen(path, n), due)
    with pytest.raises(DamagedPictureError, match="no mip level 9"):
        reopen(path, 9)


def test_a_lossy_exr_and_webp_and_hdr_say_so_and_are_close(tmp_path: Path) -> None:
    values = smooth(96, 64, 3).astype(np.float32) / 255 * 4
    write_picture(tmp_path / "x.exr", picture(values), Writing("exr", 16, "dwaa"))
    assert np.abs(reopen(tmp_path / "x.exr") - values).mean() < 0.01
    write_picture(tmp_path / "x.hdr", picture(values), Writing("hdr", 32))
    assert np.abs(reopen(tmp_path / "x.hdr") - values).max() < 4 / 128  # a shared exponent
    codes = smooth(96, 64, 4)
    write_picture(tmp_path / "x.webp", picture(codes), Writing("webp", 8, "lossy", 90))
    write_picture(tmp_path / "y.webp", picture(codes), Writing("webp", 8, "lossy", 10))
    assert apart(reopen(tmp_path / "x.webp"), codes) < 3
    assert (tmp_path / "y.webp").stat().st_size < (tmp_path / "x.webp").stat().st_size


@pytest.mark.parametrize("way", ["rle", "none"])
def test_a_tga_with_and_without_runs(tmp_path: Path, way: str) -> None:
    codes = smooth(40, 30, 4)
    codes[:20] = 7
    path = tmp_path / "x.tga"
    write_picture(path, picture(codes), Writing("tga", compression=way))
    assert path.read_bytes()[2] == (10 if way == "rle" else 2)
    np.testing.assert_array_equal(reopen(path), codes)
