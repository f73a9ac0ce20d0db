"""The direction of green on more than a thousand maps, and where it must not be told."""

from __future__ import annotations

from collections import Counter
from collections.abc import Callable

import cv2
import numpy as np
import pytest

from copper_sieve.core.detection.classify import Recognition, recognize_picture
from copper_sieve.core.image.raster import Encoding, Picture
from tests.core.recognition.maps import (
    FIELDS,
    blended,
    encoded,
    jpeg,
    noisy,
    normals,
    relief,
)

SIDE = 256
Codes = np.ndarray


def _with_blue(codes: Codes, value: int) -> Codes:
    return np.dstack([codes[:, :, :2], np.full(codes.shape[:2], value, np.uint8)])


# What happens to a file, and from which strength on its direction can be told in every case:
# rounding, noise and losses drown the slopes of flatter maps.
HAPPENS: dict[str, tuple[Callable[[Codes], Codes], float]] = {
    "8 bits": (lambda c: c, 0.02),
    "noise of 1 code": (lambda c: noisy(c, 1), 0.02),
    "noise of 3 codes": (lambda c: noisy(c, 3), 0.05),
    "JPEG 90": (lambda c: jpeg(c, 90), 0.05),
    "JPEG 75": (lambda c: jpeg(c, 75), 0.05),
    "JPEG 50": (lambda c: jpeg(c, 50), 0.3),
    "JPEG 30": (lambda c: jpeg(c, 30), 0.5),
    "blur": (lambda c: cv2.GaussianBlur(c, (0, 0), 1.0), 0.02),
    "crop": (lambda c: c[37:238, 5:251], 0.02),
    "quarter size": (lambda c: cv2.resize(c, (SIDE // 4,) * 2, interpolation=cv2.INTER_AREA), 0.02),
    "two channels": (lambda c: _with_blue(c, 0), 0.02),
    "two channels, white": (lambda c: _with_blue(c, 255), 0.02),
}
STRENGTHS = (0.02, 0.05, 0.3, 1.0, 4.0)


def measured(codes: Codes, *, loss: str = "none") -> Recognition:
    picture = Picture(np.ascontiguousarray(codes), tuple("RGB"), Encoding.SRGB)
    return recognize_picture("surface", picture, loss=loss)  # type: ignore[arg-type]


def loss_of(name: str) -> str:
    """What `recognize_file` would have told of such a file."""
    return {"JPEG 90": "light"}.get(name, "heavy" if name.startswith("JPEG") else "none")


def test_direction_is_never_wrong_and_nearly_always_told() -> None:
    counted: Counter[str] = Counter()
    told_where_possible: Counter[bool] = Counter()
    missed = []
    for kind in FIELDS:
        field = relief(kind, 1, SIDE)
        for strength in STRENGTHS:
            for down in (False, True):
                codes = encoded(normals(field, strength, down=down))
                for name, (happen, least) in HAPPENS.items():
                    found = measured(happen(codes), loss=loss_of(name))
                    wanted = "down" if down else "up"
                    wrong = found.normal_y in ("up", "down") and found.normal_y != wanted
                    assert not wrong, (kind, strength, name, found)
                    counted[found.normal_y] += 1
                    if strength >= least:
                        told_where_possible[found.normal_y == wanted] += 1
                        if found.normal_y != wanted:
                            missed.append((kind, strength, name, found.normal_y))
    assert sum(counted.values()) >= 1000
    share = told_where_possible[True] / sum(told_where_possible.values())
    print(f"\n{sum(counted.values())} cases, none wrong; told where possible {share:.2%}, {missed}")
    assert share >= 0.99, missed


@pytest.mark.parametrize("kernel", ["sobel", "forward"])
@pytest.mark.parametrize("kind", FIELDS)
def test_however_the_slopes_were_taken(kind: str, kernel: str) -> None:
    for down in (False, True):
        codes = encoded(normals(relief(kind, 2, SIDE), 0.5, down=down, kernel=kernel))
        assert measured(codes).normal_y == ("down" if down else "up")


def _random_vectors() -> Codes:
    vectors = np.random.default_rng(1).normal(size=(SIDE, SIDE, 3))
    vectors[..., 2] = 2 * np.abs(vectors[..., 2]) + 0.5
    return encoded(vectors / np.linalg.norm(vectors, axis=-1, keepdims=True))


def _corrugation(axis: int) -> Codes:
    wave = np.sin(2 * np.pi * 12 * np.mgrid[0:SIDE, 0:SIDE][axis] / SIDE)
    return encoded(normals(wave, 0.5, down=False))


def _photo() -> Codes:
    light = relief("stones", 3, SIDE)[..., None]
    color = np.array([0.75, 0.6, 0.45]) * (0.4 + 0.6 * light)
    return (color * 255).astype(np.uint8)


def _sky() -> Codes:
    light = relief("soft", 3, SIDE)[..., None]
    return ((np.array([0.35, 0.5, 0.8]) + light * 0.15) * 255).astype(np.uint8)


@pytest.mark.parametrize(
    "codes",
    [
        pytest.param(lambda: np.tile(np.array([128, 128, 255], np.uint8), (64, 64, 1)), id="flat"),
        pytest.param(lambda: noisy(np.tile(np.array([128, 128, 255], np.uint8), (256, 256, 1)), 2),
                     id="flat and noisy"),
        pytest.param(lambda: _corrugation(0), id="corrugation down"),
        pytest.param(lambda: _corrugation(1), id="corrugation across"),
        pytest.param(lambda: noisy(_corrugation(1), 2), id="noisy corrugation"),
        pytest.param(lambda: jpeg(_corrugation(0), 60), id="corrugation through JPEG"),
        pytest.param(_random_vectors, id="random vectors"),
        pytest.param(_photo, id="photo"),
        pytest.param(lambda: jpeg(_photo(), 80), id="photo through JPEG"),
        pytest.param(_sky, id="sky"),
    ],
)  # fmt: skip
def test_no_guess_where_nothing_tells(codes: Callable[[], Codes]) -> None:
    found = measured(codes())
    assert found.normal_y == "unknown"
    assert found.normal_confidence == 0
    assert found.normal_reason


@pytest.mark.parametrize("happens", ["8 bits", "noise of 1 code", "blur"])
def test_detail_of_the_other_direction_is_noticed(happens: str) -> None:
    counted: Counter[bool] = Counter()
    for base in ("bricks", "pebbles", "stones", "cracks", "hammered", "soft", "wood"):
        for detail in ("rough", "fine", "scratches", "weave", "stones"):
            for down in (False, True):
                broad = normals(relief(base, 1, SIDE), 1.0, down=down)
                fine = normals(relief(detail, 7, SIDE), 1.0, down=not down)
                found = measured(HAPPENS[happens][0](encoded(blended(broad, fine))))
                counted[found.normal_y in ("mixed", "unknown")] += 1
    assert counted[True] / sum(counted.values()) >= 0.97, counted


def test_object_space_normals_are_no_tangent_space_ones() -> None:
    y, x = np.mgrid[-1:1:256j, -1:1:256j]
    around, up = x * np.pi, y * np.pi / 2
    vectors = np.stack([np.cos(up) * np.cos(around), np.sin(up), np.cos(up) * np.sin(around)], -1)
    found = measured(encoded(vectors))
    assert found.map is None
    assert found.normal_y == "unknown"
    assert any("object-space" in remark for remark in found.remarks)


def test_a_name_that_says_otherwise_is_remarked_on() -> None:
    codes = encoded(normals(relief("pebbles", 1, SIDE), 0.5, down=True))
    picture = Picture(codes, tuple("RGB"), Encoding.SRGB)
    found = recognize_picture("wall_normal_gl", picture, loss="none")
    assert found.normal_y == "down"
    assert any("its name states Y+" in remark for remark in found.remarks)


def test_sixteen_bits_and_halves_are_measured_alike() -> None:
    vectors = normals(relief("stones", 1, SIDE), 0.05, down=True)
    v = vectors * 0.5 + 0.5
    for codes in (np.round(v * 65535).astype(np.uint16), v.astype(np.float16).astype(np.float32)):
        assert measured(codes).normal_y == "down"
