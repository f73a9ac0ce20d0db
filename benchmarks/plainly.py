"""Each operation as one writes it first in NumPy, SciPy and OpenCV: correct, at its defaults."""

from __future__ import annotations

from collections.abc import Callable, Mapping
from typing import Any

import cv2
import numpy as np
from scipy import fft
from scipy.ndimage import distance_transform_edt, gaussian_laplace

from copper_sieve.core.operations import SurfaceContext
from copper_sieve.core.operations.occlusion.horizon import _AZIMUTHS, _distances

Array = np.ndarray
Plain = Callable[[Mapping[str, Array], Mapping[str, Any], SurfaceContext], Array]
GREY = np.array([0.2126, 0.7152, 0.0722], np.float32)


def smooth(field: Array, sigma: float) -> Array:
    """A Gaussian by the Fourier transform; OpenCV's own takes minutes at these sizes."""
    f = np.hypot(fft.fftfreq(field.shape[0])[:, None], fft.rfftfreq(field.shape[1])[None])
    weight = np.exp(-2 * (np.pi * sigma * f) ** 2).astype(np.float32)
    return fft.irfft2(fft.rfft2(field) * weight, s=field.shape)


def encoded(light: Array) -> Array:
    """sRGB of linear light."""
    return np.where(light <= 0.0031308, light * 12.92, 1.055 * light ** (1 / 2.4) - 0.055)


def unit(x: Array, y: Array, z: Array) -> Array:
    """Unit vectors."""
    n = np.stack([x, y, z], axis=2)
    return n / np.linalg.norm(n, axis=2, keepdims=True)


def differences(field: Array, scale: float) -> tuple[Array, Array]:
    """Slopes across and down by five points on a tile."""
    found = []
    for axis in (1, 0):
        near = np.roll(field, -1, axis) - np.roll(field, 1, axis)
        far = np.roll(field, -2, axis) - np.roll(field, 2, axis)
        found.append((near * 8 - far) * np.float32(scale / 12))
    return found[0], found[1]


def normal_from_height(
    i: Mapping[str, Array], s: Mapping[str, Any], surface: SurfaceContext
) -> Array:
    """Five-point slopes, stacked and normalised."""
    field = i["height"][:, :, 0]
    gx, gr = differences(field, surface.depth * field.shape[1] / surface.tile_size)
    return unit(-gx, gr, np.ones_like(gx))


def normal_from_color(
    i: Mapping[str, Array], s: Mapping[str, Any], surface: SurfaceContext
) -> Array:
    """By way of a height."""
    height = height_from_color(i, {"detail": 0.6, "lighting_scale": 0.06}, surface)
    return normal_from_height({"height": height[:, :, None]}, s, surface)


def normal_from_picture(
    i: Mapping[str, Array], s: Mapping[str, Any], surface: SurfaceContext
) -> Array:
    """Imported."""
    return i["picture"].copy()


def height_from_picture(
    i: Mapping[str, Array], s: Mapping[str, Any], surface: SurfaceContext
) -> Array:
    """Imported, limited."""
    return np.clip(i["picture"], 0, 1)


def height_from_color(
    i: Mapping[str, Array], s: Mapping[str, Any], surface: SurfaceContext
) -> Array:
    """Log luminance, weighted by frequency, spread about the middle."""
    light = np.log(i["base_color"] @ GREY + 0.01)
    f = np.hypot(
        fft.fftfreq(light.shape[0], 1 / light.shape[0])[:, None],
        fft.rfftfreq(light.shape[1], 1 / light.shape[1])[None],
    )
    weight = np.maximum(f, 1) ** -(1 - s["detail"])
    weight *= 1 - np.exp(-2 * (np.pi * s["lighting_scale"] * f) ** 2)
    relief = fft.irfft2(fft.rfft2(light) * weight.astype(np.float32), s=light.shape)
    return np.clip(relief / (6 * relief.std()) + 0.5, 0, 1)


