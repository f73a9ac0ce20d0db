"""Framing: straightening, turning and cropping, of colors and of normals with them."""

from __future__ import annotations

import numpy as np
import pytest
from PIL import Image

from copper_sieve.core.image.map_kind import Meaning
from copper_sieve.core.image.normals import normalize
from copper_sieve.core.operations.prepare.frame import (
    Frame,
    apply_frame,
    is_convex,
    seen_aspect,
    transform,
)
from tests.core.recognition.maps import relief

SLANTED = ((0.1, 0.05), (0.85, 0.12), (0.95, 0.9), (0.03, 0.97))


def picture(rows: int = 60, columns: int = 96) -> np.ndarray:
    """A smooth one, whose every texel differs."""
    y, x = np.mgrid[0:rows, 0:columns].astype(np.float32)
    one = 0.5 + 0.3 * np.sin(x / 7) * np.cos(y / 9) + 0.001 * x
    return np.stack([one, 0.2 + 0.005 * x, 0.2 + 0.005 * y], axis=2).astype(np.float32)


def framed(frame: Frame, pixels: np.ndarray, meaning: Meaning = Meaning.COLOR) -> np.ndarray:
    return apply_frame(pixels, frame, meaning, frame.size(pixels.shape[1], pixels.shape[0]))


def tilted(x: float, y: float) -> np.ndarray:
    """The normals of a plane."""
    vector = normalize(np.array([[[x, y, 1.0]]], dtype=np.float32))
    return np.tile(vector, (240, 360, 1))


@pytest.mark.parametrize("turns", range(4))
@pytest.mark.parametrize("mirror", [False, True])
def test_turns_and_mirrors_move_texels_as_they_are(turns: int, mirror: bool) -> None:
    there = picture()
    wanted = np.rot90(there, -turns)
    wanted = wanted[:, ::-1] if mirror else wanted
    np.testing.assert_array_equal(framed(Frame(quarter_turns=turns, mirror=mirror), there), wanted)


def test_a_crop_is_a_slice() -> None:
    there = picture()
    frame = Frame(crop=(0.25, 0.1, 0.75, 0.9))
    assert frame.size(96, 60) == (48, 48)
    np.testing.assert_array_equal(framed(frame, there), there[6:54, 24:72])


