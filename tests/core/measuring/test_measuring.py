"""Surfaces measured from drawn pictures, of which it is known what they show."""

from __future__ import annotations

from collections.abc import Sequence
from pathlib import Path

import cv2
import numpy as np
import pytest

import copper_sieve as cs
from copper_sieve.core.codecs import write_picture
from copper_sieve.core.errors import MeasureError
from copper_sieve.core.image.color_difference import delta_e_2000, to_lab
from copper_sieve.core.image.encoding import srgb_to_linear
from copper_sieve.core.image.map_kind import MapKind
from copper_sieve.core.image.raster import Encoding, Float, Picture
from copper_sieve.core.lighting.shading import Material, shade
from copper_sieve.core.measuring.light_directions import Lamp, check_lamps, one_sided_slopes
from copper_sieve.core.measuring.measure import MeasuredSurface, measure
from copper_sieve.core.measuring.simd_batch import specular_of
from copper_sieve.core.measuring.solving import solve
from copper_sieve.core.measuring.stack import Capture
from copper_sieve.core.operations import SurfaceContext as Flat
from copper_sieve.core.operations import get_operation
from copper_sieve.demo import lamp_pictures as drawn

SIZE = 128
LAMPS = drawn.ring_of_lamps(8)
TOWARDS = np.stack([lamp.unit for lamp in LAMPS]).astype(np.float32)


def angle(one: Float, other: Float) -> Float:
    """Degrees between unit vectors."""
    return np.degrees(np.arccos(np.clip((one * other).sum(-1), -1, 1)))


def plain_fit(pictures: Sequence[np.ndarray]) -> Float:
    """Normals by least squares over all pictures (Woodham 1980)."""
    bright = np.stack([srgb_to_linear(one / 255.0).mean(-1).ravel() for one in pictures])
    found = np.linalg.lstsq(TOWARDS, bright, rcond=None)[0].T.reshape(*pictures[0].shape)
    return found / np.maximum(np.linalg.norm(found, axis=-1, keepdims=True), 1e-6)


@pytest.mark.parametrize("kind", drawn.SURFACES)
def test_a_drawn_surface_is_found_again(kind: str) -> None:
    rng = np.random.default_rng(7)
    true = drawn.SURFACES[kind](SIZE, rng)
    # Hard-edged paint loses its color in a JPEG that keeps half of it, before anything is measured.
    pictures, exposure = drawn.pictures_of(true, LAMPS, rng, whole_colors=kind == "painted")
    captures = [Capture(one, lamp) for one, lamp in zip(pictures, LAMPS, strict=True)]
    found = measure(captures, white=exposure)
    off = angle(found.normal, true.normal)
    assert off.mean() <= 2.0
    if kind not in ("plaster", "cloth"):  # those have neither glints nor many shadows
        assert off.mean() <= 0.5 * angle(plain_fit(pictures), true.normal).mean()
    assert delta_e_2000(to_lab(found.color), to_lab(true.color)).mean() <= 3.0
    assert _agreement(found.normal, true.height) >= 0.97
    # Roughness, where a glint is a quarter of what any picture shows.
    black = drawn.SyntheticSurface(true.height, true.color * 0, true.roughness)
    shares = [
        drawn.lit_by(black, one).mean(-1) / np.maximum(drawn.lit_by(true, one).mean(-1), 1e-4)
        for one in LAMPS
    ]
    share = np.max(shares, axis=0)
    seen = share > 0.25
    if seen.mean() > 0.01:
        assert np.abs(found.roughness[..., 0] - true.roughness)[seen].mean() <= 0.08
    else:
        assert any("roughness is a guess" in one for one in found.remarks)
        assert found.confidence.mean() < 0.1
    # What is doubted is worse than the rest.
    doubted = found.uncertainty[..., 0] > 0.5
    if doubted.mean() > 1e-3:
        assert off[doubted].mean() > 2 * off[~doubted].mean()


