"""Small files that would become enormous, and headers that make decoders raise what they like."""

from __future__ import annotations

import json
import struct
import threading
import time
from pathlib import Path

import numpy as np
import OpenImageIO as oiio  # noqa: N813
import pytest
from PIL import Image

from copper_sieve.core.codecs import Limits, read_picture, read_spec
from copper_sieve.core.codecs.budget import Gate, decoded_bytes
from copper_sieve.core.codecs.gltf_textures import gltf_textures
from copper_sieve.core.errors import (
    DamagedPictureError,
    NotAPictureError,
    PictureError,
    PictureTooLargeError,
)
from copper_sieve.core.ingest.unpack import unpack


def glb(path: Path, document: dict, blob: bytes = b"") -> Path:
    text = json.dumps(document).encode()
    text += b" " * (-len(text) % 4)
    whole = struct.pack("<II", len(text), 0x4E4F534A) + text
    whole += struct.pack("<II", len(blob), 0x004E4942) + blob
    path.write_bytes(struct.pack("<4sII", b"glTF", 2, 12 + len(whole)) + whole)
    return path


def materials(count: int) -> dict:
    return {
        "materials": [
            {"name": f"m{n}", "normalTexture": {"index": n}} for n in range(count)
        ],
        "textures": [{"source": n} for n in range(count)],
        "buffers": [{"byteLength": 1}],
    }  # fmt: skip


def test_a_picture_over_the_budget_is_refused_before_it_is_decoded(tmp_path: Path) -> None:
    path = tmp_path / "bomb.png"
    Image.new("RGB", (4096, 4096)).save(path, compress_level=9)
    assert path.stat().st_size < 60_000
    assert decoded_bytes(read_spec(path)) == 3 * 4096 * 4096
    limits = Limits(max_decoded=48_000_000)
    began = time.monotonic()
    with pytest.raises(PictureTooLargeError, match=r"is 50 MB when decoded \(4096 x 4096\)"):
        read_picture(path, limits)
    assert time.monotonic() - began < 0.5


def test_of_a_file_with_many_channels_only_those_that_are_used_are_decoded(tmp_path: Path) -> None:
    path = tmp_path / "many.exr"
    names = [f"c{n:02}" for n in range(64)]
    values = np.random.default_rng(0).random((32, 48, 64)).astype(np.float32)
    spec = oiio.ImageSpec(48, 32, 64, "float")
    spec.channelnames = names
    out = oiio.ImageOutput.create(str(path))
    out.open(str(path), spec)
    out.write_image(values)
    out.close()
    assert decoded_bytes(read_spec(path)) == 4 * 48 * 32 * 4
    picture = read_picture(path)[1]
    np.testing.assert_array_equal(picture.codes, values[:, :, :4])


def test_the_gate_lets_through_what_fits_together() -> None:
    gate, most = Gate(), 100
    under_way, largest = [0], [0]
    lock = threading.Lock()

    def take(size: int) -> None:
        with gate.taking(size, most):
            with lock:
                under_way[0] += size
                largest[0] = max(largest[0], under_way[0])
            time.sleep(0.01)
            with lock:
                under_way[0] -= size

    threads = [threading.Thread(target=take, args=[size]) for size in [40] * 12 + [250]]
    for thread in threads:
        thread.start()
    for thread in threads:
        thread.join(10)
    assert not any(thread.is_alive() for thread in threads)
    assert largest[0] == 250  # alone
    assert under_way == [0]


def test_many_images_of_the_same_bytes_are_one_picture(tmp_path: Path) -> None:
    document = materials(900)
    document["bufferViews"] = [{"buffer": 0, "byteOffset": 0, "byteLength": 5000}]
    document["images"] = [{"bufferView": 0, "mimeType": "image/png"}] * 900
    path = glb(tmp_path / "same.glb", document, b"x" * 5000)
    (one,) = gltf_textures(path)
    assert (one.name, len(one.data)) == ("m0_normal_gl.png", 5000)


