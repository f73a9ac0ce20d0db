"""Recipes: list, save, export, import, apply, delete."""

from __future__ import annotations

from fastapi import APIRouter, Response

from copper_sieve.api.deps import ContextDep
from copper_sieve.api.paging import PageDep
from copper_sieve.api.schemas.recipes import (
    AppliedRead,
    RecipeCreate,
    RecipeImport,
    RecipeImported,
    RecipeRead,
    SetChoice,
)
from copper_sieve.core.models.naming import slug
from copper_sieve.services import recipes
from copper_sieve.store.recipes import StoredRecipe

router = APIRouter(prefix="/api/v1", tags=["recipes"])


def _read(kept: StoredRecipe) -> RecipeRead:
    return RecipeRead(
        id=kept.id,
        name=kept.name,
        maps=kept.maps,
        updated_at=kept.updated_at,
    )


@router.get("/recipes")
def list_recipes(context: ContextDep, page: PageDep) -> list[RecipeRead]:
    """List all recipes by name."""
    return [_read(one) for one in page.of(recipes.list_all(context), lambda one: one.id)]


@router.post("/recipes", status_code=201)
def save_recipe(body: RecipeCreate, context: ContextDep) -> RecipeRead:
    """Save the settings of a set as a recipe; 409 if the name exists and `replace` is false."""
    return _read(recipes.save(context, body.set_id, body.name, replace=body.replace))


@router.post("/recipes/imports", status_code=201)
def import_recipe(body: RecipeImport, context: ContextDep) -> RecipeImported:
    """Import a recipe file; 409 if the name exists and `replace` is false."""
    kept, remarks = recipes.import_recipe(context, body.recipe, replace=body.replace)
    return RecipeImported(recipe=_read(kept), remarks=remarks)


@router.get("/recipes/{recipe_id}/file.json", response_class=Response)
def export_recipe(recipe_id: int, context: ContextDep) -> Response:
    """Return the recipe as a JSON file."""
    recipe = recipes.get(context, recipe_id)
    name = f'attachment; filename="{slug(recipe.name)}.recipe.json"'
    text = recipe.model_dump_json(indent=2, exclude_defaults=False) + "\n"
    return Response(text, 200, {"Content-Disposition": name}, "application/json")


@router.delete("/recipes/{recipe_id}", status_code=204)
def delete_recipe(recipe_id: int, context: ContextDep) -> None:
    """Delete a recipe; sets that it was applied to keep their settings."""
    recipes.delete_recipe(context, recipe_id)


@router.post("/recipes/{recipe_id}/applications")
def apply_recipe(recipe_id: int, body: SetChoice, context: ContextDep) -> list[AppliedRead]:
    """Apply a recipe to sets, all or none."""
    found = recipes.apply_recipe_to(context, recipes.get(context, recipe_id), body.set_ids)
    return [AppliedRead.model_validate(one) for one in found]


@router.post("/sets/{set_id}/settings-copies")
def copy_settings(set_id: int, body: SetChoice, context: ContextDep) -> list[AppliedRead]:
    """Apply the settings of one set to others, all or none."""
    found = recipes.copy_settings(context, set_id, body.set_ids)
    return [AppliedRead.model_validate(one) for one in found]
