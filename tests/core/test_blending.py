"""Blending normals and heights against the maps of the summed fields."""

from __future__ import annotations

import numpy as np
import pytest

from copper_sieve.core.errors import ShapeError
from copper_sieve.core.operations import SurfaceContext
from copper_sieve.core.operations.normal.blend_normals import blend_normals
from tests.core.operating import TILE, angles, band_limited, run, slopes


def _two(seed: int, side: int = 256) -> tuple[np.ndarray, np.ndarray]:
    fields = [band_limited(seed + i, side)[:, :, None] * np.float32(0.5) for i in (0, 1)]
    return fields[0], fields[1]


@pytest.mark.parametrize("weight", [0.2, 1.0, 1.7])
@pytest.mark.parametrize("depth", [0.05, 0.3])
def test_adding_slopes_is_the_normal_of_the_summed_heights(weight: float, depth: float) -> None:
    first, second = _two(1)
    surface = SurfaceContext.of(1.0, depth, wrap=True)
    together = run("normal_from_height", first + np.float32(weight) * second, surface)
    other = run("normal_from_height", second, surface)
    blended = run("normal_from_height", first, surface, also={"second": other}, weight=weight)
    error = angles(blended, together)
    assert error.mean() <= 0.1
    assert error.max() <= 0.2
    assert angles(run("normal_from_height", first, surface), together).mean() > 0.5


def test_blending_with_a_flat_map_changes_nothing_either_way() -> None:
    normal = run("normal_from_height", _two(2)[0])
    flat = np.zeros_like(normal)
    flat[:, :, 2] = 1
    for turning in (False, True):
        np.testing.assert_allclose(
            blend_normals(normal, flat, weight=1, turning=turning), normal, atol=1e-6
        )
        np.testing.assert_allclose(
            blend_normals(flat, normal, weight=1, turning=turning), normal, atol=1e-6
        )
    np.testing.assert_array_equal(
        run("normal_from_picture", normal, also={"second": flat[::-1]}, weight=0), normal
    )


def test_turning_is_a_rotation_about_the_base() -> None:
    # On a base that leans 45 degrees to the right, a detail that leans 20 degrees upwards stays
    # 20 degrees away from the base, and perpendicular to the way the base leans.
    base = np.zeros((4, 4, 3), np.float32)
    base[:] = (np.sqrt(0.5), 0, np.sqrt(0.5))
    tilt = np.radians(20)
    detail = np.zeros_like(base)
    detail[:] = (0, np.sin(tilt), np.cos(tilt))
    turned = blend_normals(base, detail, weight=1, turning=True)
    np.testing.assert_allclose(angles(turned, base), 20, atol=1e-3)
    np.testing.assert_allclose(turned[0, 0, 1], np.sin(tilt), atol=1e-6)


def test_an_inside_out_map_is_turned_right_while_it_is_mixed_in() -> None:
    first, second = _two(3)
    inverted = run("normal_from_height", second, invert=True)
    right = run("normal_from_height", second)
    np.testing.assert_allclose(
        run("normal_from_height", first, also={"second": inverted}, mix_invert=True),
        run("normal_from_height", first, also={"second": right}),
        atol=1e-5,
    )


def test_sizes_must_agree() -> None:
    one, other = np.zeros((4, 4, 3), np.float32), np.zeros((4, 5, 3), np.float32)
    with pytest.raises(ShapeError, match="differ"):
        blend_normals(one, other, weight=1)


def test_an_imported_normal_is_strengthened_and_inverted_by_its_slopes() -> None:
    normal = run("normal_from_height", _two(4)[0])
    np.testing.assert_array_equal(run("normal_from_picture", normal), normal)
    np.testing.assert_allclose(
        slopes(run("normal_from_picture", normal, strength=2)), 2 * slopes(normal), atol=1e-4
    )
    np.testing.assert_allclose(
        run("normal_from_picture", normal, invert=True) * [-1, -1, 1], normal, atol=1e-5
    )
    assert slopes(run("normal_from_picture", normal, smoothing=0.02)).std() < slopes(normal).std()


def test_heights_are_combined() -> None:
    first, second = _two(5, 64)
    mix = {"also": {"second": second}}
    added = run("height_from_picture", first, weight=0.5, **mix)
    np.testing.assert_allclose(added, np.clip(first + 0.5 * (second - 0.5), 0, 1), atol=1e-6)
    highest = run("height_from_picture", first, weight=1, mix_by="highest", **mix)
    np.testing.assert_allclose(highest, np.maximum(first, second), atol=1e-6)
    lowest = run("height_from_picture", first, weight=1, mix_by="lowest", **mix)
    np.testing.assert_allclose(lowest, np.minimum(first, second), atol=1e-6)


def test_a_mask_levels_what_it_does_not_cover() -> None:
    height, _ = _two(6, 64)
    mask = np.zeros_like(height)
    mask[:, 32:] = 1
    out = run("height_from_picture", height, also={"mask": mask})
    np.testing.assert_allclose(out[:, :32], 0.5, atol=1e-6)
    np.testing.assert_allclose(out[:, 32:], height[:, 32:], atol=1e-6)


def test_range_shift_and_level_edges() -> None:
    height, _ = _two(7, 64)
    ranged = run("height_from_picture", height, fit=True, low=0.2, high=0.6)
    assert ranged.min() == pytest.approx(0.2, abs=1e-6)
    assert ranged.max() == pytest.approx(0.6, abs=1e-6)
    shifted = run("height_from_picture", height, bias=0.25)
    np.testing.assert_allclose(shifted, np.clip(height + 0.25, 0, 1), atol=1e-6)
    inverted = run("height_from_picture", height, low=1, high=0)
    np.testing.assert_allclose(inverted, 1 - height, atol=1e-6)
    ends = run("height_from_picture", height, SurfaceContext.of(wrap=False), edge_fade=0.2)
    np.testing.assert_allclose(ends[[0, -1]], 0.5, atol=0.01)
    np.testing.assert_allclose(ends[20:44, 20:44], height[20:44, 20:44], atol=1e-6)
    np.testing.assert_array_equal(run("height_from_picture", height, TILE, edge_fade=0.2), height)


def test_a_rotated_detail_never_faces_backwards() -> None:
    """Two steep normals that lean the same way would point below the surface without a limit."""
    steep = np.radians(80)
    base = np.zeros((4, 4, 3), np.float32)
    base[:] = (np.sin(steep), 0, np.cos(steep))
    turned = blend_normals(base, base.copy(), weight=1, turning=True)
    np.testing.assert_allclose(turned[0, 0], (1, 0, 0), atol=1e-6)
