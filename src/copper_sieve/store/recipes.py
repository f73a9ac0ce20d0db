"""Recipes by name, with the pictures that they mix in."""

from __future__ import annotations

from psycopg.types.json import Json

from copper_sieve.core.errors import ConflictError, NotFoundError
from copper_sieve.core.models.recipe import Recipe
from copper_sieve.store.database import Row, Transaction, statements

_SQL = statements("recipes")


def list_recipes(connection: Transaction) -> list[Row]:
    """All recipes by name."""
    return connection.execute(_SQL["list_recipes"]).fetchall()


def get_recipe(connection: Transaction, recipe_id: int) -> Row:
    """One recipe. Raises NotFoundError."""
    row = connection.execute(_SQL["get_recipe"], {"id": recipe_id}).fetchone()
    if row is None:
        raise NotFoundError(f"there is no recipe {recipe_id}")
    return row


def put_recipe(connection: Transaction, recipe: Recipe, *, replace: bool) -> Row:
    """Save a recipe under its name. Raises ConflictError where it is taken, unless `replace`."""
    if not replace and connection.execute(_SQL["find_recipe"], {"name": recipe.name}).fetchone():
        raise ConflictError(
            f"there is a recipe {recipe.name} already: replace it, or choose another name"
        )
    definition = Json(recipe.model_dump(mode="json"))
    row = connection.execute(
        _SQL["put_recipe"], {"name": recipe.name, "definition": definition}
    ).fetchone()
    assert row is not None
    connection.execute(_SQL["forget_recipe_sources"], {"id": row["id"]})
    for sha256 in recipe.sources():
        connection.execute(_SQL["insert_recipe_source"], {"id": row["id"], "sha256": sha256})
    return row


def delete_recipe(connection: Transaction, recipe_id: int) -> None:
    """Forget a recipe; the sets it was applied to stay. Raises NotFoundError."""
    if connection.execute(_SQL["delete_recipe"], {"id": recipe_id}).fetchone() is None:
        raise NotFoundError(f"there is no recipe {recipe_id}")
