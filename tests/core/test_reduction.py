"""Smaller maps that look the same: fitted lobes, coverage, unit normals; padding and dither."""

from __future__ import annotations

from typing import Any

import numpy as np
import pytest
import scipy.ndimage
from scipy.optimize import minimize_scalar

from copper_sieve.core.image.blue_noise import blue_noise, dithered_codes
from copper_sieve.core.image.encoding import quantize
from copper_sieve.core.image.map_kind import MapKind
from copper_sieve.core.image.normals import normalize
from copper_sieve.core.image.padding import nearest_covered_texels, pad_coverage
from copper_sieve.core.image.raster import Raster
from copper_sieve.core.image.reduction import (
    mip_chain,
    mip_sizes,
    preserve_coverage,
    reduce_picture,
)
from tests.core.rooms import drawn


def maps(**given: Any) -> dict[MapKind, Raster]:
    kinds = {MapKind(name): np.asarray(pixels, np.float32) for name, pixels in given.items()}
    return {kind: Raster(pixels, kind.facts.meaning) for kind, pixels in kinds.items()}


def bumps(slope: float, side: int = 64, seed: int = 0) -> np.ndarray:
    """Normals whose slopes are spread by a normal distribution of that deviation."""
    slopes = np.random.default_rng(seed).normal(0, slope, (side, side, 2))
    return normalize(np.dstack([-slopes, np.ones((side, side))]).astype(np.float32))


def lobe(cosine: np.ndarray, alpha: float) -> np.ndarray:
    """The distribution of microfacets that renderers use (GGX, Walter et al. 2007)."""
    held = np.maximum(cosine, 0)
    return np.where(cosine > 0, alpha**2 / (np.pi * (held**2 * (alpha**2 - 1) + 1) ** 2), 0)


def fitted_roughness(normals: np.ndarray, alpha: float) -> float:
    """The roughness of the one lobe nearest (least squares over directions) to all texels' lobes.

    Each texel's lobe lies about its own normal; the fitted one about their mean.
    """
    every = normals.reshape(-1, 3)[::3]
    mean = every.mean(axis=0) / np.linalg.norm(every.mean(axis=0))
    theta, phi = np.meshgrid(np.linspace(0.004, 1.56, 300), np.arange(6.0))
    h = np.stack([np.sin(theta) * np.cos(phi), np.sin(theta) * np.sin(phi), np.cos(theta)], -1)
    h = h.reshape(-1, 3)
    total = lobe(h @ every.T, alpha).mean(axis=1)
    area = np.sin(theta).ravel()

    def misfit(a: float) -> float:
        return float((area * (lobe(h @ mean, a) - total) ** 2).sum())

    found = minimize_scalar(misfit, bounds=(0.005, 1.5), method="bounded").x
    return float(np.sqrt(min(found, 1)))


@pytest.mark.parametrize("slope", [0.02, 0.05, 0.1, 0.15, 0.2])
@pytest.mark.parametrize("roughness", [0.1, 0.2, 0.3, 0.45, 0.6, 0.8])
def test_roughness_is_that_of_the_fitted_distribution(slope: float, roughness: float) -> None:
    normals = bumps(slope)
    flat = np.full((64, 64, 1), roughness, np.float32)
    (*_, last) = mip_chain(maps(normal=normals, roughness=flat))
    found = float(last[MapKind.ROUGHNESS].pixels[0, 0, 0])
    assert found == pytest.approx(fitted_roughness(normals, roughness**2), abs=0.02)


def test_gloss_is_the_same_the_other_way_and_flat_stays_exact() -> None:
    normals, rough = bumps(0.2), np.random.default_rng(1).random((64, 64, 1), dtype=np.float32)
    one = reduce_picture(maps(normal=normals, roughness=rough), 16, 16)
    other = reduce_picture(maps(normal=normals, glossiness=1 - rough), 16, 16)
    np.testing.assert_allclose(
        one[MapKind.ROUGHNESS].pixels, 1 - other[MapKind.GLOSSINESS].pixels, atol=1e-5
    )
    flat = maps(normal=np.full((8, 8, 3), (0, 0, 1)), roughness=np.full((8, 8, 1), 0.37))
    for level in mip_chain(flat):
        np.testing.assert_allclose(level[MapKind.ROUGHNESS].pixels, 0.37, atol=1e-6)


@pytest.mark.parametrize("size", [(64, 64), (100, 60), (37, 5), (1, 9)])
def test_a_chain_halves_down_to_one_texel_and_normals_stay_unit(size: tuple[int, int]) -> None:
    width, height = size
    rng = np.random.default_rng(0)
    normal = normalize(rng.normal(size=(height, width, 3)).astype(np.float32))
    color = rng.random((height, width, 3), dtype=np.float32)
    levels = list(mip_chain(maps(normal=normal, base_color=color)))
    assert [level[MapKind.NORMAL].size for level in levels] == mip_sizes(width, height)[1:]
    for level in levels:
        length = np.linalg.norm(level[MapKind.NORMAL].pixels, axis=2)
        np.testing.assert_allclose(length, 1, atol=5e-3)
    np.testing.assert_allclose(  # colors are averaged in linear light, through all levels
        levels[-1][MapKind.BASE_COLOR].pixels[0, 0], color.mean(axis=(0, 1)), atol=2e-2
    )