def height_from_normal(
    i: Mapping[str, Array], s: Mapping[str, Any], surface: SurfaceContext
) -> Array:
    """Frankot and Chellappa with two transforms there and one back."""
    n = i["normal"]
    p, q = -n[:, :, 0] / n[:, :, 2], n[:, :, 1] / n[:, :, 2]
    sx = np.sin(2 * np.pi * fft.rfftfreq(p.shape[1])).astype(np.float32)[None]
    sy = np.sin(2 * np.pi * fft.fftfreq(p.shape[0])).astype(np.float32)[:, None]
    below = sx * sx + sy * sy
    above = -1j * (sx * fft.rfft2(p) + sy * fft.rfft2(q))
    height = fft.irfft2(np.where(below < 1e-7, 0, above / np.maximum(below, 1e-7)), s=p.shape)
    return (height - height.min()) / np.ptp(height)


def _horizons(i: Mapping[str, Array], s: Mapping[str, Any], surface: SurfaceContext):  # type: ignore[no-untyped-def]
    field = i["height"][:, :, 0] * np.float32(surface.depth * i["height"].shape[1])
    gx = (np.roll(field, -1, 1) - np.roll(field, 1, 1)) / 2
    gr = (np.roll(field, -1, 0) - np.roll(field, 1, 0)) / 2
    azimuths = _AZIMUTHS[s["quality"]]
    for angle in 2 * np.pi * (np.arange(azimuths) + 0.5) / azimuths:
        slope = gx * np.float32(np.cos(angle)) + gr * np.float32(np.sin(angle))
        highest = slope.copy()
        for step in _distances(s["radius"] * field.shape[1]):
            move = (-round(step * np.sin(angle)), -round(step * np.cos(angle)))
            highest = np.maximum(highest, (np.roll(field, move, (0, 1)) - field) / step)
        yield angle, slope, highest, gx, gr


def ambient_occlusion(
    i: Mapping[str, Array], s: Mapping[str, Any], surface: SurfaceContext
) -> Array:
    """The same horizons, a rolled copy of the field for each step."""
    total, many = np.float32(0), 0
    for _, t, u, gx, gr in _horizons(i, s, surface):  # noqa: B007
        share = 1 / (1 + u * u)
        total = total + share - t * (np.pi / 2 - np.arctan(u) - u * share)
        many += 1
    return np.clip(total / many / np.sqrt(1 + gx * gx + gr * gr), 0, 1)


def bent_normal(i: Mapping[str, Array], s: Mapping[str, Any], surface: SurfaceContext) -> Array:
    """The same horizons, with equal weights for the open sky."""
    x, y, z = np.float32(0), np.float32(0), np.float32(0)
    for angle, _, u, _, _ in _horizons(i, s, surface):
        share = 1 / (1 + u * u)
        outwards = (np.pi / 2 - np.arctan(u) - u * share) / 2
        x, y, z = x + outwards * np.cos(angle), y - outwards * np.sin(angle), z + share / 2
    return unit(x, y, z)


def roughness_from_color(
    i: Mapping[str, Array], s: Mapping[str, Any], surface: SurfaceContext
) -> Array:
    """Lightness and local variation about a median."""
    light = encoded(np.clip(i["base_color"] @ GREY, 0, 1))
    local = light - smooth(light, light.shape[1] / 8)
    busy = np.sqrt(np.maximum(smooth(local * local, 0.01 * light.shape[1]), 0))
    rough = s["lightness"] * local + 2 * s["variation"] * busy
    return np.clip(rough - np.median(rough) + s["median"], 0, 1)


def roughness_from_surface(
    i: Mapping[str, Array], s: Mapping[str, Any], surface: SurfaceContext
) -> Array:
    """Hollows, heights, grain and lightness, each of one deviation, about a median."""

    def even(field: Array) -> Array:
        return (field - field.mean()) / field.std()

    light = encoded(np.clip(i["base_color"] @ GREY, 0, 1))
    width = light.shape[1]
    local = light - smooth(light, width / 8)
    above = smooth(i["height"][:, :, 0], 0.002 * width) - smooth(i["height"][:, :, 0], 0.02 * width)
    fine = local - smooth(local, 0.004 * width)
    busy = np.sqrt(np.maximum(smooth(fine * fine, 0.016 * width), 0))
    total = s["cavities"] * even(np.maximum(-above, 0)) - s["worn_areas"] * even(
        np.maximum(above, 0)
    )
    total += s["grain"] * even(busy) - s["lightness"] * even(local)
    total *= s["spread"] / total.std()
    return np.clip(total - np.median(total) + s["median"], 0, 1)


