"""Files as other programs write them: read right, against a second library, or refused."""

from __future__ import annotations

import json
import struct
import zipfile
import zlib
from collections.abc import Callable
from pathlib import Path

import cv2
import numpy as np
import OpenImageIO as oiio  # noqa: N813
import pytest
import tifffile
from PIL import Image

from copper_sieve.core.codecs import Limits, read_picture
from copper_sieve.core.errors import PictureError
from copper_sieve.core.ingest.detect import recognize_file
from copper_sieve.core.ingest.unpack import unpack
from copper_sieve.core.untrusted_paths import safe_file_name

_GREY = np.add.outer(np.arange(40) * 3, np.arange(56) * 2).astype(np.uint8)
_RGB = np.dstack([_GREY, np.flipud(_GREY), np.fliplr(_GREY)])
_RGBA = np.dstack([_RGB, np.roll(_GREY, 9, 0)])
_DEEP = _RGB.astype(np.uint16) * 257 + np.random.default_rng(1).integers(0, 200, _RGB.shape).astype(
    np.uint16
)
_FLOAT = (_RGB / 255).astype(np.float32)
_HALF = _FLOAT.astype(np.float16)
_FEW = Image.fromarray(_RGB).quantize(16)
Write = Callable[[Path], object]


def _exr(path: Path, kind: str, names: tuple[str, ...], values: np.ndarray) -> None:
    spec = oiio.ImageSpec(values.shape[1], values.shape[0], values.shape[2], kind)
    spec.channelnames = names
    out = oiio.ImageOutput.create(str(path))
    out.open(str(path), spec)
    out.write_image(values.astype(np.float32))
    out.close()


EXACT: dict[str, tuple[Write, np.ndarray]] = {
    "palette.png": (_FEW.save, np.asarray(_FEW.convert("RGB"))),
    "grey_alpha.png": (Image.fromarray(np.dstack([_GREY, 255 - _GREY]), "LA").save,
                       np.dstack([_GREY, 255 - _GREY])),
    "grey16.png": (lambda p: cv2.imwrite(str(p), _DEEP[..., 0]), _DEEP[..., 0]),
    "rgb16.png": (lambda p: cv2.imwrite(str(p), _DEEP[..., ::-1]), _DEEP),
    "one_bit.png": (Image.fromarray(_GREY > 60).save, ((_GREY > 60) * 255).astype(np.uint8)),
    "lzw.tif": (lambda p: Image.fromarray(_RGB).save(p, compression="tiff_lzw"), _RGB),
    "deflate16.tif": (lambda p: tifffile.imwrite(p, _DEEP, compression="zlib"), _DEEP),
    "float.tif": (lambda p: tifffile.imwrite(p, _FLOAT, photometric="rgb"), _FLOAT),
    "half.tif": (lambda p: tifffile.imwrite(p, _HALF, photometric="rgb"), _HALF),
    "double.tif": (lambda p: tifffile.imwrite(p, _FLOAT.astype(np.float64), photometric="rgb"),
                   _FLOAT),
    "tiled.tif": (lambda p: tifffile.imwrite(p, _RGB, tile=(16, 16), photometric="rgb"), _RGB),
    "planar.tif": (lambda p: tifffile.imwrite(p, np.moveaxis(_DEEP, -1, 0), photometric="rgb",
                                              planarconfig="separate"), _DEEP),
    "alpha.tif": (lambda p: tifffile.imwrite(p, _RGBA, photometric="rgb",
                                             extrasamples=["unassalpha"]), _RGBA),
    "big.tif": (lambda p: tifffile.imwrite(p, _RGB, bigtiff=True, photometric="rgb"), _RGB),
    "white_is_zero.tif": (lambda p: tifffile.imwrite(p, 255 - _GREY, photometric="miniswhite"),
                          _GREY),
    "from_below.tga": (lambda p: Image.fromarray(_RGBA).save(p, orientation=-1), _RGBA),
    "from_above.tga": (lambda p: Image.fromarray(_RGBA).save(p, orientation=1), _RGBA),
    "runs.tga": (lambda p: Image.fromarray(_RGB).save(p, compression="tga_rle"), _RGB),
    "palette.tga": (_FEW.save, np.asarray(_FEW.convert("RGB"))),
    "grey.tga": (Image.fromarray(_GREY).save, _GREY),
    "lossless.webp": (lambda p: Image.fromarray(_RGBA).save(p, lossless=True, exact=True), _RGBA),
    "half.exr": (lambda p: _exr(p, "half", ("R", "G", "B"), _HALF), _HALF),
    "float.exr": (lambda p: _exr(p, "float", ("R", "G", "B"), _FLOAT), _FLOAT),
    "named.exr": (lambda p: _exr(p, "float", ("normal.X", "normal.Y", "normal.Z"), _FLOAT),
                  _FLOAT),
    "one.exr": (lambda p: _exr(p, "float", ("Y",), _FLOAT[..., :1]), _FLOAT[..., 0]),
    "plain.jp2": (lambda p: Image.fromarray(_RGB).save(p, irreversible=False), _RGB),
    "deep.jp2": (lambda p: Image.fromarray(_DEEP[..., 0]).save(p, irreversible=False),
                 _DEEP[..., 0]),
    "plain.dds": (Image.fromarray(_RGBA).save, _RGBA),
}  # fmt: skip