@pytest.mark.parametrize(
    ("frame", "seen"),
    [
        (Frame(quarter_turns=1), (0.0, -0.5)),  # what leaned right leans down
        (Frame(quarter_turns=2), (-0.5, 0.0)),
        (Frame(quarter_turns=3), (0.0, 0.5)),
        (Frame(mirror=True), (-0.5, 0.0)),
        (Frame(angle=30), (0.5 * np.cos(np.pi / 6), -0.5 * np.sin(np.pi / 6))),
        (Frame(mirror=True, angle=30), (-0.5 * np.cos(np.pi / 6), 0.5 * np.sin(np.pi / 6))),
    ],
)
def test_normals_turn_with_the_picture(frame: Frame, seen: tuple[float, float]) -> None:
    found = framed(frame, tilted(0.5, 0.0), Meaning.NORMAL)
    np.testing.assert_allclose(np.linalg.norm(found, axis=2), 1, atol=1e-5)
    slopes = found[:, :, :2] / found[:, :, 2:]
    np.testing.assert_allclose(slopes.reshape(-1, 2), np.tile(seen, (slopes.size // 2, 1)),
                               atol=1e-3)  # fmt: skip


@pytest.mark.parametrize(
    "frame",
    [
        Frame(quarter_turns=1), Frame(quarter_turns=2, mirror=True), Frame(quarter_turns=3),
        Frame(angle=30), Frame(mirror=True, angle=-20, crop=(0.3, 0.3, 0.9, 0.8)),
        Frame(corners=((0.1, 0.1), (0.9, 0.2), (0.9, 0.9), (0.1, 0.8)), aspect=1.5),
    ],
)  # fmt: skip
def test_a_direction_turns_as_the_rise_of_a_ramp_does(frame: Frame) -> None:
    rows, columns = 240, 360
    y, x = np.mgrid[0:rows, 0:columns] / columns
    for degrees in (0, 35, 110, 260):
        way = np.cos(np.radians(degrees)), -np.sin(np.radians(degrees))
        # Lines of equal value lie along the direction: they stay lines in a slanted frame.
        ramp = (0.5 + 0.5 * (way[1] * x - way[0] * y)).astype(np.float32)
        seen = framed(frame, np.repeat(ramp[:, :, None], 3, axis=2))[:, :, 0]
        y_mid, x_mid = seen.shape[0] // 2, seen.shape[1] // 2
        down = seen[y_mid + 20, x_mid] - seen[y_mid - 20, x_mid]
        across = seen[y_mid, x_mid + 20] - seen[y_mid, x_mid - 20]
        along = np.degrees(np.arctan2(across, down)) % 180  # across the rise
        told = frame.direction(degrees, columns, rows)
        assert abs((told - along + 90) % 180 - 90) < 0.5


def _normals(height: np.ndarray) -> np.ndarray:
    """By central differences, Y up."""
    down, across = np.gradient(height)
    return normalize(np.dstack([-across, down, np.ones_like(height)]).astype(np.float32))


def test_framed_normals_are_those_of_the_framed_relief() -> None:
    height = 6 * relief("soft", 3, 256).astype(np.float32)
    # A small turn and a hardly slanted frame: the relief keeps its scale.
    frame = Frame(corners=((0.03, 0.02), (0.98, 0.03), (0.97, 0.98), (0.02, 0.97)), angle=20)
    of_framed = _normals(framed(frame, height[:, :, None], Meaning.DATA)[:, :, 0])
    found = framed(frame, _normals(height), Meaning.NORMAL)
    away = np.degrees(np.arccos(np.clip((found * of_framed).sum(axis=2), -1, 1)))
    assert np.median(away) < 1.0
    not_turned = framed(frame, _normals(height), Meaning.COLOR)
    lost = np.degrees(np.arccos(np.clip((normalize(not_turned) * of_framed).sum(axis=2), -1, 1)))
    assert np.median(lost) > 3 * np.median(away)


def test_straightening_is_what_an_independent_program_makes_of_it() -> None:
    there = picture(240, 320)
    frame = Frame(corners=SLANTED)
    width, height = frame.size(320, 240)
    # Eight coefficients from four pairs of points, solved by hand.
    square = [(0, 0), (width, 0), (width, height), (0, height)]
    rows, wanted = [], []
    for (u, v), (x, y) in zip(square, [(a * 320, b * 240) for a, b in SLANTED], strict=True):
        rows += [[u, v, 1, 0, 0, 0, -u * x, -v * x], [0, 0, 0, u, v, 1, -u * y, -v * y]]
        wanted += [x, y]
    coefficients = np.linalg.solve(np.array(rows, float), np.array(wanted, float))
    for channel in range(3):
        other = Image.fromarray(there[:, :, channel]).transform(
            (width, height), Image.Transform.PERSPECTIVE, coefficients.tolist(),
            Image.Resampling.BICUBIC,
        )  # fmt: skip
        difference = np.abs(np.asarray(other) - framed(frame, there)[:, :, channel])
        assert np.percentile(difference[4:-4, 4:-4], 99) < 0.004


def test_the_true_shape_is_seen_in_perspective() -> None:
    """A rectangle of 1.5 : 1 before a camera turned by 35 and 20 degrees."""
    a, b = np.radians(35), np.radians(20)
    around = np.array([[np.cos(a), 0, np.sin(a)], [0, 1, 0], [-np.sin(a), 0, np.cos(a)]])
    up = np.array([[1, 0, 0], [0, np.cos(b), -np.sin(b)], [0, np.sin(b), np.cos(b)]])
    corners = np.array([(-1.5, -1, 0), (1.5, -1, 0), (1.5, 1, 0), (-1.5, 1, 0)]) @ (up @ around).T
    corners[:, 2] += 6
    focus, width, height = 900.0, 1200, 800
    seen = corners[:, :2] / corners[:, 2:] * focus + (width / 2, height / 2)
    places = tuple((float(x) / width, float(y) / height) for x, y in seen)
    assert is_convex(places)
    assert seen_aspect(places, width, height) == pytest.approx(1.5, rel=0.01)
    sides = np.linalg.norm(np.roll(seen, -1, axis=0) - seen, axis=1)
    assert abs((sides[0] + sides[2]) / (sides[1] + sides[3]) - 1.5) > 0.1  # not by measuring it


def test_a_part_without_perspective_keeps_the_ratio_of_its_sides() -> None:
    corners = ((0.25, 0.25), (0.75, 0.25), (0.75, 0.75), (0.25, 0.75))
    assert seen_aspect(corners, 200, 100) == pytest.approx(2.0)
    assert Frame(corners=corners).size(200, 100) == (100, 50)
    assert Frame(corners=corners, aspect=1.0).size(200, 100) == (100, 100)


def test_a_rotated_frame_has_no_empty_corners_and_keeps_its_shape() -> None:
    for angle in (-45.0, -10.0, 3.0, 30.0, 45.0):
        frame = Frame(angle=angle)
        corners = transform([(0, 0), (1, 0), (1, 1), (0, 1)], frame.mapping(300, 200))
        assert corners.min() > -1e-9
        assert corners.max() < 1 + 1e-9
        width, height = frame.size(300, 200)
        assert width / height == pytest.approx(1.5, rel=0.01)
    # Clockwise: what lay above the middle lies to its right.
    there = np.zeros((200, 200, 1), np.float32)
    there[60:70, 95:105] = 1
    found = framed(Frame(angle=45), there, Meaning.DATA)[:, :, 0]
    row, column = (float(np.average(i, weights=found)) for i in np.indices(found.shape))
    assert column - found.shape[1] / 2 > 15
    assert row - found.shape[0] / 2 < -15


def test_corners_with_a_dent_or_the_wrong_way_round_are_no_frame() -> None:
    assert is_convex(SLANTED)
    assert not is_convex(tuple(reversed(SLANTED)))
    assert not is_convex(((0, 0), (1, 0), (0.2, 0.2), (0, 1)))
