"""How much a surface mirrors head on, told by its glints."""

from __future__ import annotations

import numpy as np
import pytest

from copper_sieve.core.image.map_kind import MapKind
from copper_sieve.core.measuring.measure import MeasuredSurface, measure
from copper_sieve.core.measuring.stack import Capture
from copper_sieve.core.operations import SurfaceContext as Flat
from copper_sieve.core.operations import get_operation
from copper_sieve.core.operations.measured.from_captures import MEASURED, joined
from copper_sieve.demo import lamp_pictures as drawn
from tests.core.measuring.test_measuring import LAMPS, SIZE, angle

TELLS = "at normal incidence; most surfaces have 4 %"


def measured(
    kind: str, f0: float, darker: float = 1.0
) -> tuple[drawn.SyntheticSurface, MeasuredSurface]:
    """Of a surface that mirrors so much; darker : its light is taken for so much darker."""
    rng = np.random.default_rng(7)
    true = drawn.SURFACES[kind](SIZE, rng)
    codes, exposure = drawn.pictures_of(
        true, LAMPS, rng, whole_colors=kind == "painted", f0=f0
    )  # fmt: skip
    captures = [Capture(one, lamp) for one, lamp in zip(codes, LAMPS, strict=True)]
    return true, measure(captures, white=exposure / darker, static_camera=True, distant=True)


@pytest.mark.parametrize("kind", ["pebbles", "wood", "painted", "dimples"])
def test_glints_tell_how_much_is_mirrored(kind: str) -> None:
    true, found = measured(kind, 0.12)
    assert found.f0 == pytest.approx(0.12, rel=0.15)
    assert angle(found.normal, true.normal).mean() <= 2
    assert any(TELLS in one for one in found.remarks)


def test_what_shines_like_a_metal_is_told() -> None:
    """It scatters nothing: by glints alone no map is right, and none is claimed to be."""
    rng = np.random.default_rng(7)
    true = drawn.wood(SIZE, rng)
    polished = drawn.SyntheticSurface(true.height, true.color * 0, true.roughness)
    codes, exposure = drawn.pictures_of(polished, LAMPS, rng, f0=0.6)
    captures = [Capture(one, lamp) for one, lamp in zip(codes, LAMPS, strict=True)]
    found = measure(captures, white=exposure, static_camera=True, distant=True)
    assert any("the surface is metallic" in one for one in found.remarks)
    assert found.f0 == pytest.approx(0.04)


@pytest.mark.parametrize("kind", ["wood", "leather", "dimples"])
def test_most_surfaces_mirror_as_most_do(kind: str) -> None:
    _, found = measured(kind, 0.04)
    assert found.f0 == pytest.approx(0.04)
    assert not any(TELLS in one for one in found.remarks)


def test_light_that_was_stronger_than_it_is_said_spoils_no_normal() -> None:
    """Nobody says how strong the light was: against it, glints are stronger too."""
    true, found = measured("leather", 0.04, darker=3.0)
    assert found.f0 == pytest.approx(0.12, rel=0.3)
    assert angle(found.normal, true.normal).mean() <= 2
    ratio = np.median(found.color) / np.median(true.color)
    assert ratio == pytest.approx(3.0, rel=0.15)  # as bright as it was said
    assert any("the light was 3" in one for one in found.remarks)


@pytest.mark.parametrize("kind", ["plaster", "cloth"])
def test_matte_surfaces_tell_nothing(kind: str) -> None:
    _, found = measured(kind, 0.02)
    assert found.f0 == pytest.approx(0.04)
    assert not any(TELLS in one for one in found.remarks)


def test_it_is_a_map_like_any_other() -> None:
    flat = np.zeros((4, 4, 3), np.float32)
    one = np.zeros((4, 4, 1), np.float32)
    inputs = {MEASURED: joined(MeasuredSurface(flat, flat, one, one, one, f0=0.06))}
    surface = Flat(tile_size=1.0, depth=0.0)
    measures, follows = (
        get_operation(one) for one in ("f0_from_captures", "specular_level_from_f0")
    )
    found = measures.compute(inputs, measures.resolve({}), surface)
    assert found.shape == (4, 4, 1) and found == pytest.approx(np.full((4, 4, 1), 0.06))
    level = follows.compute({MapKind.F0: found}, follows.resolve({}), surface)
    assert level == pytest.approx(np.full((4, 4, 1), 0.75))