def _cut_outs() -> dict[str, np.ndarray]:
    rng = np.random.default_rng(2)
    y, x = np.indices((256, 256))
    noise = scipy.ndimage.gaussian_filter(rng.random((256, 256)), 2, mode="wrap")
    found = {
        "leaves": (noise > np.quantile(noise, 0.8)).astype(np.float32),
        "soft": np.clip((noise - noise.mean()) * 20 + 0.3, 0, 1),
        "lattice": (((x % 16) < 5) | ((y % 16) < 5)).astype(np.float32),
        "thin": ((x % 32) < 2).astype(np.float32),
        "grains": (rng.random((256, 256)) > 0.9).astype(np.float32),
    }
    lace = drawn("lace_blind")["opacity"].codes
    found["lace"] = lace[:, :, 0] / np.float32(np.iinfo(lace.dtype).max)
    return found


@pytest.mark.parametrize("name", ["leaves", "soft", "lattice", "thin", "grains", "lace"])
def test_cut_outs_keep_their_coverage_at_every_level(name: str) -> None:
    opacity = _cut_outs()[name].astype(np.float32)[:, :, None]
    due = float((opacity >= 0.5).mean())
    for level in mip_chain(maps(opacity=opacity)):
        values = level[MapKind.OPACITY].pixels
        # Of less than fifty texels no share can be hit nearer than half a texel.
        nearest = max(0.01, 0.5 / values.size + 1e-9)
        assert abs(float((values >= 0.5).mean()) - due) <= nearest
        codes = np.floor(values * 255 + 0.5)  # and so it is in a file of 8 bits
        assert abs(float((codes >= 128).mean()) - due) <= nearest


def test_opacity_without_a_cut_is_averaged() -> None:
    veil = np.random.default_rng(0).uniform(0.1, 0.4, (32, 32, 1)).astype(np.float32)
    assert preserve_coverage(veil, 0.0) is veil
    (first, *_) = mip_chain(maps(opacity=veil))
    due = veil.reshape(16, 2, 16, 2).mean(axis=(1, 3))
    np.testing.assert_allclose(first[MapKind.OPACITY].pixels[:, :, 0], due, atol=1e-6)


def test_pixel_art_is_never_mixed() -> None:
    colors = np.array([[0, 0, 0], [1, 0, 0], [0, 0.5, 0]], np.float32)
    art = colors[np.random.default_rng(0).integers(0, 3, (24, 24))]
    for size in ((12, 12), (7, 5), (48, 48)):
        small = reduce_picture(maps(base_color=art), *size, "nearest")[MapKind.BASE_COLOR].pixels
        assert {tuple(texel) for texel in small.reshape(-1, 3).tolist()} <= {
            tuple(color) for color in colors.tolist()
        }
    np.testing.assert_array_equal(
        reduce_picture(maps(base_color=art), 48, 48, "nearest")[MapKind.BASE_COLOR].pixels[
            ::2, ::2
        ],
        art,
    )


@pytest.mark.parametrize("share", [0.002, 0.03, 0.4])
@pytest.mark.parametrize("shape", [(40, 57), (33, 33), (1, 20), (20, 1)])
def test_padding_takes_the_nearest_covered_texel(share: float, shape: tuple[int, int]) -> None:
    mask = np.random.default_rng(4).random(shape) < share
    mask[shape[0] // 2, shape[1] // 3] = True
    rows, columns = np.indices(shape)
    found = nearest_covered_texels(mask)
    r, c = np.divmod(found, shape[1])
    assert mask[r, c].all()
    due = scipy.ndimage.distance_transform_edt(~mask)
    np.testing.assert_allclose(np.hypot(r - rows, c - columns), due)
    r, c = np.divmod(nearest_covered_texels(mask, wrap=True), shape[1])
    assert mask[r, c].all()
    dr, dc = np.abs(r - rows), np.abs(c - columns)
    around = np.hypot(np.minimum(dr, shape[0] - dr), np.minimum(dc, shape[1] - dc))
    wide = scipy.ndimage.distance_transform_edt(~np.tile(mask, (3, 3)))
    due = wide[shape[0] : 2 * shape[0], shape[1] : 2 * shape[1]]
    np.testing.assert_allclose(around, due)


def test_padding_reaches_as_far_as_it_is_told() -> None:
    color = np.zeros((9, 9, 3), np.float32)
    color[4, 4] = (0.2, 0.4, 0.6)
    mask = np.zeros((9, 9), bool)
    mask[4, 4] = True
    out = pad_coverage(color, mask, reach=2)
    grown = np.all(out == color[4, 4], axis=2)
    rows, columns = np.indices((9, 9))
    np.testing.assert_array_equal(grown, np.hypot(rows - 4, columns - 4) <= 2)
    assert np.all(pad_coverage(color, mask) == color[4, 4])
    np.testing.assert_array_equal(pad_coverage(color, np.zeros((9, 9), bool)), color)


def test_dither_is_even_and_has_no_coarse_structure() -> None:
    noise = blue_noise()
    assert len(np.unique(noise)) == noise.size
    assert -0.5 < noise.min() < noise.max() < 0.5
    power = np.abs(np.fft.fft2(noise)) ** 2
    away = np.hypot(*np.meshgrid(np.fft.fftfreq(64), np.fft.fftfreq(64)))
    assert power[(away > 0) & (away < 0.12)].mean() < 0.02 * power[away > 0.3].mean()


def test_dithered_codes_are_the_values_with_the_noise_and_flat_stays_flat() -> None:
    values = np.random.default_rng(3).random((70, 130), dtype=np.float32) * 1.2 - 0.1
    values[:, 40:60] = 0.5
    values[3, 3] = np.nan
    noise = np.tile(blue_noise(), (2, 3))[:70, :130] / np.float32(255)
    due = quantize(np.where(values == 0.5, values, values + noise), 8)
    np.testing.assert_array_equal(dithered_codes(values), due)
    assert (due[:, 40:60] == 128).all()
