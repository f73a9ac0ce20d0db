"""Implausible values: base color, metals, roughness, and maps that are probably another map."""

from __future__ import annotations

from collections.abc import Mapping
from typing import Any

import cv2
import numpy as np

from copper_sieve.core.detection.names import kind_from_name
from copper_sieve.core.image.encoding import linear_to_srgb, luminance
from copper_sieve.core.image.map_kind import MapKind
from copper_sieve.core.image.raster import Float
from copper_sieve.core.models.finding import Finding, Fix
from copper_sieve.core.models.texture_set import Derived, Imported, MapDefinition, SetDefinition
from copper_sieve.core.operations import get_operation
from copper_sieve.core.operations.color.base_color_from_photo import DARKEST_LEFT, LIGHTEST

Maps = Mapping[MapKind, Float]

_TOLERANCE = 1.05  # tolerance of a limit, for rounding and single dark texels
_SOME, _MUCH = 0.05, 0.25  # shares of the texels
_METAL = 0.9
_LEAST_OF_METAL = 0.02  # minimum share of texels for a finding
# Bare metals reflect at least 50 % of the light (tungsten, iron); the limit is well below that, so
# that worn or dusty metal isn't reported.
_DARK_METAL = 0.33
_END = 0.5 / 255
_CLIPPED = 0.02
_LEAST_ROUGH, _MOST_ROUGH = 0.05, 0.98
_LIKE_GLASS = 0.2
_APART = 0.2  # correlation, from which hollows and heights differ in roughness


def check_color(texture_set: SetDefinition, maps: Maps) -> list[Finding]:
    """Return base colors beyond diffuse surfaces, and metals that reflect too little.

    Parameters
    ----------
    texture_set : the set
    maps : base color (H, W, 3), linear light, and metallic and opacity if the set has them
    """
    color = maps.get(MapKind.BASE_COLOR)
    if color is None:
        return []
    seen = _seen(maps, color.shape[:2])
    metal = maps[MapKind.METALLIC][:, :, 0] > _METAL if MapKind.METALLIC in maps else None
    light = luminance(color)
    found = []
    plain = light[seen & ~metal] if metal is not None else light[seen]
    if plain.size >= _SOME * light.size:
        found += _about_range(texture_set, plain)
    bare = light[seen & metal] if metal is not None else light[:0]
    if bare.size >= _LEAST_OF_METAL * light.size and np.median(bare) < _DARK_METAL:
        found.append(Finding(
            rule="dark_metal", kind=MapKind.BASE_COLOR, weight="warning",
            text=(
                "the metallic areas reflect less than bare metal does; painted, rusted or dirty "
                "areas should have metallic 0"
            ),
            evidence=f"half of the area reflects less than {np.median(bare):.0%}; iron reflects "
                     "53 %",
        ))  # fmt: skip
    return found


def _seen(maps: Maps, shape: tuple[int, ...]) -> Any:
    """Return a mask of visible areas: transparent areas have arbitrary colors."""
    if MapKind.OPACITY in maps:
        return maps[MapKind.OPACITY][:, :, 0] > 0.5
    return np.ones(shape, dtype=bool)


def _about_range(texture_set: SetDefinition, light: Float) -> list[Finding]:
    dark = float((light < DARKEST_LEFT / _TOLERANCE).mean())
    bright = float((light > LIGHTEST * _TOLERANCE).mean())
    share = max(dark, bright)
    if share < _SOME:
        return []
    what = (
        "darker than charcoal; lighting has almost no visible effect there" if dark >= bright
        else "lighter than fresh snow; it appears to glow"
    )  # fmt: skip
    limit = "24" if dark >= bright else "240"
    low, high = (float(linear_to_srgb(np.percentile(light, one))) * 255 for one in (2, 98))
    return [Finding(
        rule="implausible_color", kind=MapKind.BASE_COLOR,
        weight="warning" if share >= _MUCH else "info",
        text=f"{share:.0%} of the base color is {what}",
        evidence=(
            f"sRGB {low:.0f} to {high:.0f} (2nd to 98th percentile of non-metallic areas); "
            f"diffuse surfaces are rarely beyond {limit}"
        ),
        fix=_limited(texture_set),
    )]  # fmt: skip


def _limited(texture_set: SetDefinition) -> Fix | None:
    """Return the color limited to sRGB 24–240."""
    way = texture_set.maps[MapKind.BASE_COLOR]
    name, operation = "base_color_from_photo", get_operation("base_color_from_photo")
    if isinstance(way, Imported):
        still = {"delight": 0.0, "crevices": 0.0, "highlights": 0.0, "plausible_range": True}
        limited = Derived(operation=name, parameters=still, slots={"photo": way})
    elif isinstance(way, Derived) and way.operation == name:
        if operation.resolve(way.parameters)["plausible_range"]:
            return None
        limited = way.model_copy(update={"parameters": {**way.parameters, "plausible_range": True}})
    else:
        return None
    return Fix(title="Limit base color to sRGB 24–240", maps={MapKind.BASE_COLOR: limited})


