"""From which figure on the checklist says something of colors and roughness, and how gravely."""

from __future__ import annotations

import numpy as np
import pytest

from copper_sieve.core.checklist.values import check_color, check_roughness
from copper_sieve.core.image.map_kind import MapKind
from copper_sieve.core.image.raster import Float
from copper_sieve.core.models.texture_set import Imported, SetDefinition

SIDE = 100  # so that a share is a number of texels
SOURCE = "a" * 64
FRESH_SNOW, CHARCOAL = 0.8714, 0.00914  # linear light of sRGB 240 and 24
COLORS = SetDefinition(name="wall", maps={MapKind.BASE_COLOR: Imported(source=SOURCE)})
ROUGH = SetDefinition(name="wall", maps={MapKind.ROUGHNESS: Imported(source=SOURCE)})


def shared(share: float, value: float, other: float) -> Float:
    """(H, W, 1): a value in a share of the texels, another in the rest."""
    flat = np.full(SIDE * SIDE, other, np.float32)
    flat[: round(share * SIDE * SIDE)] = value
    return flat.reshape(SIDE, SIDE, 1)


def color(grey: Float) -> Float:
    return np.repeat(grey, 3, axis=2)


def weights(found: list) -> dict[str, str]:
    return {one.rule: one.weight for one in found}


@pytest.mark.parametrize("value", [0.0, 1.0])
@pytest.mark.parametrize(
    ("share", "due"), [(0.049, None), (0.05, "info"), (0.249, "info"), (0.25, "warning")]
)
def test_how_much_of_a_color_is_beyond_what_surfaces_reflect(
    value: float, share: float, due: str | None
) -> None:
    found = check_color(COLORS, {MapKind.BASE_COLOR: color(shared(share, value, 0.3))})
    assert weights(found).get("implausible_color") == due


@pytest.mark.parametrize(
    ("value", "told"),
    [(FRESH_SNOW * 1.03, False), (FRESH_SNOW * 1.07, True),
     (CHARCOAL / 1.03, False), (CHARCOAL / 1.07, True)],
)  # fmt: skip
def test_rounding_at_the_limit_is_no_finding(value: float, told: bool) -> None:
    found = check_color(COLORS, {MapKind.BASE_COLOR: color(shared(0.5, value, 0.3))})
    assert ("implausible_color" in weights(found)) == told


@pytest.mark.parametrize(
    ("share", "light", "told"),
    [(0.019, 0.1, False), (0.02, 0.1, True), (0.5, 0.32, True), (0.5, 0.34, False)],
)
def test_how_much_metal_must_be_how_dark(share: float, light: float, told: bool) -> None:
    metal = shared(share, 1.0, 0.0)
    maps = {MapKind.BASE_COLOR: color(np.where(metal > 0.5, np.float32(light), np.float32(0.3))),
            MapKind.METALLIC: metal}  # fmt: skip
    assert ("dark_metal" in weights(check_color(COLORS, maps))) == told
    # What is half a metal counts as none.
    maps[MapKind.METALLIC] = metal * np.float32(0.89)
    assert "dark_metal" not in weights(check_color(COLORS, maps))


@pytest.mark.parametrize(
    ("end", "share", "due"),
    [(0.0, 0.019, None), (0.0, 0.02, "info"), (0.0, 0.049, "info"), (0.0, 0.05, "warning"),
     (1.0, 0.019, None), (1.0, 0.02, "info"), (1.0, 0.24, "info"), (1.0, 0.25, "warning")],
)  # fmt: skip
def test_how_much_of_a_roughness_is_cut_off(end: float, share: float, due: str | None) -> None:
    """A mirror is graver than what is wholly dull."""
    found = check_roughness(ROUGH, {MapKind.ROUGHNESS: shared(share, end, 0.6)}, {})
    assert weights(found).get("clipped_roughness") == due


@pytest.mark.parametrize("code", [0, 254])
def test_the_last_code_but_one_is_not_cut_off(code: int) -> None:
    near = (1 if code == 0 else code) / 255
    found = check_roughness(ROUGH, {MapKind.ROUGHNESS: shared(0.5, near, 0.6)}, {})
    assert "clipped_roughness" not in weights(found)


@pytest.mark.parametrize(
    ("median", "metal", "told"),
    [(0.19, 0.0, True), (0.21, 0.0, False), (0.19, 0.049, True), (0.19, 0.05, False)],
)
def test_a_surface_as_smooth_as_glass_looks_like_glossiness_unless_it_is_metal(
    median: float, metal: float, told: bool
) -> None:
    maps = {MapKind.ROUGHNESS: shared(0.6, median, 0.5), MapKind.METALLIC: shared(metal, 1.0, 0.0)}
    found = check_roughness(ROUGH, maps, {SOURCE: "wall.png"})
    assert ("looks_like_glossiness" in weights(found)) == told
