"""Pictures of one surface under several lights, told from pictures that only look alike."""

from __future__ import annotations

import cv2
import numpy as np
import pytest

from copper_sieve.core.detection.one_surface import is_one_surface, names_differ_by_number
from copper_sieve.core.image.raster import Codes
from copper_sieve.core.measuring.rotation_registration import coarse_rotations
from copper_sieve.demo import lamp_pictures as drawn


def small(kind: str, lamps: int = 8, seed: int = 3) -> list[Codes]:
    """Small copies of drawn pictures, as Intake has them."""
    rng = np.random.default_rng(seed)
    codes, _ = drawn.pictures_of(drawn.SURFACES[kind](256, rng), drawn.ring_of_lamps(lamps), rng)
    return [cv2.resize(one, (192, 192), interpolation=cv2.INTER_AREA) for one in codes]


@pytest.mark.parametrize("kind", drawn.SURFACES)
@pytest.mark.parametrize("lamps", [5, 9])
def test_one_surface_is_noticed_whatever_it_is(kind: str, lamps: int) -> None:
    found = is_one_surface(small(kind, lamps))
    assert found is not None
    assert found.strangers == ()


def test_different_surfaces_are_not() -> None:
    each = [small(kind, 4)[n % 4] for n, kind in enumerate(drawn.SURFACES)]
    assert is_one_surface(each) is None
    assert is_one_surface(small("plaster", 4) + small("pebbles", 4)) is None
    assert is_one_surface(small("plaster")[:3]) is None  # three tell nothing


def test_pieces_of_one_pattern_are_no_turned_sample() -> None:
    """Tiles of a floor lie upon each other shifted, and turned by halves."""
    y, x = np.mgrid[:400, :400]
    rng = np.random.default_rng(5)
    joints = np.where((x % 37 < 3) | (y % 29 < 3), 0.2, 0.6)[..., None] * (1, 0.9, 0.8)
    codes = (255 * np.clip(joints + rng.normal(0, 0.02, (400, 400, 1)), 0, 1)).astype(np.uint8)
    pieces = [codes[a : a + 192, b : b + 192].copy() for a, b in rng.integers(0, 200, (6, 2))]
    turns = coarse_rotations([one.astype(np.float32) for one in pieces])
    assert turns is not None and all(abs(one.rotation) % 180 < 5 for one in turns)
    assert is_one_surface(pieces) is None


def test_normal_maps_of_one_thing_are_not_measured_and_names_must_differ_in_a_number() -> None:
    pictures = small("plaster")
    assert is_one_surface(pictures, vectors=4) is not None
    assert is_one_surface(pictures, vectors=5) is None
    names = [*(f"Bark_{n}" for n in range(4)), *(f"bark{n}" for n in range(3)), "bark", "moss_7"]
    assert names_differ_by_number(names, lambda one: ("", one)) == [names[:4]]


def test_they_stand_in_the_order_in_which_they_were_taken() -> None:
    """However they came in: a guess of their lights begins with the first of them."""
    names = [f"IMG_{n}" for n in (10, 9, 12, 8, 11)]
    (found,) = names_differ_by_number(names, lambda one: ("", one))
    assert found == [f"IMG_{n}" for n in (8, 9, 10, 11, 12)]


def test_a_picture_of_something_else_is_told() -> None:
    pictures = small("wood")
    pictures[5] = small("leather", 4)[1]
    found = is_one_surface(pictures)
    assert found is not None
    assert found.strangers == (5,)
    assert found.shared[5] == 0
    assert min(found.shared[:5]) > 0.7


def test_one_light_or_another_color_of_the_same_is_not_measured() -> None:
    """A series of shots without a lamp, and the same tile glazed in four colors."""
    rng = np.random.default_rng(8)
    lit = small("tiles")[0]
    series = [np.clip(lit + rng.normal(0, 2, lit.shape), 0, 255).astype(np.uint8) for _ in range(5)]
    assert is_one_surface(series) is None
    glazes = [(1, 1, 1), (0.6, 0.9, 1), (1, 0.7, 0.5), (0.8, 1, 0.7)]
    assert is_one_surface([(lit * np.array(one)).astype(np.uint8) for one in glazes]) is None
