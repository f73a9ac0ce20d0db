"""Recipes by name, with the pictures that they blend."""

from __future__ import annotations

from dataclasses import dataclass
from datetime import datetime
from typing import Any

from psycopg.types.json import Json

from copper_sieve.core.errors import ConflictError, NotFoundError
from copper_sieve.core.image.map_kind import MapKind
from copper_sieve.core.models.recipe import Recipe
from copper_sieve.store.database import Row, Transaction, statements

_SQL = statements("recipes")


@dataclass(frozen=True, slots=True)
class StoredRecipe:
    """A stored recipe.

    definition : as JSON; unreadable recipes stay in the list
    """

    id: int
    name: str
    definition: dict[str, Any]
    updated_at: datetime

    @classmethod
    def from_row(cls, row: Row) -> StoredRecipe:
        """Build from a row of a statement."""
        return cls(row["id"], row["name"], row["definition"], row["updated_at"])

    @property
    def maps(self) -> list[MapKind]:
        """Return the maps that the recipe sets."""
        return [MapKind(kind) for kind in self.definition["maps"]]

    def recipe(self) -> Recipe:
        """Return the parsed recipe. Raises ValidationError."""
        return Recipe.model_validate(self.definition)


def list_recipes(connection: Transaction) -> list[StoredRecipe]:
    """Return all recipes by name."""
    return [StoredRecipe.from_row(row) for row in connection.execute(_SQL["list_recipes"])]


def get_recipe(connection: Transaction, recipe_id: int) -> StoredRecipe:
    """Return a recipe. Raises NotFoundError."""
    row = connection.execute(_SQL["get_recipe"], {"id": recipe_id}).fetchone()
    if row is None:
        raise NotFoundError(f"there is no recipe {recipe_id}")
    return StoredRecipe.from_row(row)


def put_recipe(connection: Transaction, recipe: Recipe, *, replace: bool) -> StoredRecipe:
    """Store a recipe under its name.

    Raises ConflictError if the name is taken, unless `replace`.
    """
    if not replace and connection.execute(_SQL["find_recipe"], {"name": recipe.name}).fetchone():
        raise ConflictError(
            f"a recipe named {recipe.name} already exists. Replace it, or choose another name"
        )
    definition = Json(recipe.model_dump(mode="json"))
    row = connection.execute(
        _SQL["put_recipe"], {"name": recipe.name, "definition": definition}
    ).fetchone()
    assert row is not None
    connection.execute(_SQL["forget_recipe_sources"], {"id": row["id"]})
    for sha256 in recipe.sources():
        connection.execute(_SQL["insert_recipe_source"], {"id": row["id"], "sha256": sha256})
    return StoredRecipe.from_row(row)


def delete_recipe(connection: Transaction, recipe_id: int) -> None:
    """Delete a recipe; sets that it was applied to are unchanged. Raises NotFoundError."""
    if connection.execute(_SQL["delete_recipe"], {"id": recipe_id}).fetchone() is None:
        raise NotFoundError(f"there is no recipe {recipe_id}")
