"""A cedar lattice as pixel art: 64 texels of color and height, drawn texel by texel."""

from __future__ import annotations

from typing import Any

import numpy as np
from numpy.typing import NDArray

from copper_sieve.core.image.raster import Float, Picture
from copper_sieve.demo.drawing import color_picture, data_picture, rgb

_SIDE = 64
_PITCH = 16  # texels between bars
_BAR = 6
_TONES = (
    rgb(0.085, 0.036, 0.018), rgb(0.16, 0.068, 0.032), rgb(0.27, 0.125, 0.058),
    rgb(0.36, 0.18, 0.088), rgb(0.46, 0.25, 0.125),
)  # fmt: skip


def _bar(position: NDArray[Any]) -> tuple[NDArray[np.bool_], Float]:
    """Return whether a position is on a bar, and the bar's profile in whole steps, 0 to 1."""
    place = position % _PITCH
    inside = place < _BAR
    profile = np.select([place == 0, place == _BAR - 1], [0.55, 0.45], 1.0)
    return inside, np.where(inside, profile, 0).astype(np.float32)


def draw_cedar_lattice(seed: int = 53) -> dict[str, Picture]:
    """Draw color and height, 64 x 64."""
    rng = np.random.default_rng(seed)
    r, c = np.mgrid[0:_SIDE, 0:_SIDE]
    rail_there, rail = _bar(r)
    post_there, post = _bar(c - 5)
    # Posts are above rails at every other crossing.
    over = ((r // _PITCH + (c - 5) // _PITCH) % 2 == 0) | ~rail_there
    post_high, rail_high = np.where(over, 0.95, 0.6), np.where(over, 0.6, 0.95)
    height = np.full((_SIDE, _SIDE), 0.1, dtype=np.float32)
    height = np.maximum(height, rail * np.where(post_there, rail_high, 0.78))
    height = np.maximum(height, post * np.where(rail_there, post_high, 0.78))
    top_is_post = post_there & (over | ~rail_there)
    along = np.where(top_is_post, r, c)
    lane = np.where(top_is_post, c, r)
    grain = rng.integers(-1, 2, (_SIDE, 12))[lane, along // 6]
    tone = np.full((_SIDE, _SIDE), 0)
    wood = rail_there | post_there
    tone[wood] = np.clip(2 + grain, 1, 3)[wood]
    lit = np.where(top_is_post, post, rail)
    tone[wood & (lit == np.float32(0.55))] = 4
    tone[wood & (lit == np.float32(0.45))] = 1
    knots = (rng.random((_SIDE, _SIDE)) < 0.012) & wood
    tone[knots] = 0
    return {
        "base_color": color_picture(np.array(_TONES)[tone]),
        "height": data_picture(height),
    }
