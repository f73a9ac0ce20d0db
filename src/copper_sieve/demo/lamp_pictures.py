"""Synthetic light captures: surfaces seen from above with shadows, highlights and noise."""

from __future__ import annotations

from collections.abc import Callable, Sequence
from dataclasses import dataclass
from typing import Any

import cv2
import numpy as np

from copper_sieve.core.image.encoding import linear_to_srgb
from copper_sieve.core.image.raster import Float
from copper_sieve.core.lighting.shading import Material, shade
from copper_sieve.core.measuring.ball import Ball
from copper_sieve.core.measuring.light_directions import Lamp
from copper_sieve.core.measuring.stack import Placement

F0 = 0.04
_STEP = 0.5  # texels on the way to the lamp


@dataclass(frozen=True, slots=True)
class SyntheticSurface:
    """A tileable surface.

    height : (H, W) float32, in texels; color : (H, W, 3) linear; roughness : (H, W)
    """

    height: Float
    color: Float
    roughness: Float

    @property
    def normal(self) -> Float:
        """Return (H, W, 3) float32 normals, Y up, by central differences."""
        x = (np.roll(self.height, -1, 1) - np.roll(self.height, 1, 1)) / 2
        y = (np.roll(self.height, 1, 0) - np.roll(self.height, -1, 0)) / 2
        found = np.stack([-x, -y, np.ones_like(x)], axis=-1)
        return np.asarray(found / np.linalg.norm(found, axis=-1, keepdims=True), np.float32)


def lit_by(
    surface: SyntheticSurface, lamp: Lamp, *, shadows: bool = True, f0: float = F0
) -> Float:  # fmt: skip
    """Return the view from straight above, (H, W, 3) float32, linear; f0 : reflectance."""
    normal, rough = surface.normal, surface.roughness[..., None]
    material = Material(surface.color, np.full_like(surface.color, f0), rough, normal)
    towards, square = lamp.ways(_places_on(surface.height))
    light = shade(material, ((towards, np.pi * lamp.intensity / square),), sky=0.0)
    return light * ~in_shadow(surface.height, lamp)[..., None] if shadows else light


def in_shadow(height: Float, lamp: Lamp) -> np.ndarray:
    """Return (H, W) bool: the texel is in a cast shadow."""
    x, y, z = np.moveaxis(lamp.ways(_places_on(height))[0], -1, 0)
    flat = np.maximum(np.hypot(x, y), 1e-6)
    rise = z / flat * _STEP
    steps = int(np.ceil(min(float(np.ptp(height)) / rise.min(), 2 * height.shape[1])))
    found = np.zeros(height.shape, bool)
    for n in range(2, steps + 1):
        there = _moved(height, n * _STEP * x / flat, -n * _STEP * y / flat)
        found |= there > height + n * rise + 0.05
    return found


def _places_on(height: Float) -> Float:
    """Return texel positions in picture widths from the middle, y up, (H, W, 3)."""
    rows, columns = height.shape
    x, y = np.arange(columns) + 0.5 - columns / 2, rows / 2 - np.arange(rows) - 0.5
    return _numbers(np.stack([*np.meshgrid(x, y), height], axis=-1) / columns)


def _moved(values: Float, right: Float, down: Float) -> Float:
    """Return values shifted by this distance; the surface is tileable."""
    rows, columns = values.shape
    x = _numbers((np.arange(columns) + right) % columns)
    y = _numbers((np.arange(rows)[:, None] + down) % rows)
    wide = _numbers(np.pad(values, ((0, 1), (0, 1)), mode="wrap"))
    return np.asarray(cv2.remap(wide, x, y, cv2.INTER_LINEAR))


def with_ball(light: Float, lamp: Lamp, ball: Ball) -> Float:
    """Draw a ball into a picture, white, or black and polished. (H, W, 3), linear."""
    height, width = light.shape[:2]
    y, x = np.mgrid[:height, :width] + 0.5
    right, up = (x - ball.x) / ball.radius, (ball.y - y) / ball.radius
    square = right * right + up * up
    edge = np.clip((1 - np.sqrt(square)) * ball.radius + 0.5, 0, 1)[..., None]
    normal = _numbers(np.stack([right, up, np.sqrt(np.maximum(1 - square, 1e-4))], -1))
    normal /= np.linalg.norm(normal, axis=-1, keepdims=True)
    color = np.full_like(light, 0.75 if ball.kind == "white" else 0.02)
    rough = np.full((height, width, 1), 0.95 if ball.kind == "white" else 0.15, np.float32)
    f0 = np.full_like(light, 0.0 if ball.kind == "white" else F0)
    places = _places_on(np.where(square < 1, (1 + normal[..., 2]) * ball.radius, 0))
    towards, farther = lamp.ways(places)
    lights = ((towards, np.pi * lamp.intensity / farther),)
    lit = shade(Material(color, f0, rough, normal), lights, sky=0)
    return _numbers(light * (1 - edge) + lit * edge)