def base_color_from_photo(
    i: Mapping[str, Array], s: Mapping[str, Any], surface: SurfaceContext
) -> Array:
    """Remove lighting, cavities and highlights in log luminance, limited to the plausible range."""
    light = np.log(i["photo"] @ GREY + 0.002)
    large = smooth(light, s["lighting_scale"] * light.shape[1])
    small = light - smooth(light, s["feature_size"] * light.shape[1])
    factor = -s["delight"] * (large - large.mean())
    factor -= np.where(small < 0, s["crevices"], s["highlights"]) * small
    color = i["photo"] * np.exp(factor)[:, :, None]
    return np.clip(color, 0.013, 0.871)


def from_bend(i: Mapping[str, Array], s: Mapping[str, Any], surface: SurfaceContext) -> Array:
    """A Laplacian of a Gaussian."""
    field = i["height"][:, :, 0]
    sigma = s["size"] * field.shape[1]
    bend = -0.5 * gaussian_laplace(field, sigma, mode="wrap", truncate=3.0)
    return np.tanh(bend * surface.depth * field.shape[1] * sigma * 4) / 2 + 0.5


def curvature_from_normal(
    i: Mapping[str, Array], s: Mapping[str, Any], surface: SurfaceContext
) -> Array:
    """Half the divergence of the normals, smoothed."""
    x, y = i["normal"][:, :, 0], i["normal"][:, :, 1]
    parting = np.roll(x, -1, 1) - np.roll(x, 1, 1) + np.roll(y, 1, 0) - np.roll(y, -1, 0)
    bend = smooth(parting / 4 * x.shape[1] * s["size"], s["size"] * x.shape[1])
    return np.tanh(bend * 4) / 2 + 0.5


def cavity(i: Mapping[str, Array], s: Mapping[str, Any], surface: SurfaceContext) -> Array:
    """Depth below the local mean."""
    field = i["height"][:, :, 0]
    deep = smooth(field, s["size"] * field.shape[1]) - field
    return 1 - np.tanh(np.maximum(deep * (4 * surface.depth / s["size"]), 0))


def color_key(i: Mapping[str, Array], s: Mapping[str, Any], surface: SurfaceContext) -> Array:
    """Distance to a color in CIE L*a*b*, faded."""
    lab = cv2.cvtColor(next(iter(i.values())), cv2.COLOR_RGB2Lab)
    picked = cv2.cvtColor(np.float32([[[0.2, 0.16, 0.12]]]), cv2.COLOR_RGB2Lab)
    away = np.linalg.norm(lab - picked, axis=2)
    return np.clip((20 - away) / 10 + 0.5, 0, 1)


def faded(i: Mapping[str, Array], s: Mapping[str, Any], surface: SurfaceContext) -> Array:
    """A soft threshold of lightness."""
    first = next(iter(i.values()))
    light = encoded(np.clip(first @ GREY, 0, 1)) if first.shape[2] == 3 else first[:, :, 0]
    share = np.clip((light - 0.5) / 0.2 + 0.5, 0, 1)
    return share * share * (3 - 2 * share)


def emissive(i: Mapping[str, Array], s: Mapping[str, Any], surface: SurfaceContext) -> Array:
    """The color where it is bright."""
    return i["base_color"] * faded(i, s, surface)[:, :, None]


def blend(i: Mapping[str, Array], s: Mapping[str, Any], surface: SurfaceContext) -> Array:
    """Slopes added."""
    a, b = i["a"], i["b"] * np.float32([0.5, 0.5, 1])
    z = a[:, :, 2:] * b[:, :, 2:]
    xy = a[:, :, :2] * b[:, :, 2:] + b[:, :, :2] * a[:, :, 2:]
    n = np.concatenate([xy, z], axis=2)
    return n / np.linalg.norm(n, axis=2, keepdims=True)


def diffuse(i: Mapping[str, Array], s: Mapping[str, Any], surface: SurfaceContext) -> Array:
    """Base color without the metallic share."""
    return i["base_color"] * (1 - i["metallic"])


