"""How deep a relief is: by normals that belong to it, by a stated tilt, told in a delivery."""

from __future__ import annotations

import numpy as np
import pytest

from copper_sieve.core.image.wrap import as_wrap
from copper_sieve.core.operations import SurfaceContext
from copper_sieve.core.operations.height.relief_depth import (
    depth_by_normals,
    depth_by_tilt,
    mean_tilt,
)
from tests.core.operating import band_limited, grey, run

TILE = as_wrap(True)


def normals_of(height: np.ndarray, depth: float) -> np.ndarray:
    return run("normal_from_height", height[:, :, None], SurfaceContext.of(1.0, depth, wrap=True))


def test_a_ramp_that_folds_back_has_the_depth_of_its_slope() -> None:
    up = np.linspace(0, 1, 128, dtype=np.float32)
    roof = np.tile(np.concatenate([up, up[::-1]]), (256, 1))
    # Half the width for all of the depth: tan 30 degrees over one half.
    due = np.tan(np.radians(30)) / 2
    assert depth_by_tilt(roof, 30, TILE) == pytest.approx(due, rel=0.02)
    assert depth_by_tilt(roof, 0, TILE) == 0
    assert depth_by_tilt(np.full((64, 64), 0.3, np.float32), 9, TILE) == 0


@pytest.mark.parametrize("degrees", [1, 6, 28])
def test_the_normals_of_a_height_have_the_tilt_that_was_stated(degrees: float) -> None:
    height = band_limited(3, 256)
    depth = depth_by_tilt(height, degrees, TILE)
    assert mean_tilt(normals_of(height, depth)) == pytest.approx(degrees, rel=0.03)


def test_all_sizes_of_a_result_have_one_depth() -> None:
    large = band_limited(4, 1024)
    small = large.reshape(512, 2, 512, 2).mean(axis=(1, 3))
    found = depth_by_tilt(large, 9, TILE), depth_by_tilt(small, 9, TILE)
    assert found[0] == pytest.approx(found[1], rel=1e-3)


def test_normals_tell_the_depth_of_their_height_whichever_way_it_stands() -> None:
    height = band_limited(5, 256)
    normal = normals_of(height, 0.037)
    assert depth_by_normals(height, normal, TILE) == pytest.approx(0.037, rel=0.02)
    assert depth_by_normals(1 - height, normal, TILE) == pytest.approx(0.037, rel=0.02)
    flat = np.zeros((256, 256, 3), np.float32)
    flat[:, :, 2] = 1
    assert depth_by_normals(height, flat, TILE) == 0


def test_normals_of_something_else_tell_their_tilt_only() -> None:
    height, other = band_limited(6, 256), band_limited(7, 256)
    normal = normals_of(other, 0.05)
    depth = depth_by_normals(height, normal, TILE)
    assert mean_tilt(normals_of(height, depth)) == pytest.approx(mean_tilt(normal), rel=0.1)


def test_an_integrated_height_gives_its_normals_back_at_the_depth_that_is_measured() -> None:
    height = band_limited(8, 256)
    normal = normals_of(height, 0.02)
    made = run("height_from_normal", normal, SurfaceContext.of(1.0, 0.5, wrap=True))[:, :, 0]
    again = normals_of(made, depth_by_normals(made, normal, TILE))
    angle = np.degrees(np.arccos(np.clip((again * normal).sum(axis=2), -1, 1)))
    assert angle.mean() < 0.3


@pytest.mark.parametrize("damage", ["short", "below", "spikes", "coarse"])
def test_damaged_normals_give_a_clean_height(damage: str) -> None:
    height = band_limited(9, 256)
    normal = normals_of(height, 0.03)
    rng = np.random.default_rng(2)
    if damage == "short":  # not of unit length
        normal *= rng.uniform(0.7, 1.2, (256, 256, 1)).astype(np.float32)
    if damage == "below":  # z below 0 in some texels
        normal[rng.random((256, 256)) < 0.002, 2] *= -1
    if damage == "spikes":  # texels that lie on their side
        normal[rng.random((256, 256)) < 0.001] = (0.99, 0.0, 0.01)
    if damage == "coarse":  # a palette of few directions
        normal = np.round(normal * 16) / np.float32(16)
    made = run(
        "height_from_normal", normal.astype(np.float32), SurfaceContext.of(1.0, 1, wrap=True)
    )
    power = np.abs(np.fft.fft2(made[:, :, 0] - made.mean())) ** 2
    at = np.abs(np.fft.fftfreq(256))
    finest = np.maximum(at[:, None], at[None])
    assert power[finest > 0.42].sum() < 0.05 * power.sum()
    assert np.corrcoef(made.ravel(), height.ravel())[0, 1] > 0.9


def test_the_slope_of_the_whole_picture_is_no_relief() -> None:
    height = band_limited(10, 256)
    normal = normals_of(height, 0.02)
    leaning = normal + np.float32([0.05, 0.03, 0])
    leaning /= np.linalg.norm(leaning, axis=2, keepdims=True)
    for wrap in (True, False):
        made = run("height_from_normal", leaning, SurfaceContext.of(1.0, 1, wrap=wrap))[:, :, 0]
        assert np.corrcoef(made.ravel(), height.ravel())[0, 1] > 0.97
    ramp = run("height_from_normal", leaning, SurfaceContext.of(1.0, 1), level=False)[:, :, 0]
    assert ramp[:, :8].mean() - ramp[:, -8:].mean() > 0.5  # as it leans


def _grainy_bricks() -> tuple[np.ndarray, np.ndarray]:
    """A color of bricks with joints and grain, and where the joints are."""
    y, x = np.mgrid[0:512, 0:512]
    joint = (y % 64 < 6) | ((x + 64 * (y // 64 % 2)) % 128 < 6)
    grain = np.random.default_rng(1).normal(0, 0.06, (512, 512))
    return grey(np.clip(np.where(joint, 0.15, 0.5) + grain, 0, 1)), joint


def test_grain_is_calmed_and_joints_stay() -> None:
    color, joint = _grainy_bricks()
    surface = SurfaceContext.of(1.0, 0.02, wrap=True)
    plain, calm = (run("height_from_color", color, surface, calm=c)[:, :, 0] for c in (0, 0.7))
    inside = np.zeros_like(joint)
    inside[20:50, :] = True
    inside &= ~joint

    def crisp(height: np.ndarray) -> float:
        """The step at the joints over the grain beside them."""
        step = height[50:58].mean() - height[65:69].mean()
        return float(step / np.diff(height, axis=1)[:, :-1][inside[:, :-2]].std())

    assert crisp(calm) > 1.5 * crisp(plain)