@pytest.mark.parametrize("name", EXACT)
def test_read_to_the_last_code(name: str, tmp_path: Path) -> None:
    write, wanted = EXACT[name]
    write(tmp_path / name)
    spec, picture = read_picture(tmp_path / name)
    wanted = wanted if wanted.ndim == 3 else wanted[:, :, None]
    np.testing.assert_array_equal(picture.codes, wanted.astype(picture.codes.dtype))
    assert (spec.width, spec.height) == (56, 40)


@pytest.mark.parametrize("kind", ["DXT1", "DXT3", "DXT5", "BC2", "BC3", "BC5"])
def test_block_formats_as_a_second_library_reads_them(kind: str, tmp_path: Path) -> None:
    path = tmp_path / "block.dds"
    Image.fromarray(_RGB if kind == "BC5" else _RGBA).save(path, pixel_format=kind)
    codes = read_picture(path)[1].codes
    with Image.open(path) as image:
        other = np.asarray(image.convert("RGBA" if codes.shape[2] == 4 else "RGB"))
    assert np.abs(codes.astype(int) - other).max() <= 2  # decoders round blocks differently


def test_light_beyond_one_is_kept(tmp_path: Path) -> None:
    _exr(tmp_path / "lamp.hdr", "float", ("R", "G", "B"), _FLOAT * 40)
    spec, picture = read_picture(tmp_path / "lamp.hdr")
    assert spec.floating
    assert np.abs(picture.codes / 40 - _FLOAT).max() <= 0.2501 / 40  # a code of 32 to 64


@pytest.mark.parametrize(("name", "more"), [("turned.jpg", {"exif": 6}), ("inks.jpg", {}),
                                            ("steps.jpg", {"progressive": True})])  # fmt: skip
def test_jpegs_of_all_kinds(name: str, more: dict, tmp_path: Path) -> None:
    image = Image.fromarray(_RGB)
    if name == "inks.jpg":
        image = image.convert("CMYK")
    exif = Image.Exif()
    if turn := more.pop("exif", None):
        exif[0x112] = turn
    image.save(tmp_path / name, quality=95, exif=exif, **more)
    codes = read_picture(tmp_path / name)[1].codes
    wanted = np.rot90(_RGB, -1) if turn else _RGB
    assert codes.shape == wanted.shape
    assert np.abs(codes.astype(int) - wanted).mean() < 2


def _bomb(path: Path) -> None:
    def chunk(kind: bytes, data: bytes) -> bytes:
        return (
            struct.pack(">I", len(data)) + kind + data + struct.pack(">I", zlib.crc32(kind + data))
        )

    head = struct.pack(">IIBBBBB", 60000, 60000, 8, 2, 0, 0, 0)
    path.write_bytes(
        b"\x89PNG\r\n\x1a\n" + chunk(b"IHDR", head) + chunk(b"IDAT", zlib.compress(bytes(999)))
        + chunk(b"IEND", b"")
    )  # fmt: skip


@pytest.mark.parametrize(
    ("name", "write", "word"),
    [
        ("huge.png", _bomb, "60000 x 60000"),
        ("none.png", lambda p: p.write_bytes(b""), "empty"),
        ("vector.png", lambda p: p.write_text("<svg xmlns='x'/>"), "a supported picture"),
        ("text.tif", lambda p: p.write_text("II*"), "a supported picture"),
    ],
)
def test_refused_in_one_clear_sentence(name: str, write: Write, word: str, tmp_path: Path) -> None:
    write(tmp_path / name)
    with pytest.raises(PictureError, match=word) as refused:
        recognize_file(tmp_path / name)
    assert name in refused.value.message


@pytest.mark.parametrize("name", ["rgb16.png", "lzw.tif", "tiled.tif", "runs.tga", "lossless.webp",
                                  "float.exr", "plain.jp2", "plain.dds"])  # fmt: skip