def displaced(values: Float, placement: Placement) -> Float:
    """Return the view of a camera with this placement; the surface is tileable. (H, W, C)."""
    height, width = values.shape[:2]
    x = np.arange(width) - (width - 1) / 2 - placement.right
    y = np.arange(height) - (height - 1) / 2 - placement.down
    back = Placement(rotation=-placement.rotation)
    right, down = back.places(*np.meshgrid(x, y))
    at = _numbers(right + (width - 1) / 2), _numbers(down + (height - 1) / 2)
    return _numbers(cv2.remap(values, *at, cv2.INTER_LANCZOS4, borderMode=cv2.BORDER_WRAP))


def photographed(
    light: Float,
    rng: np.random.Generator,
    *,
    exposure: float = 1.0,
    noise: float = 0.01,
    quality: int | None = 92,
    whole_colors: bool = False,
) -> np.ndarray:
    """Return a camera's picture: (H, W, 3) uint8, sRGB, with noise and JPEG artifacts.

    whole_colors : the JPEG has full color resolution (4:4:4) instead of 4:2:0
    """
    noisy = light * exposure + rng.normal(0, noise, light.shape).astype(np.float32)
    codes = np.round(linear_to_srgb(np.clip(noisy, 0, 1)) * 255).astype(np.uint8)
    if quality is None:
        return codes
    kept = (
        cv2.IMWRITE_JPEG_SAMPLING_FACTOR_444
        if whole_colors
        else cv2.IMWRITE_JPEG_SAMPLING_FACTOR_420
    )
    how = [cv2.IMWRITE_JPEG_QUALITY, quality, cv2.IMWRITE_JPEG_SAMPLING_FACTOR, kept]
    _, data = cv2.imencode(".jpg", codes[..., ::-1], how)
    decoded = cv2.imdecode(data, cv2.IMREAD_COLOR)
    assert decoded is not None
    return np.ascontiguousarray(decoded[..., ::-1])


def ring_of_lamps(count: int = 8, low: float = 35, high: float = 60) -> list[Lamp]:
    """Return light directions around a surface, alternately lower and higher."""
    return [
        Lamp.at(
            360 * n / count + 11 * np.sin(5 * n), low + (high - low) * ((n * 5) % count) / count
        )
        for n in range(count)
    ]


# --- surfaces -----------------------------------------------------------------------------------


def _numbers(values: Any) -> Float:
    return np.asarray(values, dtype=np.float32)


def _soft(height: Any, reach: float) -> Float:
    """Blur with wrap-around."""
    wide = cv2.GaussianBlur(np.pad(_numbers(height), 8, mode="wrap"), (0, 0), reach)
    return _numbers(wide[8:-8, 8:-8])


def _waves(size: int, rng: np.random.Generator, coarse: float, fine: float) -> Float:
    """Return tileable noise of unit deviation, with periods between `fine` and `coarse` texels."""
    f = np.hypot(np.fft.fftfreq(size)[:, None], np.fft.rfftfreq(size)[None, :])
    band = np.exp(-((f * fine / 1.5) ** 2)) * (1 - np.exp(-((f * coarse) ** 2)))
    spectrum = np.fft.rfft2(rng.normal(size=(size, size))) * band / np.maximum(f, 1 / size) ** 1.2
    found = np.fft.irfft2(spectrum, s=(size, size))
    return np.asarray(found / found.std(), np.float32)


def _even(size: int, *color: float) -> Float:
    return np.broadcast_to(_numbers(color), (size, size, 3)).astype(np.float32)


def _grid(size: int) -> tuple[Float, Float]:
    y, x = np.mgrid[:size, :size].astype(np.float32)
    return x, y


def plaster(size: int, rng: np.random.Generator) -> SyntheticSurface:
    """Draw a bright matte surface with gentle waves."""
    color = _even(size, 0.72, 0.68, 0.6) * (1 + 0.04 * _waves(size, rng, 60, 6))[..., None]
    return SyntheticSurface(
        2.2 * _waves(size, rng, 60, 9), color, np.full((size, size), 0.9, np.float32)
    )


