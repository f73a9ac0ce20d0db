"""An environment, prepared for the shader: irradiance and prefiltered radiance.

Diffuse light uses nine coefficients per color (R. Ramamoorthi and P. Hanrahan, "An efficient
representation for irradiance environment maps", 2001). Specular light uses panoramas prefiltered
with GGX, sampled in the mirror direction, multiplied by the integrated BRDF (B. Karis, SIGGRAPH
2013 course on physically based shading: split sum); samples with low probability read coarser
levels (J. Křivánek and M. Colbert, "Real-time shading with filtered importance sampling", 2008).
"""

from __future__ import annotations

from dataclasses import dataclass
from functools import cache

import cv2
import numpy as np
from numpy.typing import NDArray

from copper_sieve.core.image.panorama import directions
from copper_sieve.core.image.raster import Float

# Roughness and texels across of each blurred panorama.
_LEVELS = ((0.0, 512), (0.15, 256), (0.3, 128), (0.45, 64), (0.6, 64), (0.8, 32), (1.0, 32))
LEVELS = len(_LEVELS)
_SAMPLES = 256
_TABLE = 32  # steps of roughness, and of the cosine, in what microfacets reflect
_PER_ORDER = (np.pi, 2 * np.pi / 3, np.pi / 4)  # of a cosine, for each order of harmonics


@dataclass(frozen=True, slots=True)
class Environment:
    """Light from all directions, in linear light.

    harmonics : (9, 3) float32, irradiance divided by pi
    levels : for each roughness a panorama, (H, 2 H, 3) float32
    turn : rotation around the vertical axis in degrees
    """

    harmonics: Float
    levels: tuple[Float, ...]
    turn: float = 0.0

    @classmethod
    def of(cls, light: Float, *, strength: float = 1.0, turn: float = 0.0) -> Environment:
        """Prepare the lighting of a panorama.

        Parameters
        ----------
        light : (H, 2 H, 3) float32, linear; see `image.panorama` for the directions
        strength : factor
        turn : rotation in degrees
        """
        light = np.ascontiguousarray(light * np.float32(strength), dtype=np.float32)
        return cls(_harmonics(light), tuple(_blurred(light, *one) for one in _LEVELS), turn)

    def scattered(self, normal: Float) -> Float:
        """Return the radiosity of a white diffuse surface.

        Parameters
        ----------
        normal : (..., 3) unit vectors

        Returns
        -------
        (..., 3) float32, linear
        """
        basis = _basis(self._turned(normal))
        return np.asarray(np.maximum(basis @ self.harmonics, 0), dtype=np.float32)

    def mirrored(self, toward: Float, roughness: Float) -> Float:
        """Return the light from around directions, blurred according to the roughness.

        Parameters
        ----------
        toward : (H, W, 3) unit vectors
        roughness : (H, W, 1), perceptual

        Returns
        -------
        (H, W, 3) float32, linear
        """
        toward = self._turned(toward)
        seen = np.stack([_looked_up(level, toward) for level in self.levels])
        steps = np.array([rough for rough, _ in _LEVELS], dtype=np.float32)
        rough = np.clip(roughness[..., 0], 0, 1)
        at = np.clip(np.searchsorted(steps, rough, side="right") - 1, 0, len(steps) - 2)
        share = ((rough - steps[at]) / (steps[at + 1] - steps[at]))[..., None]
        rows, columns = np.indices(rough.shape)
        low, high = seen[at, rows, columns], seen[at + 1, rows, columns]
        return np.asarray(low + (high - low) * share, dtype=np.float32)

    def _turned(self, toward: Float) -> Float:
        """Convert directions of the scene to directions of the panorama."""
        angle = np.radians(self.turn)
        x, y, z = toward[..., 0], toward[..., 1], toward[..., 2]
        back = np.cos(angle) * x - np.sin(angle) * z, y, np.sin(angle) * x + np.cos(angle) * z
        return np.stack(back, axis=-1).astype(np.float32)


def reflected(f0: Float, roughness: Float, cosine: Float) -> Float:
    """Return the specular reflection of uniform light.

    Parameters
    ----------
    f0 : (..., 3), reflectance at normal incidence
    roughness : (..., 1), perceptual
    cosine : (..., 1), of the view angle

    Returns
    -------
    (..., 3)
    """
    table = _microfacets()
    size = np.float32(_TABLE - 1)
    across = np.ascontiguousarray(cosine[..., 0] * size, dtype=np.float32)
    down = np.ascontiguousarray(roughness[..., 0] * size, dtype=np.float32)
    found = cv2.remap(table, across, down, cv2.INTER_LINEAR, borderMode=cv2.BORDER_REPLICATE)
    return np.asarray(f0 * found[..., :1] + found[..., 1:2], dtype=np.float32)


def _harmonics(light: Float) -> Float:
    height, width = light.shape[0] // 4, light.shape[1] // 4
    small = cv2.resize(light, (width, height), interpolation=cv2.INTER_AREA)
    toward = directions(width, height)
    solid = np.sqrt(np.maximum(1 - toward[..., 1] ** 2, 0)) * (np.pi / height) * (2 * np.pi / width)
    basis = _basis(toward)
    sums = np.einsum("hwn,hwc,hw->nc", basis, small, solid)
    order = np.array([0, 1, 1, 1, 2, 2, 2, 2, 2])
    return np.asarray(sums * np.take(_PER_ORDER, order)[:, None] / np.pi, dtype=np.float32)


