"""Recipes: save one from a set, import one, apply one to several sets."""

from __future__ import annotations

from collections.abc import Iterable
from dataclasses import dataclass

from copper_sieve.core.graph.plan import plan
from copper_sieve.core.image.map_kind import MapKind
from copper_sieve.core.models.recipe import Recipe, apply_recipe, recipe_of
from copper_sieve.core.models.texture_set import Derived, Imported, SetDefinition
from copper_sieve.services.context import Context
from copper_sieve.store import recipes, texture_sets
from copper_sieve.store.database import Transaction
from copper_sieve.store.recipes import StoredRecipe
from copper_sieve.store.sources import source_sizes


@dataclass(frozen=True, slots=True)
class AppliedTo:
    """Result of applying a recipe to one set."""

    set_id: int
    set_name: str
    changed: tuple[MapKind, ...]
    kept: dict[MapKind, str]


def list_all(context: Context) -> list[StoredRecipe]:
    """Return all recipes by name."""
    with context.database.transaction() as connection:
        return recipes.list_recipes(connection)


def get(context: Context, recipe_id: int) -> Recipe:
    """Return a recipe. Raises NotFoundError."""
    with context.database.transaction() as connection:
        return recipes.get_recipe(connection, recipe_id).recipe()


def save(context: Context, set_id: int, name: str, *, replace: bool) -> StoredRecipe:
    """Save the derivation part of a set. Raises ConflictError, NotFoundError, RecipeError."""
    with context.database.transaction() as connection:
        recipe = recipe_of(_definition(connection, set_id), name)
        return recipes.put_recipe(connection, recipe, replace=replace)


def import_recipe(
    context: Context, recipe: Recipe, *, replace: bool
) -> tuple[StoredRecipe, list[str]]:
    """Import a recipe file; pictures that aren't on this server are skipped.

    Returns the stored recipe and a remark for each map that lost its picture.
    Raises ConflictError.
    """
    with context.database.transaction() as connection:
        here = set(source_sizes(connection, recipe.sources()))
        remarks: list[str] = []
        maps = dict(recipe.maps)
        for kind, definition in recipe.maps.items():
            if not isinstance(definition, Derived):
                continue
            slots = {
                name: filling
                for name, filling in definition.slots.items()
                if not isinstance(filling, Imported) or filling.source in here
            }
            if slots != definition.slots:
                maps[kind] = definition.model_copy(update={"slots": slots})
                remarks.append(
                    f"{kind}: the second picture of the recipe isn't available and was skipped"
                )
        kept = recipe.model_copy(update={"maps": maps})
        return recipes.put_recipe(connection, kept, replace=replace), remarks


def delete_recipe(context: Context, recipe_id: int) -> None:
    """Delete a recipe. Raises NotFoundError."""
    with context.database.transaction() as connection:
        recipes.delete_recipe(connection, recipe_id)


def apply_recipe_to(context: Context, recipe: Recipe, set_ids: Iterable[int]) -> list[AppliedTo]:
    """Apply a recipe to sets, all or none; each can be undone on its Bench.

    Raises NotFoundError, PlanError.
    """
    with context.database.transaction() as connection:
        known = set(source_sizes(connection, recipe.sources()))
        return [_apply(connection, recipe, set_id, known) for set_id in set_ids]


def copy_settings(context: Context, set_id: int, set_ids: Iterable[int]) -> list[AppliedTo]:
    """Use the settings of one set on others. Raises NotFoundError, PlanError, RecipeError."""
    with context.database.transaction() as connection:
        definition = _definition(connection, set_id)
    others = [one for one in set_ids if one != set_id]
    return apply_recipe_to(context, recipe_of(definition, definition.name), others)


def _definition(connection: Transaction, set_id: int) -> SetDefinition:
    return texture_sets.get_set(connection, set_id).definition()


def _apply(connection: Transaction, recipe: Recipe, set_id: int, known: set[str]) -> AppliedTo:
    kept = texture_sets.get_set(connection, set_id)
    before = kept.definition()
    applied = apply_recipe(recipe, before, known_sources=known)
    after = applied.texture_set
    if after != before:
        plan(after, source_sizes(connection, after.sources()))
        texture_sets.update_set(connection, set_id, kept.version, after)
    return AppliedTo(set_id, kept.name, applied.changed, applied.kept)
