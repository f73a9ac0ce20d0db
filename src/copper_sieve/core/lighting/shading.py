"""Reference shader: a material seen from above, or from a viewpoint, under given lights.

GGX microfacets with height-correlated Smith shadowing and Schlick's Fresnel, as described in
appendix B of the glTF 2.0 specification; the Fresnel term is subtracted from the diffuse part.

References: B. Walter et al., "Microfacet models for refraction through rough surfaces", 2007.
E. Heitz, "Understanding the masking-shadowing function in microfacet-based BRDFs", 2014.
"""

from __future__ import annotations

from collections.abc import Mapping
from dataclasses import dataclass

import numpy as np

from copper_sieve.core.image.map_kind import MapKind
from copper_sieve.core.image.raster import Float
from copper_sieve.core.lighting.environment import Environment, reflected

# Direction towards each (normalized below) and its strength; for a lamp nearby both of every texel,
# (H, W, 3) and (H, W, 1).
Lights = tuple[tuple[tuple[float, float, float] | Float, float | Float], ...]
# A photographer's three lamps.
LAMPS: Lights = (((0.45, 0.55, 0.70), 2.6), ((-0.65, 0.15, 0.75), 1.2), ((0.1, -0.75, 0.65), 0.8))
_SKY = 0.35
_LEAST_ALPHA = 0.02
_STRAIGHT = np.array([0, 0, 1], dtype=np.float32)


@dataclass(frozen=True, slots=True)
class Material:
    """Shader inputs, independent of the workflow; (H, W, C) float32.

    diffuse : linear; f0 : reflectance at normal incidence, linear
    roughness : perceptual, [0, 1]; normal : unit vectors, Y+
    """

    diffuse: Float
    f0: Float
    roughness: Float
    normal: Float

    @classmethod
    def of(cls, maps: Mapping[MapKind, Float], f0: float) -> Material:
        """Create it from base color, metallic, roughness and normal; f0 is that of dielectrics."""
        base, metallic = maps[MapKind.BASE_COLOR], maps[MapKind.METALLIC]
        specular = np.float32(f0) + (base - np.float32(f0)) * metallic
        return cls(base * (1 - metallic), specular, maps[MapKind.ROUGHNESS], maps[MapKind.NORMAL])


# From low on the upper left, so that relief casts light and dark; and a little from everywhere.
RAKING: Lights = (((-0.62, 0.62, 0.48), 3.4), ((0.5, -0.3, 0.8), 0.35))


@dataclass(frozen=True, slots=True)
class Illumination:
    """Light on a material in addition to lights.

    sky : uniform light, without an environment
    occlusion : share that reaches each texel, (H, W, 1); None: all
    """

    sky: float = _SKY
    environment: Environment | None = None
    occlusion: Float | None = None


def shade(
    material: Material, lights: Lights = LAMPS, sky: float = _SKY,
    around: Illumination | None = None, view: Float = _STRAIGHT,
) -> Float:  # fmt: skip
    """Shade a material.

    Parameters
    ----------
    material : maps
    lights : direction and intensity of each light
    sky : uniform light
    around : environment instead of the uniform light
    view : unit vectors toward the viewer, (H, W, 3), or one for all

    Returns
    -------
    (H, W, 3) float32, linear, not clipped
    """
    alpha = np.maximum(material.roughness**2, np.float32(_LEAST_ALPHA))
    seen = np.maximum(_dot(material.normal, view), np.float32(1e-3))
    light = _of_surrounding(material, around or Illumination(sky), view, seen)
    for direction, strength in lights:
        towards = np.array(direction, dtype=np.float32)
        towards = towards / np.linalg.norm(towards, axis=-1, keepdims=True)
        half = towards + view
        half = half / np.maximum(np.linalg.norm(half, axis=-1, keepdims=True), np.float32(1e-6))
        lit = np.maximum(_dot(material.normal, towards), np.float32(0))
        across = np.clip(_dot(material.normal, half), 0, 1)
        slant = np.float32(1) - np.clip(_dot(view, half), 0, 1)
        fresnel = material.f0 + (1 - material.f0) * slant**5
        a2 = alpha**2
        spread = a2 / (np.float32(np.pi) * (across**2 * (a2 - 1) + 1) ** 2)
        shadow = 0.5 / (
            lit * np.sqrt(seen**2 * (1 - a2) + a2) + seen * np.sqrt(lit**2 * (1 - a2) + a2) + 1e-6
        )
        scattered = (1 - fresnel) * material.diffuse / np.float32(np.pi)
        light = light + np.asarray(strength, np.float32) * lit * (
            scattered + fresnel * spread * shadow
        )
    return np.asarray(light, dtype=np.float32)


def _dot(one: Float, other: Float) -> Float:
    return np.asarray((one * other).sum(-1, keepdims=True), dtype=np.float32)


def _of_surrounding(material: Material, around: Illumination, view: Float, seen: Float) -> Float:
    """Return the reflected environment light; cavities receive less and reflect less.

    S. Lagarde and C. de Rousiers, SIGGRAPH 2014 course on physically based shading.
    """
    if around.environment is None:
        light = np.float32(around.sky) * (material.diffuse + material.f0)
        return np.asarray(light if around.occlusion is None else light * around.occlusion)
    normal = np.broadcast_to(material.normal, np.broadcast(material.normal, view).shape)
    toward = 2 * _dot(normal, view) * normal - view
    rough = np.broadcast_to(material.roughness, seen.shape)
    scattered = around.environment.scattered(normal) * material.diffuse
    mirrored = around.environment.mirrored(np.asarray(toward, np.float32), rough)
    mirrored = mirrored * reflected(material.f0, rough, np.minimum(seen, 1))
    if around.occlusion is not None:
        open_ = around.occlusion
        scattered = scattered * open_
        mirrored = mirrored * np.clip((seen + open_) ** np.exp2(-16 * rough - 1) - 1 + open_, 0, 1)
    return np.asarray(scattered + mirrored, dtype=np.float32)
