"""The yard wall of Lantern Row: four tiles (UDIM), and its model.

Plaster that has fallen off bricks below, a band of painted waves and a crack, all continuous across
the tiles. `python -m copper_sieve.demo.yard_wall DIR` writes the tiles and `yard_wall.glb`.
"""

from __future__ import annotations

import sys
from pathlib import Path
from typing import Any

import cv2
import numpy as np
from numpy.typing import NDArray

from copper_sieve.core.codecs import write_picture
from copper_sieve.core.image.encoding import quantize
from copper_sieve.core.image.map_kind import MapKind
from copper_sieve.core.image.raster import Encoding, Float, Picture
from copper_sieve.core.image.tile_layout import TileLayout
from copper_sieve.core.models.model_tie import ModelLink
from copper_sieve.core.models.texture_set import Imported, SetDefinition, SurfaceSpec, compose
from copper_sieve.demo.drawing import color_picture, mix, rgb, tiling_noise
from copper_sieve.demo.patches import Grid, patch, with_normals, write_model

WALL_SET = "yard_wall"
WALL_FILE = "yard_wall.glb"
WALL_MATERIAL = "plaster"
WALL_TILES = (1001, 1002, 1011, 1012)
TILE_METRES = 1.6
DEPTH_METRES = 0.03
_LIME, _BRICK, _MORTAR = rgb(0.66, 0.60, 0.49), rgb(0.34, 0.14, 0.09), rgb(0.46, 0.42, 0.36)
_INDIGO = rgb(0.05, 0.09, 0.22)


def wall_maps(side: int = 512, seed: int = 67) -> tuple[Float, Float]:
    """Draw base color in linear light and height of the whole wall: (H, W, 3) and (H, W).

    side : texels of a tile
    """
    rng = np.random.default_rng(seed)
    size = 2 * side
    y, x = np.mgrid[0:size, 0:size].astype(np.float32) / size
    bricks, face = _bricks(x, y)
    fallen = np.clip((y - 0.74 + 0.11 * tiling_noise(rng, size, 4)) / 0.012, 0, 1)
    crack = _crack(x, y, 0.1 * tiling_noise(rng, size, 5))
    lime = (
        _LIME
        * (1 + 0.09 * tiling_noise(rng, size, 3) + 0.03 * tiling_noise(rng, size, 90))[..., None]
    )
    lime = mix(lime, _INDIGO * np.ones_like(lime), 0.82 * _waves(x, y))
    tone = 1 + 0.25 * tiling_noise(rng, size, 11) + 0.1 * tiling_noise(rng, size, 100)
    below = mix(_MORTAR * np.ones_like(lime), _BRICK * tone[..., None], face)
    color = mix(lime, below, fallen) * (1 - 0.6 * crack)[..., None]
    trowel = 0.86 + 0.05 * tiling_noise(rng, size, 9) + 0.012 * tiling_noise(rng, size, 120)
    rough = 0.05 * tiling_noise(rng, size, 60)
    height = trowel * (1 - fallen) + (0.12 + 0.38 * bricks + rough * bricks) * fallen - 0.3 * crack
    return np.clip(color, 0, 1), np.clip(height, 0, 1).astype(np.float32)


def _bricks(x: Float, y: Float) -> tuple[Float, Float]:
    """Return the height of the bricks above the mortar, and the mask of their faces: 0 to 1."""
    row = np.floor(y * 26)
    along = (x * 13 + 0.5 * (row % 2)) % 1
    edge = np.minimum(np.minimum(along, 1 - along) * 2, np.minimum(y * 26 % 1, 1 - y * 26 % 1))
    return np.clip(edge / 0.12, 0, 1) ** 0.6, np.clip((edge - 0.03) / 0.04, 0, 1)


def _waves(x: Float, y: Float) -> Float:
    """Return a band of scales, each of three arcs, across the middle of the wall."""
    row = np.floor((y - 0.34) * 22)
    out = np.zeros_like(x)
    for step in (0, 1):  # parts that overhang from the row above are on top
        at = row - step
        center = (np.floor(x * 11 + 0.5 * (at % 2)) + 0.5 - 0.5 * (at % 2)) / 11
        away = np.hypot(x - center, y - 0.34 - (at + 1) / 22) * 22
        arcs = np.clip(
            (0.09 - np.abs(away - np.array([0.35, 0.62, 0.9])[:, None, None])) / 0.05, 0, 1
        )
        inside = away < 1
        out = np.where(inside, arcs.max(0), out)
    return np.asarray(out * ((y > 0.34) & (y < 0.56)), np.float32)


def _crack(x: Float, y: Float, bend: Float) -> Float:
    away = np.abs(x - 0.36 - 0.5 * (y - 0.1) - bend)
    return np.asarray(np.clip(1 - away / 0.0035, 0, 1) * np.clip((0.8 - y) / 0.3, 0, 1), np.float32)


def wall_pictures(side: int = 512) -> dict[str, Picture]:
    """Draw every tile; the keys are file names without extension."""
    color, height = wall_maps(side)
    sheet, size = TileLayout.of(WALL_TILES), (2 * side, 2 * side)
    out: dict[str, Picture] = {}
    for number in WALL_TILES:
        box = sheet.box(number, size)
        out[f"{WALL_SET}_base_color.{number}"] = color_picture(color[box])
        codes = quantize(cv2.GaussianBlur(height, (0, 0), 0.6)[box][..., None], 16)
        out[f"{WALL_SET}_height.{number}"] = Picture(codes, ("Y",), Encoding.LINEAR)
    return out


def _places(u: Grid, v: Grid) -> NDArray[Any]:
    """Return positions on a slightly curved wall, as wide and high as its tiles, in meters."""
    angle = 0.7 * (u - 0.5)
    radius = 2 * TILE_METRES / 0.7
    return np.stack(
        [radius * np.sin(angle), 2 * TILE_METRES * (1 - v), radius * (np.cos(angle) - 1)], -1
    )


def write_wall(path: Path) -> Path:
    """Write the model as .glb; its UVs cover all four tiles continuously."""
    wall = patch(with_normals(_places), 24, 12, (0.0, -1.0, 2.0, 2.0), "wall", WALL_MATERIAL)
    write_model(path, [wall])
    return path


def wall_set(tiles: dict[MapKind, Imported], model: str) -> SetDefinition:
    """Return the set of the tiles; model : SHA-256 of the model's file."""
    surface = SurfaceSpec(tile_size=TILE_METRES, depth=DEPTH_METRES)
    link = ModelLink(source=model, material=WALL_MATERIAL)
    return compose(WALL_SET, tiles, surface).model_copy(update={"model": link})


if __name__ == "__main__":
    where = Path(sys.argv[1])
    where.mkdir(parents=True, exist_ok=True)
    for name, picture in wall_pictures().items():
        write_picture(where / f"{name}.png", picture, "png")
    print(write_wall(where / WALL_FILE))