def _agreement(normal: Float, true: Float) -> float:
    """Correlation of the height that a set makes of normals with the true one, but for what is
    larger than a quarter of the picture."""
    made = get_operation("height_from_normal")
    height = made.compute({MapKind.NORMAL: normal}, made.resolve({}), Flat())[:, :, 0]
    fine = [one - cv2.GaussianBlur(one, (0, 0), SIZE / 4) for one in (height, true)]
    return float(np.corrcoef(*(one.ravel() for one in fine))[0, 1])


def _matte(normal: Float, color: float, lamps: Sequence[Lamp]) -> list[Float]:
    return [np.repeat(color * np.maximum((normal * lamp.unit).sum(-1, keepdims=True), 0), 3, -1)
            .astype(np.float32) for lamp in lamps]  # fmt: skip


def _dome(size: int) -> Float:
    """Normals of a spherical cap, up to 40 degrees."""
    y, x = np.mgrid[:size, :size] / (size - 1) * 2 - 1
    x, y = 0.45 * x, -0.45 * y
    return np.stack([x, y, np.sqrt(1 - x * x - y * y)], axis=-1)


def test_three_lights_without_noise_are_exact() -> None:
    """I = a (n . l) is three equations for three unknowns."""
    lamps = [Lamp.at(a, 50) for a in (10, 130, 250)]
    normal = _dome(48)
    towards = np.stack([lamp.unit for lamp in lamps]).astype(np.float32)
    found = solve(np.stack(_matte(normal, 0.4, lamps)), towards, None, 1e-4)
    assert angle(found.normal, normal).max() < 0.1
    assert np.abs(found.color - 0.4).max() < 2e-3


def test_a_shadow_in_three_of_eight_changes_nothing() -> None:
    normal = _dome(32)
    light = np.stack(_matte(normal, 0.5, LAMPS))
    light[:3, 8:24, 8:24] *= 0.05
    found = solve(light, TOWARDS, None, 0.005)
    assert angle(found.normal, normal)[8:24, 8:24].mean() < 0.2
    assert found.lights[16, 16, 0] < 6 < found.lights[2, 2, 0]


def test_lamps_nearby_and_exposures() -> None:
    """A lamp two widths away: another direction at each texel, and less light with its square."""
    size = 64
    normal = np.zeros((size, size, 3))
    normal[..., 2] = 1
    lamps = [Lamp.at(a, 45, distance=2.0) for a in range(0, 360, 45)]
    x, y = np.meshgrid((np.arange(size) + 0.5) / size - 0.5, 0.5 - (np.arange(size) + 0.5) / size)
    captures = []
    for n, lamp in enumerate(lamps):
        way = lamp.unit * 2.0 - np.stack([x, y, np.zeros_like(x)], axis=-1)
        distant = np.linalg.norm(way, axis=-1, keepdims=True)
        light = 0.3 * (way / distant)[..., 2:] * (2.0 / distant) ** 2 * 2.0 ** (n % 2)
        captures.append(Capture(np.repeat(light, 3, -1).astype(np.float32), lamp, exposure=n % 2))
    found = measure(captures, noise=1e-3)
    assert angle(found.normal, normal).max() < 0.2
    assert np.ptp(found.color) < 2e-3  # and a little darker, by what any surface mirrors
    assert found.color.mean() == pytest.approx(0.3, abs=0.02)
    far_away = [
        Capture(capture.codes, Lamp(capture.lamp.direction), capture.exposure)
        for capture in captures
    ]
    assert angle(measure(far_away, noise=1e-3, distant=True).normal, normal).max() > 3


