"""One reference shader: a flat piece of material seen straight on, under fixed lights.

GGX microfacets with height-correlated Smith shadowing and Schlick's Fresnel, as the glTF 2.0
specification's appendix B describes them; the diffuse part is what the Fresnel leaves.

References: B. Walter et al., "Microfacet models for refraction through rough surfaces", 2007.
E. Heitz, "Understanding the masking-shadowing function in microfacet-based BRDFs", 2014.
"""

from __future__ import annotations

from collections.abc import Mapping
from dataclasses import dataclass

import numpy as np

from copper_sieve.core.image.map_kind import MapKind
from copper_sieve.core.image.raster import Float

Lights = tuple[tuple[tuple[float, float, float], float], ...]
# Direction towards each light (normalized below) and its strength.
_LIGHTS: Lights = (((0.45, 0.55, 0.70), 2.6), ((-0.65, 0.15, 0.75), 1.2), ((0.1, -0.75, 0.65), 0.8))
_SKY = 0.35
_LEAST_ALPHA = 0.02


@dataclass(frozen=True, slots=True)
class Material:
    """What the shader takes, whatever workflow it came from; (H, W, C) float32.

    diffuse : the light that is scattered, linear; f0 : reflectance seen head on, linear
    roughness : perceptual, [0, 1]; normal : unit vectors, Y up
    """

    diffuse: Float
    f0: Float
    roughness: Float
    normal: Float

    @classmethod
    def of(cls, maps: Mapping[MapKind, Float], f0: float) -> Material:
        """Of a set's base color, metallic, roughness and normal; f0 that of what is no metal."""
        base, metallic = maps[MapKind.BASE_COLOR], maps[MapKind.METALLIC]
        specular = np.float32(f0) + (base - np.float32(f0)) * metallic
        return cls(base * (1 - metallic), specular, maps[MapKind.ROUGHNESS], maps[MapKind.NORMAL])


# From low on the upper left, so that relief casts light and dark; and a little from everywhere.
RAKING: Lights = (((-0.62, 0.62, 0.48), 3.4), ((0.5, -0.3, 0.8), 0.35))


def shade(material: Material, lights: Lights = _LIGHTS, sky: float = _SKY) -> Float:
    """The light that reaches the eye: (H, W, 3) float32, linear, not clipped.

    lights : direction towards each and its strength; sky : what comes from everywhere
    """
    view = np.array([0, 0, 1], dtype=np.float32)
    alpha = np.maximum(material.roughness**2, np.float32(_LEAST_ALPHA))
    seen = np.maximum(material.normal @ view, np.float32(1e-3))[:, :, None]
    light = np.float32(sky) * (material.diffuse + material.f0)
    for direction, strength in lights:
        towards = np.array(direction, dtype=np.float32)
        towards /= np.linalg.norm(towards)
        half = (towards + view) / np.linalg.norm(towards + view)
        lit = np.maximum(material.normal @ towards, np.float32(0))[:, :, None]
        across = np.clip(material.normal @ half, 0, 1)[:, :, None]
        fresnel = material.f0 + (1 - material.f0) * np.float32((1 - float(view @ half)) ** 5)
        a2 = alpha**2
        spread = a2 / (np.float32(np.pi) * (across**2 * (a2 - 1) + 1) ** 2)
        shadow = 0.5 / (
            lit * np.sqrt(seen**2 * (1 - a2) + a2) + seen * np.sqrt(lit**2 * (1 - a2) + a2) + 1e-6
        )
        scattered = (1 - fresnel) * material.diffuse / np.float32(np.pi)
        light = light + np.float32(strength) * lit * (scattered + fresnel * spread * shadow)
    return np.asarray(light, dtype=np.float32)