def cloth(size: int, rng: np.random.Generator) -> SyntheticSurface:
    """Draw a dark matte weave, dyed in stripes."""
    x, y = _grid(size)
    a, b = np.sin(2 * np.pi * x / 16), np.sin(2 * np.pi * y / 16)
    height = 1.6 * np.abs(a) * (0.6 + 0.4 * b) + 1.6 * np.abs(b) * (0.6 - 0.4 * a)
    stripe = ((x // 64) % 2)[..., None]
    color = stripe * _numbers([0.03, 0.05, 0.16]) + (1 - stripe) * _numbers([0.12, 0.1, 0.09])
    wandering = 0.4 * _waves(size, rng, 80, 20)
    return SyntheticSurface(_soft(height, 1.5) + wandering, color, np.full_like(x, 0.85))


def pebbles(size: int, rng: np.random.Generator) -> SyntheticSurface:
    """Draw stones of several colors that cast shadows, half of them rough."""
    x, y = _grid(size)
    height = np.zeros((size, size), np.float32)
    color = _even(size, 0.2, 0.17, 0.13).copy()
    for _ in range(int(size * size / 900)):
        cx, cy, r = rng.uniform(0, size), rng.uniform(0, size), rng.uniform(8, 17)
        dx = (x - cx + size / 2) % size - size / 2
        dy = (y - cy + size / 2) % size - size / 2
        dome = 0.55 * np.sqrt(np.maximum(r * r - dx * dx - dy * dy, 0))
        above = dome > height
        height[above] = dome[above]
        color[above] = rng.uniform(0.15, 0.5) * rng.uniform(0.8, 1.2, 3)
    height = _soft(height, 1.2)
    return SyntheticSurface(height, color, np.full_like(x, 0.55))


def tiles(size: int, rng: np.random.Generator) -> SyntheticSurface:
    """Draw glazed tiles with rounded edges and slight tilts, in rough grout."""
    x, y = _grid(size)
    side = 64
    u, v = (x % side) - side / 2, (y % side) - side / 2
    edge = np.maximum(np.abs(u), np.abs(v))
    dome = 4 * np.clip((side / 2 - 3 - edge) / 6, 0, 1)
    lean = rng.uniform(-0.12, 0.12, (2, size // side, size // side)).astype(np.float32)
    which = (y // side).astype(int), (x // side).astype(int)
    height = dome + (lean[0][which] * u + lean[1][which] * v) * (dome > 0)
    hue = rng.uniform(0.15, 0.6, (size // side, size // side, 3)).astype(np.float32)[which]
    on = np.clip(dome, 0, 1)[..., None]
    color = hue * on + (1 - on) * np.float32(0.4)
    height = _soft(height, 1.5)
    return SyntheticSurface(height, color, (0.25 * on + 0.8 * (1 - on))[..., 0].astype(np.float32))


def wood(size: int, rng: np.random.Generator) -> SyntheticSurface:
    """Draw planed, oiled boards: grain in the color, pores in the relief."""
    x, _ = _grid(size)
    rings = np.sin(0.22 * x + 2.2 * _waves(size, rng, 120, 40))
    pores = np.minimum(_waves(size, rng, 30, 5), 0)
    color = _numbers([0.42, 0.26, 0.13]) * (1 + 0.35 * rings[..., None])
    return SyntheticSurface(
        _numbers(0.9 * rings + 1.2 * pores), color.astype(np.float32), np.full_like(x, 0.5)
    )


def leather(size: int, rng: np.random.Generator) -> SyntheticSurface:
    """Draw dark, glossy leather with cells."""
    cells = np.abs(_waves(size, rng, 50, 9))
    height = 2.4 * np.sqrt(cells) + 1.2 * _waves(size, rng, 100, 40)
    height = _soft(height, 1.5)
    return SyntheticSurface(
        height, _even(size, 0.07, 0.045, 0.03), np.full((size, size), 0.38, np.float32)
    )


def painted(size: int, rng: np.random.Generator) -> SyntheticSurface:
    """Draw a nearly flat surface, painted in hard-edged colors, half of it glossy."""
    field = _waves(size, rng, 70, 25)
    colors = _numbers([[0.6, 0.1, 0.07], [0.75, 0.7, 0.55], [0.05, 0.2, 0.25]])
    color = colors[np.digitize(field, [-0.4, 0.6])]
    return SyntheticSurface(
        1.6 * _waves(size, rng, 60, 12), color, np.full((size, size), 0.45, np.float32)
    )


def dimples(size: int, rng: np.random.Generator) -> SyntheticSurface:
    """Draw a bright glossy surface with dimples and matte patches."""
    x, y = _grid(size)
    height = 2.2 * np.cos(2 * np.pi * x / 32) * np.cos(2 * np.pi * y / 32)
    rough = np.where(_waves(size, rng, 200, 60) > 0, 0.3, 0.6).astype(np.float32)
    return SyntheticSurface(_numbers(height), _even(size, 0.5, 0.52, 0.55), _soft(rough, 2.5))


SURFACES: dict[str, Callable[[int, np.random.Generator], SyntheticSurface]] = {
    one.__name__: one for one in (plaster, cloth, pebbles, tiles, wood, leather, painted, dimples)
}


def pictures_of(
    surface: SyntheticSurface, lamps: Sequence[Lamp], rng: np.random.Generator, *,
    noise: float = 0.01,
    quality: int | None = 92,
    whole_colors: bool = False,
    placements: Sequence[Placement] = (),
    ball: Ball | None = None,
    f0: float = F0,
) -> tuple[list[np.ndarray], float]:  # fmt: skip
    """Return pictures of a surface as codes, and their automatic exposure.

    placements : camera placement of each picture, for a moving camera
    ball : a ball on the surface
    """
    lights = [lit_by(surface, lamp, f0=f0) for lamp in lamps]
    if ball is not None:
        lights = [with_ball(one, lamp, ball) for one, lamp in zip(lights, lamps, strict=True)]
    exposure = 0.8 / float(np.percentile(np.stack(lights), 99))
    if placements:
        both = zip(lights, placements, strict=True)
        lights = [np.maximum(displaced(one, place), 0) for one, place in both]
    return [
        photographed(
            one, rng, exposure=exposure, noise=noise, quality=quality, whole_colors=whole_colors
        )
        for one in lights
    ], exposure
