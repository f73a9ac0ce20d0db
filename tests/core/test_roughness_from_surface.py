"""Roughness has a spread that light shows, and comes from where dirt lies and hands rub."""

from __future__ import annotations

import numpy as np
import pytest

from copper_sieve.core.image.map_kind import MapKind
from copper_sieve.core.models.texture_set import Derived, Imported, compose
from copper_sieve.core.operations.reflectance.roughness_from_surface import MATERIALS
from tests.core.operating import grey, run

NOTHING = {"hollows": 0, "worn": 0, "grain": 0, "light_is": "neither"}


def _pits() -> tuple[np.ndarray, np.ndarray, np.ndarray]:
    """A color with blotches, a height with pits, and where the pits are."""
    y, x = np.mgrid[0:256, 0:256] / 256
    pit = (np.sin(8 * np.pi * x) * np.sin(8 * np.pi * y)) > 0.8
    height = np.where(pit, 0.2, 0.8).astype(np.float32)
    blotch = 0.3 + 0.1 * np.sin(6 * np.pi * x)
    return grey(blotch.astype(np.float32)), height[:, :, None], pit


def made(color: np.ndarray, height: np.ndarray, **given: object) -> np.ndarray:
    return run("roughness_from_surface", color, also={"height": height}, **given)[:, :, 0]


def test_its_spread_and_its_middle_are_as_stated() -> None:
    color, height, _ = _pits()
    for spread in (0.04, 0.08):
        rough = made(color, height, spread=spread)
        assert rough.std() == pytest.approx(spread, rel=0.1)
        assert np.median(rough) == pytest.approx(0.7, abs=0.01)
    for material, middle in MATERIALS.items():
        assert np.median(made(color, height, material=material)) == pytest.approx(middle, abs=0.01)


def test_a_color_that_hardly_varies_gives_hardly_any_spread() -> None:
    _, height, _ = _pits()
    flat = grey(np.full((256, 256), 0.3, np.float32))
    assert made(flat, height).std() < 1e-6
    rng = np.random.default_rng(3)
    faint = grey(np.clip(0.3 + rng.normal(0, 0.003, (256, 256)), 0, 1).astype(np.float32))
    assert 0.001 < made(faint, height).std() < 0.04


def test_hollows_are_rough_and_what_stands_out_is_smooth() -> None:
    color, height, pit = _pits()
    hollow = made(color, height, **{**NOTHING, "hollows": 1})
    assert hollow[pit].mean() - hollow[~pit].mean() > 0.1
    bumps = made(color, 1 - height, **{**NOTHING, "worn": 1})
    assert bumps[pit].mean() - bumps[~pit].mean() < -0.1
    again = made(color, height, **{**NOTHING, "hollows": -1})
    assert again[pit].mean() < again[~pit].mean()


def test_the_sign_of_lightness_is_a_choice() -> None:
    color, height, _ = _pits()
    light = color[:, :, 0] > 0.35
    for choice, sign in (("rougher", 1), ("smoother", -1)):
        rough = made(color, height, **{**NOTHING, "light_is": choice})
        assert sign * (rough[light].mean() - rough[~light].mean()) > 0.05
    assert made(color, height, **NOTHING).std() < 1e-6


def test_a_new_set_gets_its_roughness_this_way() -> None:
    made_of_color = compose("wall", {MapKind.BASE_COLOR: Imported(source="a" * 64)})
    roughness = made_of_color.maps[MapKind.ROUGHNESS]
    assert isinstance(roughness, Derived)
    assert roughness.operation == "roughness_from_surface"


def test_it_wraps_where_the_borders_meet() -> None:
    color, height, _ = _pits()
    rolled = made(np.roll(color, 40, axis=1), np.roll(height, 40, axis=1))
    np.testing.assert_allclose(rolled, np.roll(made(color, height), 40, axis=1), atol=1e-4)
