"""Recipes: saved, imported, applied."""

from __future__ import annotations

from datetime import datetime

from pydantic import Field

from copper_sieve.api.schemas.common import RequestModel, ResponseModel
from copper_sieve.core.image.map_kind import MapKind
from copper_sieve.core.models.recipe import Recipe, RecipeName


class RecipeRead(ResponseModel):
    """A recipe in lists."""

    id: int
    name: str
    maps: list[MapKind]
    updated_at: datetime


class RecipeCreate(RequestModel):
    """Save the settings of a set under a name."""

    name: RecipeName
    set_id: int
    replace: bool = False


class RecipeImport(RequestModel):
    """A recipe file."""

    recipe: Recipe
    replace: bool = False


class RecipeImported(ResponseModel):
    """An imported recipe, and skipped parts of it."""

    recipe: RecipeRead
    remarks: list[str]


class SetChoice(RequestModel):
    """The sets to apply something to."""

    set_ids: list[int] = Field(min_length=1, max_length=1000)


class AppliedRead(ResponseModel):
    """Result for one set: changed maps, and unchanged ones with the reason."""

    set_id: int
    set_name: str
    changed: list[MapKind]
    kept: dict[MapKind, str]