def _basis(toward: Float) -> Float:
    """Return the first nine real spherical harmonics of unit vectors: (..., 9)."""
    x, y, z = toward[..., 0], toward[..., 1], toward[..., 2]
    one = np.full_like(x, 0.282095)
    return np.stack(
        [one, 0.488603 * y, 0.488603 * z, 0.488603 * x, 1.092548 * x * y, 1.092548 * y * z,
         0.315392 * (3 * z * z - 1), 1.092548 * x * z, 0.546274 * (x * x - y * y)], axis=-1,
    )  # fmt: skip


def _blurred(light: Float, roughness: float, width: int) -> Float:
    """Return the panorama as a surface of that roughness reflects it at normal incidence."""
    width = min(width, light.shape[1])
    if roughness == 0:
        return np.asarray(cv2.resize(light, (width, width // 2), interpolation=cv2.INTER_AREA))
    smaller = [light]
    while smaller[-1].shape[1] > 8:
        half = smaller[-1].shape[1] // 2, smaller[-1].shape[0] // 2
        smaller.append(np.asarray(cv2.resize(smaller[-1], half, interpolation=cv2.INTER_AREA)))
    toward = directions(width, width // 2)
    side, up = _frame(toward)
    total = np.zeros_like(toward)
    weight = 0.0
    texel = 4 * np.pi / (light.shape[0] * light.shape[1])
    for x, y, z, density in _lobe(roughness):
        way = side * np.float32(x) + up * np.float32(y) + toward * np.float32(z)
        covers = 1 / (_SAMPLES * density)  # of the sphere, by this sample
        level = int(np.clip(0.5 * np.log2(max(covers / texel, 1)), 0, len(smaller) - 1))
        total += np.float32(z) * _looked_up(smaller[level], way)
        weight += z
    return np.asarray(total / np.float32(weight), dtype=np.float32)


def _lobe(roughness: float) -> list[tuple[float, float, float, float]]:
    """Return directions around (0, 0, 1) that reflect light to it, with their density."""
    alpha = roughness**2
    first, second = _even_pairs(_SAMPLES)
    cosine = np.sqrt((1 - first) / (1 + (alpha**2 - 1) * first))
    sine, around = np.sqrt(1 - cosine**2), 2 * np.pi * second
    spread = alpha**2 / (np.pi * (cosine**2 * (alpha**2 - 1) + 1) ** 2)
    x, y, z = (
        2 * cosine * sine * np.cos(around),
        2 * cosine * sine * np.sin(around),
        2 * cosine**2 - 1,
    )
    kept = z > 0
    return list(zip(x[kept], y[kept], z[kept], (spread / 4)[kept], strict=True))


def _even_pairs(count: int) -> tuple[NDArray[np.float64], NDArray[np.float64]]:
    """Return Hammersley points: evenly distributed pairs in [0, 1]."""
    n = np.arange(count)
    turned = np.zeros(count)
    for bit in range(16):
        turned += ((n >> bit) & 1) / 2.0 ** (bit + 1)
    return (n + 0.5) / count, turned


def _frame(toward: Float) -> tuple[Float, Float]:
    """Return two unit vectors perpendicular to each direction."""
    pole = np.abs(toward[..., 1:2]) > 0.999
    other = np.where(pole, np.array([1.0, 0, 0]), np.array([0, 1.0, 0]))
    side = np.cross(other, toward)
    side /= np.linalg.norm(side, axis=-1, keepdims=True)
    return side.astype(np.float32), np.cross(toward, side).astype(np.float32)


def _looked_up(panorama: Float, toward: Float) -> Float:
    """Sample the panorama in these directions, bilinear, wrapped horizontally."""
    height, width = panorama.shape[:2]
    around = np.arctan2(toward[..., 2], toward[..., 0]) / (2 * np.pi) + 0.5
    down = 0.5 - np.arcsin(np.clip(toward[..., 1], -1, 1)) / np.pi
    wrapped = np.concatenate([panorama[:, -1:], panorama, panorama[:, :1]], axis=1)
    x = np.ascontiguousarray(around * width + 0.5, dtype=np.float32)
    y = np.ascontiguousarray(down * height - 0.5, dtype=np.float32)
    return np.asarray(cv2.remap(wrapped, x, y, cv2.INTER_LINEAR, borderMode=cv2.BORDER_REPLICATE))


@cache
def _microfacets() -> Float:
    """Integrate the GGX BRDF with Smith shadowing under uniform light.

    Returns
    -------
    (32, 32, 2) by roughness and cosine: the factor of f0, and the rest of Schlick's Fresnel
    """
    out = np.zeros((_TABLE, _TABLE, 2), dtype=np.float32)
    first, second = _even_pairs(1024)
    for r in range(_TABLE):
        a2 = max(r / (_TABLE - 1), 0.02) ** 4
        cosine = np.sqrt((1 - first) / (1 + (a2 - 1) * first))
        sine, around = np.sqrt(1 - cosine**2), 2 * np.pi * second
        for c in range(_TABLE):
            eye_z = max(c / (_TABLE - 1), 1e-3)
            eye_x = np.sqrt(1 - eye_z**2)
            # cosine between view direction and facet
            half = eye_x * sine * np.cos(around) + eye_z * cosine
            lit = 2 * half * cosine - eye_z
            use = (lit > 0) & (half > 0)
            shadow = 2 * lit * eye_z / (
                lit * np.sqrt(eye_z**2 * (1 - a2) + a2) + eye_z * np.sqrt(lit**2 * (1 - a2) + a2)
            )  # fmt: skip
            seen = np.where(use, shadow * half / (cosine * eye_z), 0)
            fresnel = (1 - np.clip(half, 0, 1)) ** 5
            out[r, c] = ((1 - fresnel) * seen).mean(), (fresnel * seen).mean()
    return out
