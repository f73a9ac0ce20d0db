"""Metal/rough to specular/glossiness and back: against the formulas, and through 8-bit files."""

from __future__ import annotations

import numpy as np
import pytest

from copper_sieve.core.image.encoding import linear_to_srgb, quantize, srgb_to_linear
from copper_sieve.core.image.map_kind import MapKind
from copper_sieve.core.models.texture_set import Derived, Imported, compose
from copper_sieve.core.operations import get_operation
from copper_sieve.core.operations.declaration import SurfaceContext

SIDE = 128
PLAIN = SurfaceContext()


def compute(name: str, inputs: dict[MapKind, np.ndarray], **given: object) -> np.ndarray:
    operation = get_operation(name)
    return operation.compute(inputs, operation.resolve(given), PLAIN)


def material(metallic: np.ndarray, seed: int = 3) -> tuple[np.ndarray, np.ndarray]:
    """Random base colors as 8-bit codes have them, and the metallic (H, W, 1)."""
    rng = np.random.default_rng(seed)
    codes = rng.integers(0, 256, (SIDE, SIDE, 3))
    return srgb_to_linear(codes / 255), metallic.astype(np.float32)


def there(base: np.ndarray, metallic: np.ndarray, reading: str) -> dict[MapKind, np.ndarray]:
    maps = {MapKind.BASE_COLOR: base, MapKind.METALLIC: metallic}
    how = "energy" if reading == "perceived" else reading
    return {
        MapKind.DIFFUSE: compute("diffuse_from_metal_rough", maps, reading=how),
        MapKind.SPECULAR_COLOR: compute("specular_color_from_color", maps),
    }


def back(maps: dict[MapKind, np.ndarray], reading: str) -> tuple[np.ndarray, np.ndarray]:
    return (
        compute("base_color_from_spec_gloss", maps, reading=reading),
        compute("metallic_from_spec_gloss", maps, reading=reading),
    )


def codes_of(light: np.ndarray) -> np.ndarray:
    return quantize(linear_to_srgb(np.clip(light, 0, 1)), 8).astype(int)


def halves() -> np.ndarray:
    return np.random.default_rng(1).integers(0, 2, (SIDE, SIDE, 1))


def test_the_formulas_by_hand() -> None:
    base = np.full((1, 1, 3), 0.6, np.float32)
    base[0, 0, 1] = 0.2
    maps = {MapKind.BASE_COLOR: base, MapKind.METALLIC: np.full((1, 1, 1), 0.25, np.float32)}
    np.testing.assert_allclose(
        compute("diffuse_from_metal_rough", maps)[0, 0], [0.45, 0.15, 0.45], rtol=1e-6
    )
    specular = compute("specular_color_from_color", maps)[0, 0]
    np.testing.assert_allclose(specular, [0.18, 0.08, 0.18], rtol=1e-6)
    energy = compute("diffuse_from_metal_rough", maps, reading="energy")[0, 0]
    np.testing.assert_allclose(energy, np.array([0.6, 0.2, 0.6]) * 0.96 * 0.75 / 0.82, rtol=1e-6)


@pytest.mark.parametrize("reading", ["simple", "energy"])
def test_pure_metals_and_dielectrics_come_back_within_a_code(reading: str) -> None:
    base, metallic = material(halves())
    found, share = back(there(base, metallic, reading), reading)
    told = (base.mean(axis=2) > 0.002) | (metallic[:, :, 0] == 0)  # a black metal is none
    assert np.abs(codes_of(found) - codes_of(base))[told].max() <= 1
    assert np.abs(quantize(share, 8).astype(int) - quantize(metallic, 8))[told].max() <= 1


@pytest.mark.parametrize("reading", ["simple", "energy"])
def test_they_come_back_through_8_bit_files(reading: str) -> None:
    base, metallic = material(halves(), seed=8)
    maps = there(base, metallic, reading)
    stored = {kind: srgb_to_linear(codes_of(light) / 255) for kind, light in maps.items()}
    found, share = back(stored, reading)
    light = base.mean(axis=2)
    # Dielectrics nearly as dark as their reflection and metals as dark as a dielectric's cannot
    # be told from each other by codes.
    told = np.where(metallic[:, :, 0] == 0, light > 0.06, light > 0.1)
    assert told.mean() > 0.85
    wrong = np.abs(quantize(share, 8).astype(int) - quantize(metallic, 8))[told]
    assert wrong.max() <= 1
    away = np.abs(codes_of(found) - codes_of(base)).max(axis=2)
    # The energy reading divides by what the specular leaves: nothing, for a white metal.
    assert np.percentile(away[told], 99.9) <= 1


@pytest.mark.parametrize("reading", ["simple", "energy"])
def test_blends_come_back(reading: str) -> None:
    rng = np.random.default_rng(5)
    base = rng.uniform(0.1, 0.9, (SIDE, SIDE, 1)) * rng.uniform(0.8, 1, (SIDE, SIDE, 3))
    base = np.clip(base, 0.08, 1).astype(np.float32)
    metallic = rng.random((SIDE, SIDE, 1)).astype(np.float32)
    found, share = back(there(base, metallic, reading), reading)
    assert np.abs(share - metallic).mean() <= 0.002
    assert np.abs(found - base).mean() <= 0.002


def test_the_reading_by_brightness_is_near_and_not_exact() -> None:
    base, metallic = material(np.random.default_rng(2).random((SIDE, SIDE, 1)))
    base = np.clip(base, 0.08, 0.9)
    maps = there(base, metallic, "perceived")
    share = back(maps, "perceived")[1]
    exact = back(maps, "energy")[1]
    assert np.abs(share - metallic).mean() < 0.15
    assert np.abs(share - metallic).mean() > 10 * np.abs(exact - metallic).mean()


def test_dark_dielectrics_are_no_metal() -> None:
    for light in (0.0, 0.004, 0.02, 0.035):
        base = np.full((2, 2, 3), light, np.float32)
        maps = there(base, np.zeros((2, 2, 1), np.float32), "simple")
        found, share = back(maps, "simple")
        assert share.max() == 0
        np.testing.assert_allclose(found, base, atol=1e-6)


def test_gloss_inverts_exactly_on_codes() -> None:
    codes = np.arange(65536, dtype=np.float32).reshape(256, 256, 1) / np.float32(65535)
    gloss = compute("glossiness_from_roughness", {MapKind.ROUGHNESS: codes})
    np.testing.assert_array_equal(quantize(gloss, 16), 65535 - quantize(codes, 16))


def test_a_set_of_specular_pictures_gets_its_metal_rough_maps() -> None:
    kinds = (MapKind.DIFFUSE, MapKind.SPECULAR_COLOR, MapKind.GLOSSINESS)
    whole = compose("brass", {kind: Imported(source=f"{n:064x}") for n, kind in enumerate(kinds)})
    made = {k.value: d.operation for k, d in whole.maps.items() if isinstance(d, Derived)}
    assert made["base_color"] == "base_color_from_spec_gloss"
    assert made["metallic"] == "metallic_from_spec_gloss"
    assert made["roughness"] == "roughness_from_glossiness"
