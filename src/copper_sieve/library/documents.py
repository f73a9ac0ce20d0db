"""JSON files with settings of a set: recipes, preparations, targets."""

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
    """A target: a built-in one by its id, one that a JSON file holds, or itself.

    Raises UnknownTargetError, RecipeError.
    """
    if isinstance(given, TargetPreset):
        return given
    if not str(given).endswith(".json"):
        return get_target(str(given))
    return _read(Path(given), "target", TargetPreset.model_validate_json)


def recipe(path: Path) -> Recipe:
    """A recipe that was exported. Raises RecipeError."""
    return _read(path, "recipe", Recipe.model_validate_json)


def card(path: Path) -> SourceCard:
    """A source card that was exported. Raises RecipeError."""
    return _read(path, "source card", SourceCard.model_validate_json)


def preparation(path: Path) -> Preparation:
    """Read a preparation, or the preparation in a manifest. Raises RecipeError."""

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
    """Names what this process leaves behind if it dies."""
    return str(os.getpid())
