"""A noren, the short curtain of a shop door, photographed nine times with a moving light.

A mirror ball is in one corner. In one picture a sleeve casts a shadow on the cloth, in another the
camera was moved.
"""

from __future__ import annotations

import json
from collections.abc import Sequence
from importlib.resources import files

import cv2
import numpy as np

from copper_sieve.core.image.raster import Encoding, Float, Picture
from copper_sieve.core.measuring.ball import Ball
from copper_sieve.core.measuring.light_directions import Lamp
from copper_sieve.core.measuring.stack import Placement
from copper_sieve.core.models.light_captures import CapturesSpec
from copper_sieve.demo.lamp_pictures import (
    SyntheticSurface,
    displaced,
    lit_by,
    photographed,
    with_ball,
)

NOREN_SET = "noren"
NOREN_BALL = (0.88, 0.87, 0.075)  # x, y and radius, in widths
SHADOWED, MOVED = 4, 6  # pictures, from 0
_INDIGO = np.array([0.035, 0.055, 0.17], np.float32)  # linear light
_UNDYED = np.array([0.62, 0.56, 0.44], np.float32)
_THREADS = 96  # across the cloth
_SLEEVE = 0.12  # of the lamp's light gets through


def noren_lamps() -> list[Lamp]:
    """Return nine handheld light directions, unevenly spaced and at different elevations."""
    azimuth = (8, 47, 86, 131, 170, 214, 255, 290, 331)
    elevation = (42, 50, 38, 55, 44, 36, 52, 47, 40)
    return [Lamp.at(a, u, intensity=1.0) for a, u in zip(azimuth, elevation, strict=True)]


def noren_surface(size: int = 512, seed: int = 21) -> SyntheticSurface:
    """Draw the cloth: plain weave with soft folds, indigo with an undyed lantern."""
    rng = np.random.default_rng(seed)
    y, x = (np.mgrid[:size, :size] + 0.5) / size
    pitch = 2 * np.pi * _THREADS
    slack = 0.0012 * _noise(rng, size, 24)
    warp, weft = np.sin(pitch * (x + slack)), np.sin(pitch * (y - slack))
    over = np.where(np.sin(pitch / 2 * x) * np.sin(pitch / 2 * y) > 0, warp**2, weft**2)
    folds = 2.6 * np.sin(2 * np.pi * (1.5 * x + 0.2 * np.sin(2 * np.pi * y)))
    height = folds + 0.8 * over + 0.5 * _noise(rng, size, 60)
    dyed = cv2.GaussianBlur(1 - _lantern(x, y), (0, 0), size / 400)[..., None]
    faded = 1 + 0.18 * _noise(rng, size, 5)[..., None]
    color = (_UNDYED + (_INDIGO - _UNDYED) * dyed) * faded * (0.93 + 0.07 * over[..., None])
    rough = np.full((size, size), 0.72, np.float32)
    return SyntheticSurface(height.astype(np.float32), color.astype(np.float32), rough)


def noren_shots(sources: Sequence[str]) -> CapturesSpec:
    """Return the stored analysis result of the pictures.

    It is stored with this module because the analysis takes half a minute; a test verifies it.

    sources : SHA-256 of the pictures, in order
    """
    held = json.loads(files(__package__).joinpath("noren_calibration.json").read_text("utf-8"))
    captures = [
        {**one, "source": source} for one, source in zip(held["captures"], sources, strict=True)
    ]
    return CapturesSpec.model_validate({**held, "captures": captures})


def noren_pictures(size: int = 512, seed: int = 22) -> list[Picture]:
    """Draw the photos, (size, size, 3) uint8 sRGB each."""
    rng = np.random.default_rng(seed)
    surface = noren_surface(size)
    x, y, radius = (one * size for one in NOREN_BALL)
    ball = Ball(x, y, radius, "shiny")
    lights = []
    for n, lamp in enumerate(noren_lamps()):
        light = lit_by(surface, lamp)
        if n == SHADOWED:
            light = light * _sleeve(size)[..., None]
        light = with_ball(light, lamp, ball)
        if n == MOVED:
            light = np.maximum(displaced(light, Placement(1.1, -0.6, 0.15)), 0)
        lights.append(light)
    exposure = 0.8 / float(np.percentile(np.stack(lights), 99.5))
    return [
        Picture(
            photographed(one, rng, exposure=exposure, noise=0.006, quality=None),
            ("R", "G", "B"), Encoding.SRGB,
        )
        for one in lights
    ]  # fmt: skip


def _noise(rng: np.random.Generator, size: int, cells: int) -> Float:
    grid = rng.standard_normal((cells + 1, cells + 1)).astype(np.float32)
    return np.asarray(cv2.resize(grid, (size, size), interpolation=cv2.INTER_CUBIC), np.float32)


def _lantern(x: Float, y: Float) -> Float:
    """Return 1 on the crest, a paper lantern with ribs, else 0."""
    u, v = (x - 0.47) / 0.25, (y - 0.46) / 0.3
    body = (np.abs(u) ** 2.4 + np.abs(v) ** 2.4 < 1).astype(np.float32)
    ribs = (np.abs(((v + 1) * 3.5) % 1 - 0.5) > 0.43) & (np.abs(v) < 0.86)
    body[ribs] = 0
    for cap in (-1.13, 1.13):
        body[(np.abs(u) < 0.42) & (np.abs(v - cap) < 0.07)] = 1
    return np.asarray(body, np.float32)


def _sleeve(size: int) -> Float:
    """Return the light that passes an arm in front of the lamp, (size, size)."""
    y, x = (np.mgrid[:size, :size] + 0.5) / size
    arm = np.abs((x - 0.2) + 0.45 * (y - 0.4)) < 0.11 + 0.04 * y
    soft = cv2.GaussianBlur(arm.astype(np.float32), (0, 0), size / 50)
    return np.asarray(1 - (1 - _SLEEVE) * soft, np.float32)
