"""Interpretations of a photo for the user to choose from. Each is a recipe.

The amount of relief, the side of the light, and bumps versus dents can't be determined reliably
from one photo; users recognize the correct interpretation when they see them lit side by side.
"""

from __future__ import annotations

from collections.abc import Mapping
from dataclasses import dataclass
from typing import Literal

from copper_sieve.core.errors import RecipeError
from copper_sieve.core.image.map_kind import MapKind
from copper_sieve.core.models.recipe import Recipe, RecipeSurface, apply_recipe
from copper_sieve.core.models.relief import RELIEFS
from copper_sieve.core.models.texture_set import Derived, Imported, SetDefinition
from copper_sieve.core.operations import get_operation
from copper_sieve.core.operations.declaration import Value

About = Literal["relief", "light", "invert"]

LIT_SHARE = 0.65  # how much its shading counts where a photo is lit from one side
_SHOWN = ("low", "medium", "high")


@dataclass(frozen=True, slots=True)
class Interpretation:
    """One interpretation of a photo.

    name, words : short name, and description
    current : the set already has these settings
    texture_set : the set with these settings
    """

    name: str
    words: str
    current: bool
    texture_set: SetDefinition


def interpretations_of(
    texture_set: SetDefinition, about: About, azimuth: float | None
) -> list[Interpretation]:
    """Return the interpretations of a set's photo for one question.

    Parameters
    ----------
    texture_set : the set
    about : "relief": low, medium, high, and directional light or very high; "light": even light and
        both directions; "invert": off and on
    azimuth : degrees; direction of the light in the photo, or its opposite; None: even light

    Returns
    -------
    list of Interpretation

    Raises
    ------
    RecipeError : if the set's maps can't be interpreted in this way
    """
    height = texture_set.maps.get(MapKind.HEIGHT)
    if about == "relief":
        return _reliefs(texture_set, height, azimuth)
    if not _has(height, "shading"):
        raise RecipeError(f"{texture_set.name}: the height isn't derived from the color of a photo")
    if about == "invert":
        ways = [("off", "bright is high", False), ("on", "dark is high", True)]
        return [_reading(texture_set, *way[:2], parameters={"invert": way[2]}) for way in ways]
    if azimuth is None:
        raise RecipeError(f"{texture_set.name}: no light direction was detected")
    sides = [azimuth, azimuth + 180]
    return [
        _reading(texture_set, "even", "even lighting", parameters={"shading": 0.0}),
        *(_reading(texture_set, f"from {side:.0f}°", *_lit(side)) for side in sides),
    ]


def _reliefs(
    texture_set: SetDefinition, height: object, azimuth: float | None
) -> list[Interpretation]:
    if isinstance(texture_set.maps.get(MapKind.NORMAL), Imported) or (
        isinstance(height, Derived) and MapKind.NORMAL in get_operation(height.operation).inputs
    ):
        raise RecipeError(f"{texture_set.name}: the imported normal map determines the relief")
    if not isinstance(height, Derived | Imported):
        raise RecipeError(f"{texture_set.name}: the set has no height with a relief setting")
    lit = azimuth is not None and _has(height, "shading")
    found = [
        _reading(texture_set, name, f"mean slope {RELIEFS[name]:g}°", relief=RELIEFS[name])
        for name in (_SHOWN if lit else (*_SHOWN, "very high"))
    ]
    if lit and azimuth is not None:
        words, parameters = _lit(azimuth)
        name = f"light from {azimuth:.0f}°"
        found.append(_reading(texture_set, name, words, parameters, RELIEFS["medium"]))
    return found


def _lit(side: float) -> tuple[str, dict[str, Value]]:
    words = f"bright areas face {side:.0f}°"
    return words, {"shading": LIT_SHARE, "light_direction": float(side)}


def _has(height: object, parameter: str) -> bool:
    """Return True if a map is derived by an operation with such a parameter."""
    if not isinstance(height, Derived):
        return False
    return any(one.name == parameter for one in get_operation(height.operation).parameters)


def _reading(
    texture_set: SetDefinition,
    name: str,
    words: str,
    parameters: Mapping[str, Value] | None = None,
    relief: float | None = None,
) -> Interpretation:
    surface = texture_set.surface
    maps: dict[MapKind, Derived] = {}
    height = texture_set.maps.get(MapKind.HEIGHT)
    if parameters and isinstance(height, Derived):
        changed = {**height.parameters, **parameters}
        maps[MapKind.HEIGHT] = height.model_copy(update={"parameters": changed})
    recipe = Recipe(
        name=name,
        surface=None if relief is None else RecipeSurface(
            tile_size=surface.tile_size, depth=None, relief=relief
        ),
        maps=maps,
    )  # fmt: skip
    applied = apply_recipe(recipe, texture_set).texture_set
    return Interpretation(name, words, _same(texture_set, applied), applied)


def _same(one: SetDefinition, other: SetDefinition) -> bool:
    """Return whether both have equal settings, with defaults filled in."""
    return one.surface == other.surface and _settled(one) == _settled(other)


def _settled(texture_set: SetDefinition) -> dict[str, Value]:
    height = texture_set.maps.get(MapKind.HEIGHT)
    if not isinstance(height, Derived):
        return {}
    settled = get_operation(height.operation).resolve(height.parameters)
    if settled.get("shading") == 0:
        settled.pop("light_direction")
    return settled