def metallic(i: Mapping[str, Array], s: Mapping[str, Any], surface: SurfaceContext) -> Array:
    """The positive root on channel means, F0 0.04."""
    d, f = (i[one].mean(axis=2, keepdims=True) for one in ("diffuse", "specular_color"))
    half = (d + f) / 2 - 0.04
    root = np.sqrt(np.maximum(half * half - 0.04 * (0.04 - f), 0))
    return np.clip((root - half) / 0.04, 0, 1)


def base_color(i: Mapping[str, Array], s: Mapping[str, Any], surface: SurfaceContext) -> Array:
    """Of diffuse and specular color, by how metallic they are."""
    m = metallic(i, s, surface)
    shine = (i["specular_color"] - 0.04 * (1 - m)) * m
    return np.clip((i["diffuse"] * (1 - m) + shine) / ((1 - m) ** 2 + m * m), 0, 1)


def pad(i: Mapping[str, Array], s: Mapping[str, Any], surface: SurfaceContext) -> Array:
    """Each texel from the nearest one that is covered."""
    rows, columns = distance_transform_edt(i["v"] <= 0.5, return_distances=False,
                                           return_indices=True)  # fmt: skip
    return i["color"][rows, columns]


def mips(i: Mapping[str, Array], s: Mapping[str, Any], surface: SurfaceContext) -> Array:
    """Means of four, the length that a normal lost into the roughness, down to one texel."""
    normal, squared = i["normal"], i["rough"] ** 4
    while len(normal) > 1:
        normal, squared = (
            (one[::2, ::2] + one[1::2, ::2] + one[::2, 1::2] + one[1::2, 1::2]) / 4
            for one in (normal, squared)
        )
        length = np.linalg.norm(normal, axis=2, keepdims=True)
        unit = normal / length
        spread = 2 * (1 - length**2) / (3 * length - length**3)
        rough = np.minimum(squared + spread, 1) ** 0.25
    return np.concatenate([unit, rough], axis=2)


def dither(i: Mapping[str, Array], s: Mapping[str, Any], surface: SurfaceContext) -> Array:
    """Noise of one code before rounding."""
    noise = np.random.default_rng(0).random((64, 64), dtype=np.float32) - 0.5
    side = len(i["v"])
    wide = np.tile(noise, (-(-side // 64),) * 2)[:side, :side]
    return np.clip(np.round(i["v"][:, :, 0] * 255 + wide), 0, 255).astype(np.uint8)


PLAINLY: dict[str, Plain] = {
    "diffuse_from_metal_rough": diffuse,
    "metallic_from_spec_gloss": metallic,
    "base_color_from_spec_gloss": base_color,
    "glossiness_from_roughness": lambda i, s, _: 1 - i["roughness"],
    "f0_from_specular_level": lambda i, s, _: i["specular_level"] * np.float32(0.08),
    "specular_level_from_f0": lambda i, s, _: np.clip(i["f0"] / np.float32(0.08), 0, 1),
    "pad": pad,
    "mips": mips,
    "dither": dither,
    "normal_from_height": normal_from_height,
    "normal_from_color": normal_from_color,
    "normal_from_picture": normal_from_picture,
    "height_from_picture": height_from_picture,
    "height_from_color": height_from_color,
    "height_from_normal": height_from_normal,
    "ambient_occlusion_from_height": ambient_occlusion,
    "bent_normal_from_height": bent_normal,
    "roughness_from_color": roughness_from_color,
    "roughness_from_surface": roughness_from_surface,
    "roughness_from_glossiness": lambda i, s, _: 1 - i["glossiness"],
    "roughness_from_picture": lambda i, s, _: np.clip(i["picture"], 0, 1),
    "base_color_from_photo": base_color_from_photo,
    "curvature_from_height": from_bend,
    "curvature_from_normal": curvature_from_normal,
    "cavity_from_height": cavity,
    "metallic_from_color": color_key,
    "specular_color_from_color": color_key,
    "opacity_from_picture": faded,
    "opacity_from_lightness": faded,
    "opacity_from_color": color_key,
    "emissive_from_color": emissive,
    "value_from_range": lambda i, s, _: np.clip(i["map"], 0, 1),
    "value_from_parts": lambda i, s, _: i["below"] * (1 - i["mask"]) + i["above"] * i["mask"],
    "blend": blend,
    "quantize": lambda i, s, _: np.round(np.clip(i["v"], 0, 1) * 255).astype(np.uint8),
}
