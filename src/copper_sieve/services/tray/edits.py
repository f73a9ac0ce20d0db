"""The effect of each change on the definition of one set."""

from __future__ import annotations

from collections.abc import Callable

from copper_sieve.core.errors import ConflictError, NotFoundError, ParameterError
from copper_sieve.core.graph.geometry import geometry_of
from copper_sieve.core.models import set_edits
from copper_sieve.core.models.finding import TITLES
from copper_sieve.core.models.interpretations import interpretations_of
from copper_sieve.core.models.origin import Origin
from copper_sieve.core.models.recipe import apply_recipe
from copper_sieve.core.models.texture_set import SetDefinition
from copper_sieve.services import checklist
from copper_sieve.services.interpretations import measured_azimuth
from copper_sieve.services.tray import changes
from copper_sieve.services.tray.changes import Change
from copper_sieve.store import arrivals, deliveries, recipes
from copper_sieve.store.database import Transaction
from copper_sieve.store.sources import source_sizes

# Gives the set of that number as it is then; raises SieveError where it cannot be done to this one.
Edit = Callable[[int, SetDefinition], SetDefinition]


def edit_of(connection: Transaction, wanted: Change) -> tuple[str, Edit] | None:
    """Return a change's function on definitions, with its title; None if it doesn't affect them.

    Raises NotFoundError if the change refers to something that doesn't exist.
    """
    match wanted:
        case changes.ChangeWidth(metres=metres):
            return f"width {metres:g} m", lambda _, one: set_edits.with_width(one, metres)
        case changes.ChangeRelief(degrees=degrees):
            return f"relief {degrees:g}°", lambda _, one: set_edits.with_relief(one, degrees)
        case changes.SetConstant(kind=kind, value=value):
            text = ", ".join(f"{v:g}" for v in value)
            title = f"{kind.facts.title.lower()} {text}"
            return title, lambda _, one: set_edits.with_constant(one, kind, value)
        case changes.FlipGreen():
            return "green inverted", lambda _, one: _with_green_turned(one, wanted)
        case changes.UseCard(name=name):
            origin = _origin(connection, name)
            return f"card {name}", lambda _, one: one.model_copy(update={"origin": origin})
        case changes.UseRecipe(recipe_id=recipe_id):
            recipe = recipes.get_recipe(connection, recipe_id).recipe()
            known = set(source_sizes(connection, recipe.sources()))
            return (
                f"recipe {recipe.name}",
                lambda _, one: apply_recipe(recipe, one, known_sources=known).texture_set,
            )
        case changes.Restore(delivery_id=delivery_id):
            before = _delivered(connection, delivery_id)
            return f"restored from delivery {delivery_id}", lambda number, one: _restored(
                before, number, one
            )
        case changes.FixFindings(rule=rule):
            return f"{TITLES[rule]}, fixed", lambda number, one: checklist.fix_definition(
                connection, number, one, rule
            )
        case changes.Interpret():
            return f"interpreted as {wanted.name}", lambda _, one: _reading(connection, one, wanted)
    return None


def _with_green_turned(texture_set: SetDefinition, wanted: changes.FlipGreen) -> SetDefinition:
    card = texture_set.origin.card if texture_set.origin else None
    if wanted.card is not None and card != wanted.card:
        raise ConflictError(f"it has another source card than {wanted.card}")
    turned = set_edits.with_green_turned(texture_set)
    if turned == texture_set:
        raise ConflictError("it has no imported normal map")
    return turned


def _origin(connection: Transaction, name: str) -> Origin:
    card = arrivals.get_card(connection, name)
    if card is None:
        raise NotFoundError(f"there is no source card {name}")
    return Origin(card=card.name, licence=card.licence, where=card.where)


def _reading(
    connection: Transaction, texture_set: SetDefinition, wanted: changes.Interpret
) -> SetDefinition:
    geometry = geometry_of(texture_set, source_sizes(connection, texture_set.sources()))
    azimuth = measured_azimuth(connection, geometry)
    found = {one.name: one for one in interpretations_of(texture_set, wanted.about, azimuth)}
    if wanted.name not in found:
        raise ParameterError(f"it can only be interpreted as {', '.join(found)}")
    return found[wanted.name].texture_set


def _delivered(connection: Transaction, delivery_id: int) -> dict[int, SetDefinition]:
    """Return the sets of a delivery at its creation, by id."""
    return {
        part.set_id: SetDefinition.model_validate(part.definition)
        for part in deliveries.get_delivery(connection, delivery_id).parts
        if part.set_id is not None
    }


def _restored(
    before: dict[int, SetDefinition], number: int, texture_set: SetDefinition
) -> SetDefinition:
    if number not in before:
        raise ConflictError("it isn't part of that delivery")
    return before[number].model_copy(update={"name": texture_set.name})