def test_pictures_that_lie_over_one_another_are_refused(tmp_path: Path) -> None:
    document = materials(900)
    views = [{"buffer": 0, "byteOffset": n, "byteLength": 500_000} for n in range(900)]
    document |= {"bufferViews": views, "images": [{"bufferView": n} for n in range(900)]}
    path = glb(tmp_path / "over.glb", document, b"x" * 500_900)
    with pytest.raises(PictureTooLargeError, match=r"would expand from 0\.6 MB to 450 MB"):
        list(unpack(path, tmp_path))
    assert [one.name for one in tmp_path.iterdir()] == ["over.glb"]


def test_too_many_pictures_and_too_much_json_are_refused(tmp_path: Path) -> None:
    document = materials(1200)
    document["images"] = [{"uri": f"{n}.png"} for n in range(1200)]
    with pytest.raises(PictureTooLargeError, match="uses 1200 pictures; the limit is 1000"):
        list(gltf_textures(glb(tmp_path / "many.glb", document)))
    path = tmp_path / "long.gltf"
    path.write_text('{"nodes": [' + "[], " * 5_000_000 + "[]]}")
    began = time.monotonic()
    with pytest.raises(PictureTooLargeError, match="MB of JSON"):
        list(gltf_textures(path))
    assert time.monotonic() - began < 2


def test_pictures_carried_as_text_are_no_json(tmp_path: Path) -> None:
    import base64

    data = np.random.default_rng(1).bytes(15_000_000)
    document = materials(1)
    document["images"] = [{"uri": "data:image/png;base64," + base64.b64encode(data).decode()}]
    path = tmp_path / "carried.gltf"
    path.write_text(json.dumps(document))
    (one,) = gltf_textures(path)
    assert one.data == data


@pytest.mark.parametrize(
    "uri", ["a" * 5000 + ".png", "a/" * 3000 + "b.png", "%00.png", "\ud800.png"]
)
def test_odd_addresses_in_a_gltf_file_are_refused_in_a_sentence(tmp_path: Path, uri: str) -> None:
    document = materials(1)
    document["images"] = [{"uri": uri}]
    with pytest.raises((NotAPictureError, DamagedPictureError)) as caught:
        list(gltf_textures(glb(tmp_path / "odd.glb", document)))
    assert len(caught.value.message) < 400
    assert "odd.glb" in caught.value.message


def test_deep_json_is_refused_in_a_sentence(tmp_path: Path) -> None:
    path = tmp_path / "deep.gltf"
    path.write_text('{"a":' * 100_000 + "1" + "}" * 100_000)
    with pytest.raises(DamagedPictureError, match="nested too deeply"):
        list(gltf_textures(path))


@pytest.mark.parametrize("kind", ["exr", "dds", "tif", "ktx2", "hdr", "png", "tga", "jp2"])
def test_damaged_headers_are_refused_as_damaged(tmp_path: Path, kind: str) -> None:
    """Whatever a byte of the header is changed to: a picture, or an error of ours."""
    from copper_sieve.core.codecs import write_picture
    from copper_sieve.core.image.raster import Encoding, Picture

    path = tmp_path / f"a.{kind}"
    rng = np.random.default_rng(5)
    codes = rng.integers(0, 255, (8, 8, 3)).astype(np.uint8)
    if kind in ("exr", "hdr"):
        codes = codes.astype(np.float32)
    if kind == "jp2":
        Image.fromarray(codes).save(path)
    else:
        name = {"tif": "tiff"}.get(kind, kind)
        write_picture(path, Picture(codes, ("R", "G", "B"), Encoding.LINEAR), name)
    whole = path.read_bytes()
    for _ in range(250):
        damaged = bytearray(whole)
        for place in rng.integers(0, min(len(whole), 400), 3):
            damaged[place] = rng.integers(0, 256)
        path.write_bytes(damaged)
        for read in (read_spec, read_picture):
            try:
                read(path, Limits(max_side=4096, max_decoded=10**8))
            except PictureError as error:
                assert path.name in error.message
