"""Occlusion and what it is shared with, against marching rays over the whole of the same field."""

from __future__ import annotations

import cv2
import numpy as np
import pytest
from numba import njit, prange

from copper_sieve.core.operations import SurfaceContext
from tests.core.operating import band_limited, grey, run

SIDE = 256
STEP = 2  # of the texels at which rays are marched


@njit(parallel=True, cache=True)
def march(field: np.ndarray, reach: float, azimuths: int, elevations: int) -> np.ndarray:
    """Visibility of the upper hemisphere, cosine weighted, by marching rays of half a texel.

    field : heights in texels, tiling. Above the horizon of each azimuth the cosine to the surface's
    normal is summed up over elevations: no closed form of ours is used. Of every second texel each
    way.
    """
    rows, columns = field.shape
    out = np.empty((rows // STEP, columns // STEP))
    for row in prange(rows // STEP):
        for column in range(columns // STEP):
            r, c = row * STEP, column * STEP
            gx = (field[r, (c + 1) % columns] - field[r, c - 1]) / 2
            gr = (field[(r + 1) % rows, c] - field[r - 1, c]) / 2
            total = 0.0
            for k in range(azimuths):
                angle = 2 * np.pi * (k + 0.5) / azimuths
                across, down = np.cos(angle), np.sin(angle)
                slope = gx * across + gr * down
                highest = slope
                for i in range(1, int(2 * reach) + 1):
                    y, x = r + down * i / 2, c + across * i / 2
                    y0, x0 = int(np.floor(y)), int(np.floor(x))
                    fy, fx = y - y0, x - x0
                    y0, y1, x0, x1 = y0 % rows, (y0 + 1) % rows, x0 % columns, (x0 + 1) % columns
                    upper = field[y0, x0] * (1 - fx) + field[y0, x1] * fx
                    lower = field[y1, x0] * (1 - fx) + field[y1, x1] * fx
                    there = upper * (1 - fy) + lower * fy
                    highest = max(highest, (there - field[r, c]) / (i / 2))
                horizon = np.arctan(highest)
                arc = (np.pi / 2 - horizon) / elevations
                for j in range(elevations):
                    e = horizon + (j + 0.5) * arc
                    toward = np.sin(e) - slope * np.cos(e)
                    total += max(toward, 0.0) * np.cos(e) * arc
            steep = np.sqrt(1 + gx * gx + gr * gr)
            out[row, column] = total * 2 / azimuths / steep
    return out


def _noise(slope: float) -> np.ndarray:
    rng = np.random.default_rng(3)
    spectrum = np.fft.rfft2(rng.normal(size=(SIDE, SIDE)))
    f = np.hypot(np.fft.fftfreq(SIDE)[:, None], np.fft.rfftfreq(SIDE)[None])
    spectrum *= np.where(f > 0, np.maximum(f, 1 / SIDE) ** -slope, 0)
    field = np.fft.irfft2(spectrum)
    return (field - field.min()) / np.ptp(field)


def _bricks() -> np.ndarray:
    y, x = np.mgrid[0:SIDE, 0:SIDE] / SIDE
    down = y * 8 % 1
    across = (x * 4 + 0.5 * ((y * 8).astype(int) % 2)) % 1
    rim = np.minimum(np.minimum(across, 1 - across) * 2, np.minimum(down, 1 - down))
    return np.clip((rim - 0.04) / 0.06, 0, 1)


def _worn_bricks() -> np.ndarray:
    wide = np.pad(_bricks(), 8, mode="wrap")
    return cv2.GaussianBlur(wide, (0, 0), 1)[8:-8, 8:-8]


def _pebbles() -> np.ndarray:
    rng = np.random.default_rng(4)
    y, x = np.mgrid[0:SIDE, 0:SIDE] / SIDE
    field = np.zeros((SIDE, SIDE))
    for (py, px), radius in zip(rng.random((150, 2)), rng.uniform(0.03, 0.07, 150), strict=True):
        dy, dx = (y - py + 0.5) % 1 - 0.5, (x - px + 0.5) % 1 - 0.5
        field = np.maximum(field, np.sqrt(np.maximum(0, radius**2 - dy * dy - dx * dx)))
    return field / field.max()


def _from_a_photo() -> np.ndarray:
    light = np.exp(0.45 * (_noise(1.0) - 0.5) * 8) * 0.2
    return run("height_from_color", grey(np.clip(light, 0, 1)))[:, :, 0]


@pytest.mark.parametrize(
    ("field", "depth", "rmse"),
    [
        pytest.param(lambda: _noise(2.0), 0.2, 0.02, id="noise"),
        pytest.param(lambda: _noise(0.5), 0.03, 0.02, id="rough noise"),
        pytest.param(_bricks, 0.03, 0.02, id="bricks"),
        pytest.param(_worn_bricks, 0.08, 0.02, id="deep bricks"),
        pytest.param(_pebbles, 0.07, 0.02, id="pebbles"),
        pytest.param(_from_a_photo, 0.05, 0.03, id="from a photo"),
    ],
)
@pytest.mark.parametrize("radius", [0.05, 0.1])
def test_occlusion_against_marched_rays(field, depth: float, rmse: float, radius: float) -> None:  # type: ignore[no-untyped-def]
    height = field().astype(np.float32)
    truth = march(height.astype(np.float64) * depth * SIDE, radius * SIDE, 64, 12)
    surface = SurfaceContext.of(1.0, depth, wrap=True)
    mine = run("ambient_occlusion_from_height", height[:, :, None], surface, radius=radius)
    mine = mine[::STEP, ::STEP, 0]
    assert truth.min() < 0.8  # the field does occlude
    assert np.sqrt(np.mean((mine - truth) ** 2)) <= rmse
    assert np.corrcoef(mine.ravel(), truth.ravel())[0, 1] >= 0.98


def test_more_directions_come_closer() -> None:
    height = _bricks().astype(np.float32)
    truth = march(height.astype(np.float64) * 0.08 * SIDE, 0.05 * SIDE, 64, 12)
    surface = SurfaceContext.of(1.0, 0.08, wrap=True)
    errors = [
        np.abs(
            run("ambient_occlusion_from_height", height[:, :, None], surface, quality=quality)[
                ::STEP, ::STEP, 0
            ]
            - truth
        ).mean()
        for quality in ("draft", "good", "best")
    ]
    assert errors[0] > errors[1] > errors[2]


@pytest.mark.parametrize("name", ["ambient_occlusion_from_height", "bent_normal_from_height"])
def test_tiles_of_work_leave_no_trace(name: str) -> None:
    # Wider and taller than a piece of work: rolled by half of it, the result is rolled alike.
    height = np.tile(band_limited(5, 64), (2, 18))[:, :, None]
    surface = SurfaceContext.of(18.0, 0.3, wrap=True)
    plain = run(name, height, surface, radius=0.005)
    rolled = run(name, np.roll(height, (31, 511), (0, 1)), surface, radius=0.005)
    np.testing.assert_allclose(np.roll(plain, (31, 511), (0, 1)), rolled, atol=2e-4)
