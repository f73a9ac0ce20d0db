"""Pictures of all directions: a mirror ball unwrapped, the brightest place found."""

from __future__ import annotations

import numpy as np
import pytest

from copper_sieve.core.errors import ShapeError
from copper_sieve.core.image.panorama import (
    brightest_direction,
    check_panorama,
    directions,
    from_mirror_ball,
)


def spot(toward: tuple[float, float, float], width: int = 512, size: float = 0.1) -> np.ndarray:
    """Dim all around, with a bright place of so many radians: (width / 2, width, 3) float32."""
    unit = np.array(toward) / np.linalg.norm(toward)
    angle = np.arccos(np.clip(directions(width, width // 2) @ unit, -1, 1))
    light = 0.1 + 50 * np.exp(-((angle / size) ** 2))
    return np.repeat(light[:, :, None], 3, axis=2).astype(np.float32)


def test_the_middle_is_x_and_the_top_is_up() -> None:
    seen = directions(8, 4)
    np.testing.assert_allclose(np.linalg.norm(seen, axis=2), 1, atol=1e-6)
    middle = seen[1:3, 3:5].mean((0, 1))
    np.testing.assert_allclose(middle / np.linalg.norm(middle), [1, 0, 0], atol=1e-6)
    assert (seen[0, :, 1] > 0.9).all()
    assert seen[2, 6][2] > 0.8  # three quarters to the right: +z


@pytest.mark.parametrize(
    "toward", [(1, 0, 0), (0.2, 0.3, 0.9), (-0.9, -0.2, 0.1), (0.3, 0.8, -0.5), (-1, 0.05, 0.01)]
)
def test_the_brightest_place_is_found_within_two_degrees(
    toward: tuple[float, float, float],
) -> None:
    found, strength, mean = brightest_direction(spot(toward))
    unit = np.array(toward) / np.linalg.norm(toward)
    assert np.degrees(np.arccos(np.clip(np.array(found) @ unit, -1, 1))) < 2
    assert strength > 50
    assert 0.1 < mean < 0.4


def test_many_dim_texels_at_the_pole_are_not_brighter_than_one_lamp() -> None:
    light = np.full((128, 256, 3), 0.1, dtype=np.float32)
    light[:2] = 3.0  # a small cap, a whole row of texels
    light[60:68, 100:108] = 3.0
    found, _, _ = brightest_direction(light)
    assert abs(found[1]) < 0.2


def test_a_mirror_ball_shows_what_is_around_it() -> None:
    """A ball drawn by the mirror's law, unwrapped, is the surroundings that it was drawn from."""
    side, toward = 400, (0.5, 0.4, 0.3)
    unit = np.array(toward) / np.linalg.norm(toward)
    rows, columns = (np.mgrid[0:side, 0:side] + 0.5) / side * 2 - 1
    x, y = columns, -rows
    z = np.sqrt(np.maximum(1 - x * x - y * y, 0))
    normal = np.stack([x, y, z], axis=2)
    eye = np.array([0, 0, 1.0])
    reflected = 2 * (normal @ eye)[:, :, None] * normal - eye
    angle = np.arccos(np.clip(reflected @ unit, -1, 1))
    ball = np.repeat((0.1 + 50 * np.exp(-((angle / 0.1) ** 2)))[:, :, None], 3, axis=2)
    light = from_mirror_ball(ball.astype(np.float32), 512)
    assert light.shape == (256, 512, 3)
    found, _, _ = brightest_direction(light)
    assert np.degrees(np.arccos(np.clip(np.array(found) @ unit, -1, 1))) < 2
    wanted = spot(toward, 512)
    seen = directions(512, 256)[:, :, 2] > -0.8  # what is behind the ball was not seen
    assert np.abs(light - wanted)[seen].mean() < 0.02 * wanted[seen].mean()


def test_other_shapes_are_refused_in_words() -> None:
    check_panorama(1000, 500)
    check_panorama(1001, 500)
    with pytest.raises(ShapeError, match=r"1000 x 600 texels\. A 360° panorama"):
        check_panorama(1000, 600)
    with pytest.raises(ShapeError, match="Crop the photo to the ball"):
        from_mirror_ball(np.zeros((10, 20, 3), dtype=np.float32))
