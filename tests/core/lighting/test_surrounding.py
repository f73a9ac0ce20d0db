"""The reference shader in a surrounding, against sums over all directions."""

from __future__ import annotations

import numpy as np
import pytest

from copper_sieve.core.image.panorama import directions
from copper_sieve.core.lighting.environment import Environment, reflected
from copper_sieve.core.lighting.shading import Illumination, Material, shade

_EYE = np.array([0, 0, 1.0])


def panorama(width: int = 512) -> np.ndarray:
    """A soft sky, a warm floor, and a window that is not small."""
    toward = directions(width, width // 2)
    sky = 0.4 + 0.35 * toward[..., 1:2] + np.zeros(3)
    floor = np.where(toward[..., 1:2] < -0.2, np.array([0.5, 0.35, 0.2]), 0)
    window = np.array([0.5, 0.6, 0.62]) / np.linalg.norm([0.5, 0.6, 0.62])
    near = np.exp(8 * (toward @ window - 1))[..., None] * 3.0
    return np.asarray(sky + floor + near, np.float32)


def summed(
    light: np.ndarray, normal: np.ndarray, diffuse: float, f0: float, rough: float
) -> np.ndarray:
    """All of the light times what GGX and a matte surface make of it, seen from +z."""
    height, width = light.shape[:2]
    toward = directions(width, height).astype(np.float64)
    solid = np.sqrt(1 - toward[..., 1] ** 2) * (np.pi / height) * (2 * np.pi / width)
    lit = np.clip(toward @ normal, 0, None)
    seen = max(float(normal @ _EYE), 1e-3)
    half = toward + _EYE
    half /= np.maximum(np.linalg.norm(half, axis=-1, keepdims=True), 1e-9)
    a2 = rough**4
    across = np.clip(half @ normal, 0, 1)
    spread = a2 / (np.pi * (across**2 * (a2 - 1) + 1) ** 2)
    shadow = 0.5 / (
        lit * np.sqrt(seen**2 * (1 - a2) + a2) + seen * np.sqrt(lit**2 * (1 - a2) + a2) + 1e-9
    )
    fresnel = f0 + (1 - f0) * (1 - np.clip(half @ _EYE, 0, 1)) ** 5
    how = (diffuse / np.pi + fresnel * spread * shadow) * lit * solid
    return np.einsum("hw,hwc->c", how, light.astype(np.float64))


def shaded(
    light: Environment, normals: np.ndarray, diffuse: float, f0: float, rough: float
) -> np.ndarray:
    shape = (1, len(normals))
    material = Material(
        np.full((*shape, 3), diffuse, np.float32), np.full((*shape, 3), f0, np.float32),
        np.full((*shape, 1), rough, np.float32), normals[None].astype(np.float32),
    )  # fmt: skip
    return shade(material, (), around=Illumination(environment=light))[0]


def tilted(*degrees: float) -> np.ndarray:
    """Normals tilted from the eye so much, each in another direction."""
    out = []
    for n, angle in enumerate(degrees):
        around, tilt = 2.4 * n, np.radians(angle)
        out.append([np.sin(tilt) * np.cos(around), np.sin(tilt) * np.sin(around), np.cos(tilt)])
    return np.array(out)


@pytest.mark.parametrize(("rough", "within"), [(0.25, 0.04), (0.5, 0.06), (0.9, 0.12)])
def test_it_is_lit_as_the_sum_of_all_light(rough: float, within: float) -> None:
    """Of what is mirrored the split sum is an approximation; it is the less exact the rougher."""
    light, normals = panorama(), tilted(0, 10, 20, 30, 40, 15, 25)
    found = shaded(Environment.of(light), normals, 0.0, 0.6, rough)
    wanted = np.array([summed(light, normal, 0.0, 0.6, rough) for normal in normals])
    assert np.abs(found / wanted - 1).mean() < within
    matte = shaded(Environment.of(light), normals, 0.5, 0.0, 1.0)
    sums = np.array([summed(light, normal, 0.5, 0.0, 1.0) for normal in normals])
    assert np.abs(matte / sums - 1).mean() < 0.03


def test_in_even_light_nothing_is_lost_but_what_facets_hide() -> None:
    even = Environment.of(np.ones((64, 128, 3), np.float32))
    normals = tilted(0, 20, 50)
    assert np.allclose(even.scattered(normals), 1, atol=0.01)
    for rough in (0.0, 0.2, 0.55, 1.0):
        spread = np.full((1, 3, 1), rough, np.float32)
        assert np.allclose(even.mirrored(normals[None].astype(np.float32), spread), 1, atol=0.01)
    cosine = np.full((1, 1, 1), 0.7, np.float32)
    mirror = reflected(np.ones((1, 1, 3), np.float32), 0 * cosine, cosine)
    assert np.allclose(mirror, 1, atol=0.01)
    white = np.ones((256, 512, 3), np.float32)
    tilt = tilted(np.degrees(np.arccos(0.7)))[0]
    for rough in (0.4, 0.8):
        found = reflected(np.full((1, 1, 3), 0.04, np.float32), 0 * cosine + rough, cosine)
        assert np.allclose(found, summed(white, tilt, 0.0, 0.04, rough), rtol=0.03)


def test_it_turns_about_the_upright_axis() -> None:
    """A lamp at +x stands at -z once it is turned by 90 degrees, as the renderer turns."""
    toward = directions(256, 128)
    lamp = np.where(toward[..., :1] > 0.98, np.float32(50), 0) + np.zeros(3, np.float32)
    turned = Environment.of(lamp, turn=90)
    ways = np.array([[[1, 0, 0], [0, 0, -1], [0, 0, 1]]], np.float32)
    seen = turned.mirrored(ways, np.zeros((1, 3, 1), np.float32))[0, :, 0]
    assert seen[1] > 40 and max(seen[0], seen[2]) < 1e-3