@pytest.mark.parametrize("roughness", [0.2, 0.5, 0.9])
def test_a_glint_is_that_of_the_reference_shader(roughness: float) -> None:
    rng = np.random.default_rng(4)
    normal = rng.normal(size=(40, 1, 3)) * 0.3 + [0, 0, 1]
    normal = (normal / np.linalg.norm(normal, axis=-1, keepdims=True)).astype(np.float32)
    black = np.zeros((40, 1, 3), np.float32)
    material = Material(black, black + 0.04, np.full((40, 1, 1), roughness, np.float32), normal)
    lamp = Lamp.at(70, 55)
    x, y, z = lamp.unit
    expected = shade(material, (((x, y, z), np.pi),), sky=0.0)[:, 0, 0]
    own = [
        specular_of(*map(np.float32, (*n, x, y, z)), np.float32(roughness**2)) for n in normal[:, 0]
    ]
    assert np.allclose(own, expected, rtol=2e-3, atol=1e-6)


@pytest.mark.parametrize(
    ("lamps", "says"),
    [
        ([Lamp.at(0, 45), Lamp.at(120, 45)], "2 light captures are too few"),
        ([Lamp.at(5 * n, 45) for n in range(65)], "Use 64 with light directions from all sides"),
        ([Lamp.at(a, 45) for a in (0, 3, 6, 9)], "from almost the same side"),
        (
            [Lamp.at(0, u) for u in (20, 40, 60, 80)],
            "from almost the same side or are on one line",
        ),
        (
            [Lamp.at(0, 45), Lamp.at(120, 45), Lamp.at(240, -10)],
            "light of picture 3 is below the surface",
        ),
    ],
)
def test_lights_that_tell_nothing_are_refused(lamps: list[Lamp], says: str) -> None:
    with pytest.raises(MeasureError, match=says):
        check_lamps(lamps)


def test_a_side_without_light_is_told() -> None:
    assert one_sided_slopes([Lamp.at(a, 45) for a in (0, 50, 100, 150)])
    assert not one_sided_slopes(LAMPS)
    lamps = [Lamp.at(a, 45) for a in (0, 50, 100, 150)]
    captures = [
        Capture(one, lamp) for one, lamp in zip(_matte(_dome(32), 0.5, lamps), lamps, strict=True)
    ]
    assert any("no light came from one of the sides" in one for one in measure(captures).remarks)


def test_pictures_of_different_sizes_are_refused() -> None:
    captures = [
        Capture(one, lamp) for one, lamp in zip(_matte(_dome(32), 0.5, LAMPS), LAMPS, strict=True)
    ]
    captures[2] = Capture(captures[2].codes[:16], LAMPS[2])
    with pytest.raises(MeasureError, match="picture 3 has 32 x 16 px, the first has 32 x 32"):
        measure(captures)


def test_black_pictures_are_all_doubt() -> None:
    captures = [Capture(np.zeros((16, 16, 3), np.uint8), lamp) for lamp in LAMPS]
    found: MeasuredSurface = measure(captures)
    assert (found.uncertainty == 1).all()
    assert any("100% of the surface is uncertain" in one for one in found.remarks)


def test_files_in_and_maps_out(tmp_path: Path) -> None:
    """By the library: what was drawn comes back, and the height goes with the normals."""
    rng = np.random.default_rng(3)
    true = drawn.pebbles(96, rng)
    pictures, exposure = drawn.pictures_of(true, LAMPS, rng, quality=None)
    paths = []
    for n, codes in enumerate(pictures):
        paths.append(tmp_path / f"stones_{n}.png")
        write_picture(paths[-1], Picture(codes, ("R", "G", "B"), Encoding.SRGB), "png")
    found = cs.measure(paths, LAMPS, white=exposure)
    assert angle(found.surface.normal, true.normal).mean() < 2
    assert np.corrcoef(found.height.ravel(), true.height.ravel())[0, 1] > 0.97
    assert found.depth == pytest.approx(np.ptp(true.height) / 96, rel=0.15)
    down = cs.measure(paths, LAMPS, white=exposure, normal_y="down").picture("normal", 8).codes
    elevation = found.picture("normal", 8).codes
    assert np.abs(down[..., 1].astype(int) + elevation[..., 1] - 255).max() <= 1
    with pytest.raises(MeasureError, match="8 pictures but 7 lights"):
        cs.measure(paths, LAMPS[:7])
