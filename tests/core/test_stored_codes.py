"""Codes made in one pass are those of the plain way; TGA packets; what is said of a channel."""

from __future__ import annotations

import hashlib
from pathlib import Path

import numpy as np
import pytest
import xxhash
from PIL import Image

from copper_sieve.core.codecs.checksums import (
    channel_checksum,
    codes_digest,
    file_sha256,
    has_digest,
)
from copper_sieve.core.codecs.encoders.tga import encode_tga
from copper_sieve.core.codecs.reading import read_picture
from copper_sieve.core.image.encoding import linear_to_srgb, quantize
from copper_sieve.core.image.stored_codes import Channel, stored_codes


def values() -> np.ndarray:
    """Everything between and around 0 and 1, and what comes of broken arithmetic; (H, W)."""
    rng = np.random.default_rng(0)
    dense = np.linspace(-0.1, 1.1, 200_001, dtype=np.float32)
    dark = np.geomspace(1e-8, 1e-2, 50_000, dtype=np.float32)
    odd = np.array([0, 1, np.nan, np.inf, -np.inf, 0.0031308, -0.0], dtype=np.float32)
    return np.concatenate([dense, dark, rng.random(49_992, dtype=np.float32), odd]).reshape(-1, 600)


@pytest.mark.parametrize("turned", [False, True])
@pytest.mark.parametrize("bits", [8, 16])
def test_codes_in_one_pass_are_those_of_the_plain_way(bits: int, turned: bool) -> None:
    given = values()
    kind = np.uint8 if bits == 8 else np.uint16
    plain = {
        (True, False): quantize(linear_to_srgb(np.clip(given, 0, 1)), bits),
        (False, False): quantize(given, bits),
        (False, True): quantize(given * np.float32(0.5) + np.float32(0.5), bits),
    }
    for (light, normal), due in plain.items():
        wide = np.dstack([np.full_like(given, 0.5), given])
        for source, component in ((wide, 1), (given[:, :, None], 0)):  # out of two, and alone
            codes = np.zeros((*given.shape, 3), dtype=kind)
            one = [Channel(component, 1, turned)]
            stored_codes(source, codes, one, light=light, normal=normal)
            found = np.iinfo(kind).max - codes[:, :, 1] if turned else codes[:, :, 1]
            np.testing.assert_array_equal(found, due)
            assert not codes[:, :, [0, 2]].any()
        codes = np.zeros(wide.shape, dtype=kind)  # all as they come, one of them turned
        both = [Channel(0, 0, not turned), Channel(1, 1, turned)]
        stored_codes(wide, codes, both, light=light, normal=normal)
        found = np.iinfo(kind).max - codes[:, :, 1] if turned else codes[:, :, 1]
        np.testing.assert_array_equal(found, due)
        assert len(np.unique(codes[:, :, 0])) == 1


def test_a_map_of_one_value_costs_no_picture() -> None:
    given = np.broadcast_to(np.array([0.2, -0.5, 1], dtype=np.float32), (5, 4, 3))
    channels = [Channel(0, 2, False), Channel(1, 1, True)]
    for kind in (np.uint8, np.uint16):
        one, other = np.zeros((2, 5, 4, 4), dtype=kind)
        stored_codes(given, one, channels, light=False, normal=True)
        stored_codes(given.copy(), other, channels, light=False, normal=True)
        np.testing.assert_array_equal(one, other)


def test_every_code_comes_back_from_its_own_value() -> None:
    from copper_sieve.core.image.encoding import decode_color

    for kind in (np.uint8, np.uint16):
        every = np.arange(np.iinfo(kind).max + 1, dtype=kind).reshape(-1, 256, 1)
        codes = np.zeros_like(every)
        one = [Channel(0, 0, False)]
        stored_codes(decode_color(every, True), codes, one, light=True, normal=False)
        np.testing.assert_array_equal(codes, every)


@pytest.mark.parametrize("count", [1, 3, 4])
@pytest.mark.parametrize("width", [1, 2, 127, 128, 129, 300])
def test_tga_packets_of_every_length(tmp_path: Path, count: int, width: int) -> None:
    rng = np.random.default_rng(width)
    long_and_short = np.repeat(rng.integers(0, 4, (9, width, count)), rng.integers(1, 5), axis=1)
    codes = long_and_short[:, :width].astype(np.uint8)
    codes[3] = 200  # one run over the whole row
    codes[4, :, 0] = np.arange(width)  # and none at all
    for runs in (True, False):
        path = tmp_path / "x.tga"
        path.write_bytes(b"".join(encode_tga(codes, runs=runs)))
        with Image.open(path) as image:
            np.testing.assert_array_equal(np.asarray(image).reshape(codes.shape), codes)
        np.testing.assert_array_equal(read_picture(path)[1].codes, codes)


@pytest.mark.parametrize("kind", [np.uint8, np.uint16, np.float32])
def test_what_is_said_of_each_channel(tmp_path: Path, kind: type) -> None:
    rng = np.random.default_rng(1)
    codes = (rng.random((200, 30, 3)) * 250).astype(kind)  # more than is looked at at once
    for n, facts in enumerate(channel_checksum(codes)):
        plane = np.ascontiguousarray(codes[:, :, n])
        assert facts.digest == "xxh3-128:" + xxhash.xxh3_128_hexdigest(plane.tobytes())
        by_version_1 = "sha256:" + hashlib.sha256(plane.tobytes()).hexdigest()
        assert codes_digest(codes[:, :, n], "sha256") == by_version_1
        assert (facts.minimum, facts.maximum) == (plane.min(), plane.max())
        assert facts.mean == pytest.approx(float(plane.mean(dtype=np.float64)), abs=1e-3)
        plane[3, 4] += 1
        assert not has_digest(plane, facts.digest)
        assert not has_digest(plane, by_version_1)
    for data in (b"", b"some bytes"):
        (tmp_path / "f").write_bytes(data)
        assert file_sha256(tmp_path / "f") == hashlib.sha256(data).hexdigest()
