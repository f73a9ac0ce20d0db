"""What evening takes out, and the dark places that are left."""

from __future__ import annotations

import cv2
import numpy as np
import pytest

from copper_sieve.core.operations.prepare.delight import blotches_of, delight, removed_lighting
from tests.core.prepare.things import bricks, coins, grit


def _stained(stops: float, side: int = 256) -> np.ndarray:
    """Even grit with two dark places, soft at their edges."""
    color = cv2.resize(grit(), (side, side), interpolation=cv2.INTER_AREA)
    y, x = np.mgrid[0:side, 0:side] / side
    spots = sum(
        np.exp(-(((x - a) ** 2 + (y - b) ** 2) / 0.012)) for a, b in ((0.3, 0.3), (0.7, 0.6))
    )
    return np.asarray(color * 2.0 ** (-stops * np.clip(spots, 0, 1))[:, :, None], np.float32)


def test_dark_blotches_are_found_and_one_move_takes_them_out() -> None:
    color = _stained(1.4)
    found = blotches_of(color, wrap=False)
    assert found
    assert 0.3 < found.stops < 1.0  # about their middle, softened as they are
    assert 0.05 < found.share < 0.3
    even = delight(color, strength=0.9, scale=found.scale, wrap=False)
    assert blotches_of(even, wrap=False) is None


@pytest.mark.parametrize("draw", [grit, bricks, coins])
def test_things_and_grain_are_no_blotches(draw) -> None:  # type: ignore[no-untyped-def]
    assert blotches_of(draw(), wrap=False) is None


def test_what_was_taken_out_is_a_picture_in_stops() -> None:
    color = _stained(0.0)
    lit = color.copy()
    lit[:, :128] *= 2.0  # one stop of light over the left half
    shown, stops = removed_lighting(lit, color)
    assert shown.shape == (256, 256, 1)
    np.testing.assert_allclose(shown[:, 64], 0.75, atol=0.012)  # darkness says less
    np.testing.assert_allclose(shown[:, 192], 0.5, atol=1e-6)
    assert stops == pytest.approx(1.0, abs=0.05)
