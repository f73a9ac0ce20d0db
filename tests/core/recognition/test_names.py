"""File names in the spellings that people use."""

from __future__ import annotations

from pathlib import Path

import pytest

from copper_sieve.core.detection.names import NameReading, read_name
from copper_sieve.core.image.map_kind import NormalY

_LINES = (Path(__file__).parent / "file_names.txt").read_text("utf-8").splitlines()
_TOLD = {"?", "-"}


def _listed() -> list[tuple[str, list[str]]]:
    """Names may have blanks; the maps behind them are words that no name ends in here."""
    found = []
    kinds = {"base_color", "normal", "roughness", "glossiness", "ambient_occlusion", "height",
             "metallic", "opacity", "emissive", "emissive_strength", "specular_color",
             "specular_level", "cavity", "curvature", "bent_normal", "thickness", "translucency",
             "subsurface", "porosity", "transmission", "detail_mask", *_TOLD}  # fmt: skip
    for line in _LINES:
        if line.startswith("#"):
            continue
        words = line.split(" ")
        maps: list[str] = []
        while words[-1] in kinds and len(words) > 1:
            maps.insert(0, words.pop())
        found.append((" ".join(words), maps))
    return found


def _told(read: NameReading) -> list[str]:
    if read.packed is not None:
        return [kind or "-" for kind in read.packed]
    return [read.kind or "?"]


def test_names_are_read_as_people_mean_them() -> None:
    listed = _listed()
    assert len(listed) >= 200
    wrong = [
        (name, _told(read_name(name)), read_name(name).confidence)
        for name, maps in listed
        if _told(read_name(name)) != maps
    ]
    print(f"\n{len(listed)} names, {len(wrong)} read otherwise: {wrong}")
    assert len(wrong) <= 0.03 * len(listed), wrong
    assert all(confidence < 0.8 for _, _, confidence in wrong), wrong


@pytest.mark.parametrize(
    ("name", "stem"),
    [
        ("Bricks076_2K_BaseColor", "Bricks076"),
        ("T_Wall_ORM", "Wall"),
        ("BrickWallNormalGL", "BrickWall"),
        ("roof-tiles-base-color-2048", "roof-tiles"),
        ("oak planks diffuse", "oak planks"),
        ("rough_metal_normal", "rough_metal"),
        ("ao-wall", "wall"),
        ("IMG_2034", "IMG_2034"),
        ("snow_normal_01", "snow"),
    ],
)
def test_what_is_left_names_the_set(name: str, stem: str) -> None:
    assert read_name(name).stem == stem


@pytest.mark.parametrize(
    ("name", "y"),
    [
        ("a_nor_gl", NormalY.UP), ("aNormalDX", NormalY.DOWN), ("a_normal", None),
        ("a_normal_y-", NormalY.DOWN), ("a_nrm_Y+", NormalY.UP), ("a_nor_dx_4k", NormalY.DOWN),
        ("cobble_disp_gl_1k", None),
    ],
)  # fmt: skip
def test_direction_from_names(name: str, y: NormalY | None) -> None:
    assert read_name(name).normal_y is y


@pytest.mark.parametrize(("name", "tile"), [("skin_1001_color", 1001), ("head.1012.n", 1012),
                                            ("wall_1024_color", None)])  # fmt: skip
def test_tile_numbers(name: str, tile: int | None) -> None:
    assert read_name(name).tile == tile
