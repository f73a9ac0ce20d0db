"""Read recipes, preparations, source cards and targets from JSON files."""

from __future__ import annotations

import os
from collections.abc import Callable
from pathlib import Path
from typing import TypeVar

from pydantic import BaseModel, ValidationError
from pydantic_core import from_json, to_json

from copper_sieve.core.errors import RecipeError
from copper_sieve.core.models.preparation import Preparation
from copper_sieve.core.models.recipe import Recipe
from copper_sieve.core.models.source_card import SourceCard
from copper_sieve.core.targets.catalog import get_target
from copper_sieve.core.targets.target_preset import TargetPreset

_Model = TypeVar("_Model", bound=BaseModel)


def target(given: TargetPreset | Path | str) -> TargetPreset:
    """Return a target.

    Parameters
    ----------
    given : TargetPreset, Path or str, a target, the id of a built-in target, or a target's JSON
        file

    Returns
    -------
    TargetPreset

    Raises
    ------
    UnknownTargetError : if there is no target with this id
    RecipeError : if the file can't be read or isn't a target
    """
    if isinstance(given, TargetPreset):
        return given
    if not str(given).endswith(".json"):
        return get_target(str(given))
    return _read(Path(given), "target", TargetPreset.model_validate_json)


def recipe(path: Path) -> Recipe:
    """Read an exported recipe.

    Raises
    ------
    RecipeError : if the file can't be read or isn't a recipe
    """
    return _read(path, "recipe", Recipe.model_validate_json)


def card(path: Path) -> SourceCard:
    """Read an exported source card.

    Raises
    ------
    RecipeError : if the file can't be read or isn't a source card
    """
    return _read(path, "source card", SourceCard.model_validate_json)


def preparation(path: Path) -> Preparation:
    """Read a preparation, or the preparation in a manifest.

    Raises
    ------
    RecipeError : if the file can't be read or contains no preparation
    """

    def parse(text: bytes) -> Preparation:
        content = from_json(text)
        if isinstance(content, dict) and "files" in content:
            content = content.get("prepare", {})
        return Preparation.model_validate_json(to_json(content))

    return _read(path, "preparation", parse)


def _read(path: Path, word: str, parse: Callable[[bytes], _Model]) -> _Model:
    try:
        return parse(path.read_bytes())
    except OSError as error:
        raise RecipeError(f"couldn't read {path} ({error.strerror}). Give a {word} file") from error
    except ValidationError as error:
        first = error.errors()[0]
        place = ".".join(str(part) for part in first["loc"])
        raise RecipeError(
            f"{path} isn't a valid {word} ({place or 'content'}: {first['msg']}). Export it again"
        ) from error
    except ValueError as error:
        raise RecipeError(
            f"{path} isn't a valid {word} (content: {error}). Export it again"
        ) from error


def token() -> str:
    """Return a name for temporary files of this process, by which later runs remove them."""
    return str(os.getpid())