def test_a_cut_file_is_refused_whatever_its_format(name: str, tmp_path: Path) -> None:
    EXACT[name][0](tmp_path / name)
    whole = (tmp_path / name).read_bytes()
    (tmp_path / name).write_bytes(whole[: len(whole) * 6 // 10])
    with pytest.raises(PictureError, match=r"truncated|damaged"):
        recognize_file(tmp_path / name)


def test_a_wrong_ending_is_read_by_its_content_and_remarked_on(tmp_path: Path) -> None:
    Image.fromarray(_RGB).save(tmp_path / "wall.png", "JPEG", quality=95)
    found = recognize_file(tmp_path / "wall.png")
    assert found.spec.format == "jpeg"
    assert any(
        "extension is .png, but the file is JPEG" in remark for remark in found.recognition.remarks
    )


def _gltf(path: Path, folder: Path) -> None:
    """A .gltf whose one material uses every role, one picture for occlusion and metal-rough."""
    names = ("color", "orm", "normal", "glow")
    for name in names:
        Image.fromarray(_RGB).save(folder / f"{name}.png")
    texture = {"index": 0}
    document = {
        "asset": {"version": "2.0"},
        "images": [{"uri": f"{name}.png"} for name in names],
        "textures": [{"source": n} for n in range(4)],
        "materials": [{
            "name": "Quay",
            "pbrMetallicRoughness": {"baseColorTexture": texture,
                                     "metallicRoughnessTexture": {"index": 1}},
            "occlusionTexture": {"index": 1},
            "normalTexture": {"index": 2},
            "emissiveTexture": {"index": 3},
        }],
    }  # fmt: skip
    path.write_text(json.dumps(document))


def test_textures_of_a_gltf_file_come_with_their_roles(tmp_path: Path) -> None:
    _gltf(tmp_path / "quay.gltf", tmp_path)
    into = tmp_path / "into"
    into.mkdir()
    found = {one.name: one.path for one in unpack(tmp_path / "quay.gltf", into)}
    assert list(found) == [
        "Quay_base_color.png", "Quay_occlusion_roughness_metallic.png", "Quay_normal_gl.png",
        "Quay_emissive.png",
    ]  # fmt: skip
    packed = recognize_file(found["Quay_occlusion_roughness_metallic.png"],
                            name="Quay_occlusion_roughness_metallic.png").recognition  # fmt: skip
    assert [one.kind for one in packed.channels] == ["ambient_occlusion", "roughness", "metallic"]
    assert packed.stem == "Quay"


def test_a_gltf_file_reads_nothing_outside_its_folder(tmp_path: Path) -> None:
    _gltf(tmp_path / "quay.gltf", tmp_path)
    text = (tmp_path / "quay.gltf").read_text().replace("glow.png", "../glow.png")
    (tmp_path / "quay.gltf").write_text(text)
    with pytest.raises(PictureError, match="which is missing"):
        list(unpack(tmp_path / "quay.gltf", tmp_path))


@pytest.mark.parametrize(
    ("held", "word"),
    [({"../up.png": b"x"}, "points outside"), ({"/root.png": b"x"}, "points outside"),
     ({"C:/x.png": b"x"}, "points outside"), ({"bomb.png": bytes(40_000_000)}, "would expand")],
)  # fmt: skip
def test_a_dangerous_archive_is_refused_before_it_is_unpacked(
    held: dict, word: str, tmp_path: Path
) -> None:
    with zipfile.ZipFile(tmp_path / "a.zip", "w", zipfile.ZIP_DEFLATED) as archive:
        for name, data in held.items():
            archive.writestr(name, data)
    (tmp_path / "into").mkdir()
    with pytest.raises(PictureError, match=word):
        list(unpack(tmp_path / "a.zip", tmp_path / "into"))
    assert not list((tmp_path / "into").iterdir())


def test_a_file_as_large_as_the_limit_is_unpacked(tmp_path: Path) -> None:
    with zipfile.ZipFile(tmp_path / "a.zip", "w") as archive:
        archive.writestr("fits.png", bytes(range(100)))
    (tmp_path / "into").mkdir()
    limits = Limits(max_bytes=100)
    assert [one.name for one in unpack(tmp_path / "a.zip", tmp_path / "into", limits)] == [
        "fits.png"
    ]
    with pytest.raises(PictureError, match=r"fits\.png is"):
        list(unpack(tmp_path / "a.zip", tmp_path / "into", Limits(max_bytes=99)))


@pytest.mark.parametrize("length", [199, 200, 201, 400])
def test_names_of_files_are_cut_to_two_hundred_bytes(length: int) -> None:
    name = safe_file_name("w" * (length - 4) + ".png")
    assert (len(name), name[-5:]) == (min(length, 200), "w.png")
    assert len(safe_file_name("ü" * 150 + ".png").encode()) == 200