def check_roughness(
    texture_set: SetDefinition, maps: Maps, file_names: Mapping[str, str]
) -> list[Finding]:
    """Return clipped roughness, and roughness and glossiness that seem to be swapped.

    Parameters
    ----------
    texture_set : the set
    maps : roughness (H, W, 1), and height and metallic if the set has them
    file_names : of its sources, by SHA-256
    """
    rough = maps.get(MapKind.ROUGHNESS)
    if rough is None:
        return []
    values = rough[:, :, 0]
    found = _clipped(texture_set, values)
    for kind in (MapKind.ROUGHNESS, MapKind.GLOSSINESS):
        way = texture_set.maps.get(kind)
        if isinstance(way, Imported):
            found += _other_meaning(texture_set, kind, way, values, maps, file_names)
    return found


def _clipped(texture_set: SetDefinition, values: Float) -> list[Finding]:
    if float(values.std()) < _END:
        return []
    smooth, rough = float((values <= _END).mean()), float((values >= 1 - _END).mean())
    share = max(smooth, rough)
    if share < _CLIPPED:
        return []
    what = "0, a perfect mirror" if smooth >= rough else "1"
    return [Finding(
        rule="clipped_roughness", kind=MapKind.ROUGHNESS,
        weight="warning" if share >= _MUCH or smooth >= _SOME else "info",
        text=f"{share:.0%} of the roughness is exactly {what}; detail is lost there",
        evidence=f"{smooth:.1%} is 0, {rough:.1%} is 1; median {float(np.median(values)):.2f}",
        fix=_within(texture_set.maps[MapKind.ROUGHNESS]),
    )]  # fmt: skip


def _within(way: MapDefinition) -> Fix | None:
    limits = {"low": _LEAST_ROUGH, "high": _MOST_ROUGH}
    if isinstance(way, Imported):
        kept = Derived(
            operation="roughness_from_picture", parameters=dict(limits), slots={"picture": way}
        )
    elif isinstance(way, Derived):
        has = {one.name for one in get_operation(way.operation).parameters}
        if not set(limits) <= has:
            return None
        kept = way.model_copy(update={"parameters": {**way.parameters, **limits}})
    else:
        return None
    return Fix(
        title=f"Limit roughness to {_LEAST_ROUGH:g}–{_MOST_ROUGH:g}",
        maps={MapKind.ROUGHNESS: kept},
    )


def _other_meaning(  # noqa: PLR0917
    texture_set: SetDefinition, kind: MapKind, way: Imported, roughness: Float, maps: Maps,
    file_names: Mapping[str, str],
) -> list[Finding]:  # fmt: skip
    """Return whether a map is probably of the other type, by its file name or values."""
    other = MapKind.GLOSSINESS if kind is MapKind.ROUGHNESS else MapKind.ROUGHNESS
    name = file_names.get(way.source, "")
    named = kind_from_name(name.rpartition(".")[0] or name)
    signs = _signs(texture_set, roughness, maps)
    if named is kind or (named is not other and not signs):
        return []
    if named is other:
        signs.insert(0, f"the file is named {name}")
    swapped: dict[MapKind, MapDefinition | None] = {kind: None, other: way}
    if kind is MapKind.ROUGHNESS:
        swapped[MapKind.ROUGHNESS] = Derived(operation="roughness_from_glossiness")
    return [Finding(
        rule="looks_like_glossiness" if kind is MapKind.ROUGHNESS else "looks_like_roughness",
        kind=kind, weight="warning" if named is other else "info",
        text=f"the {kind} map looks like {other}: matte areas will look shiny",
        evidence="; ".join(signs) + ("" if named is other else ". This is a guess; check it lit"),
        fix=Fix(title=f"Treat as {other}", maps=swapped),
    )]  # fmt: skip


def _signs(texture_set: SetDefinition, roughness: Float, maps: Maps) -> list[str]:
    """Return evidence against the values of a roughness map."""
    signs = []
    metal = maps[MapKind.METALLIC][:, :, 0] if MapKind.METALLIC in maps else None
    bare = float((metal > 0.5).mean()) if metal is not None else 0.0
    median = float(np.median(roughness))
    if bare < _SOME and 0 < median < _LIKE_GLASS and float(roughness.std()) > _END:
        signs.append(
            f"half of the area is smoother than {median:.2f}, which is typical of wet or "
            "polished surfaces"
        )
    # A height map estimated from color gives no information about roughness.
    if MapKind.HEIGHT in maps and isinstance(texture_set.maps[MapKind.HEIGHT], Imported):
        r = _correlation(roughness, _above(maps[MapKind.HEIGHT][:, :, 0]))
        if r > _APART:
            signs.append("high areas are rougher than low areas (correlation "
                         f"{r:.2f}); wear and dust cause the opposite")  # fmt: skip
    return signs


def _above(height: Float) -> Float:
    """Return the height of each point above its neighborhood."""
    around = cv2.GaussianBlur(height, (0, 0), max(height.shape) / 50)
    return np.asarray(height - around, np.float32)


def _correlation(a: Float, b: Float) -> float:
    if float(a.std()) < _END or float(b.std()) < 1e-6:
        return 0.0
    return float(np.corrcoef(a.ravel(), b.ravel())[0, 1])
