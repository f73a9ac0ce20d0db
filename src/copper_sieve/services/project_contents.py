"""Contents of a project file in addition to its sets, and how they are imported.

Targets, recipes and source cards are shared by all projects. Existing identical ones are reused; a
different one with the same name is added under a new name, which the project refers to.
"""

from __future__ import annotations

import re
import secrets
from collections.abc import Iterable, Mapping
from dataclasses import dataclass, field

from pydantic import ValidationError

from copper_sieve.core.errors import DeliveryError, ParameterError, SieveError
from copper_sieve.core.ingest.project_file import (
    AutoDeliverInFile,
    DestinationInFile,
    EnvironmentInFile,
    ProjectFile,
)
from copper_sieve.core.models.recipe import Recipe
from copper_sieve.core.targets.options import TargetOptions
from copper_sieve.core.targets.target_preset import TargetPreset
from copper_sieve.services import destinations as destination_rules
from copper_sieve.services.context import Context
from copper_sieve.services.targets import all_targets
from copper_sieve.services.webhooks.addresses import checked_url
from copper_sieve.store import (
    arrivals,
    auto_deliver,
    destinations,
    environments,
    recipes,
    targets,
    webhooks,
)
from copper_sieve.store.auto_deliver import AutoDeliverRule
from copper_sieve.store.database import Transaction
from copper_sieve.store.destinations import StoredDestination


@dataclass(slots=True)
class ImportReport:
    """Result of an import, one sentence each.

    added : new on the server; merged : existed already; skipped : couldn't be imported, with the
    reason
    """

    added: list[str] = field(default_factory=list)
    merged: list[str] = field(default_factory=list)
    skipped: list[str] = field(default_factory=list)


def gather(
    context: Context, connection: Transaction, project_id: int, names: Mapping[int, str]
) -> ProjectFile:
    """Return a project file with everything but title, sets, originals and models.

    names : of the project's sets by their ids
    """
    places = context.places()
    return ProjectFile(
        title="-",
        sets=(),
        originals=(),
        environments=tuple(
            EnvironmentInFile(
                sha256=one.sha256, name=one.name, kind=one.kind, lamp=one.lamp,
                strength=one.strength, mean=one.mean,
            )
            for one in environments.list_environments(connection, project_id)
        ),
        targets=tuple(one.preset for one in targets.list_targets(connection)),
        recipes=_readable(recipes.list_recipes(connection)),
        source_cards=tuple(arrivals.list_cards(connection)),
        destinations=tuple(
            DestinationInFile(
                target_id=one.target_id, folder=places.stored(one.folder), pattern=one.pattern,
                options=dict(one.options),
            )
            for one in destinations.of_project(connection, project_id).values()
        ),
        auto_deliver=tuple(
            AutoDeliverInFile(
                set_name=None if one.set_id is None else names.get(one.set_id),
                target_id=one.target_id,
            )
            for one in auto_deliver.of_project(connection, project_id)
            if one.set_id is None or one.set_id in names
        ),
        webhooks=tuple(one.url for one in webhooks.of_project(connection, project_id)),
    )  # fmt: skip


def _readable(kept: Iterable[recipes.StoredRecipe]) -> tuple[Recipe, ...]:
    found = []
    for one in kept:
        try:
            found.append(one.recipe())
        except ValidationError:  # unreadable in this version; shown in the list of recipes
            continue
    return tuple(found)


def place(
    context: Context,
    connection: Transaction,
    project_id: int,
    file: ProjectFile,
    ids: Mapping[str, int],
) -> ImportReport:
    """Store everything of a project file except its sets, originals and models.

    Parameters
    ----------
    context : Context
    connection : Transaction
    project_id : int
    file : ProjectFile
    ids : mapping of str to int
        Ids of the created sets by name.

    Returns
    -------
    ImportReport
    """
    report = ImportReport()
    renamed = _place_targets(connection, file, report)
    _place_recipes(connection, file, report)
    _place_cards(connection, file, report)
    for one in file.environments:
        environments.add_environment(
            connection, project_id, one.sha256, one.name, one.kind, one.lamp, one.strength, one.mean
        )
        report.added.append(f"environment {one.name}")
    known = {key: one.preset for key, one in all_targets(connection).items()}
    for wanted in file.destinations:
        target_id = renamed.get(wanted.target_id, wanted.target_id)
        _place_destination(context, connection, project_id, wanted, known.get(target_id), report)
    for rule in file.auto_deliver:
        target = rule.target_id and renamed.get(rule.target_id, rule.target_id)
        if (rule.set_name and rule.set_name not in ids) or (target and target not in known):
            report.skipped.append(f"auto-deliver of {rule.set_name or 'all sets'} to {target}")
            continue
        set_id = ids[rule.set_name] if rule.set_name else None
        auto_deliver.put(connection, project_id, AutoDeliverRule(set_id, target or None), kept=True)
    if file.auto_deliver:
        report.added.append(f"{len(file.auto_deliver)} auto-deliver rules")
    for url in file.webhooks:
        try:
            made = webhooks.add(connection, project_id, checked_url(url), secrets.token_urlsafe(32))
        except ParameterError as error:
            report.skipped.append(f"webhook: {error.message}")
            continue
        webhooks.set_paused(connection, made.id, paused=True)
        report.added.append(f"webhook {url}, paused: add it again to get its new secret")
    return report


def _free(base: str, taken: Iterable[str], pattern: str) -> str:
    used = {one.lower() for one in taken}
    n = 2
    while (name := pattern.format(base=base, n=n)).lower() in used:
        n += 1
    return name


def _place_targets(
    connection: Transaction, file: ProjectFile, report: ImportReport
) -> dict[str, str]:
    """Add targets; return the new ids of those that had to be renamed."""
    known = {key: one.preset for key, one in all_targets(connection).items()}
    renamed: dict[str, str] = {}
    for preset in file.targets:
        if known.get(preset.id) == preset:
            report.merged.append(f"target {preset.title}")
            continue
        new = preset
        if preset.id in known:
            own = re.compile(re.escape(preset.id[:60]) + r"-\d+")
            same = (
                key
                for key, one in known.items()
                if own.fullmatch(key) and one == _called(preset, key)
            )
            if (found := next(same, None)) is not None:  # from an earlier import
                renamed[preset.id] = found
                report.merged.append(f"target {preset.title} as {found}")
                continue
            new = _called(preset, _free(preset.id[:60], known, "{base}-{n}"))
            renamed[preset.id] = new.id
        targets.add_target(connection, new)
        known[new.id] = new
        other = "" if new is preset else f" as {new.id}: another target has its id"
        report.added.append(f"target {preset.title}{other}")
    return renamed


def _called(preset: TargetPreset, new: str) -> TargetPreset:
    return preset.model_copy(update={"id": new})


def _place_recipes(connection: Transaction, file: ProjectFile, report: ImportReport) -> None:
    known = {}
    for one in recipes.list_recipes(connection):
        known[one.name.lower()] = one.definition
    for recipe in file.recipes:
        definition = recipe.model_dump(mode="json")
        # Also under the name that an earlier import gave it.
        own = re.compile(re.escape(recipe.name[:74].lower()) + r"( \(\d+\))?")
        held = [
            one for name, one in known.items() if name == recipe.name.lower() or own.fullmatch(name)
        ]
        if definition in [{**one, "name": recipe.name} for one in held]:
            report.merged.append(f"recipe {recipe.name}")
            continue
        new = recipe
        if recipe.name.lower() in known:
            name = _free(recipe.name[:74], known, "{base} ({n})")
            new = recipe.model_copy(update={"name": name})
        recipes.put_recipe(connection, new, replace=False)
        known[new.name.lower()] = new.model_dump(mode="json")
        other = "" if new is recipe else f" as {new.name}: another recipe has its name"
        report.added.append(f"recipe {recipe.name}{other}")


def _place_cards(connection: Transaction, file: ProjectFile, report: ImportReport) -> None:
    for card in file.source_cards:
        held = arrivals.get_card(connection, card.name)
        if held is None:
            arrivals.put_card(connection, card)
            report.added.append(f"source card {card.name}")
        elif held == card:
            report.merged.append(f"source card {card.name}")
        else:  # sets name their card, so it can't be called otherwise
            report.skipped.append(
                f"source card {card.name}: the server has a different one with this name"
            )


def _place_destination(  # noqa: PLR0917
    context: Context,
    connection: Transaction,
    project_id: int,
    wanted: DestinationInFile,
    preset: TargetPreset | None,
    report: ImportReport,
) -> None:
    title = f"destination of {preset.title if preset else wanted.target_id}"
    if preset is None:
        report.skipped.append(f"{title}: the server has no such target")
        return
    try:
        folder = context.places().path(wanted.folder)
        if ".." in folder.parts:
            raise DeliveryError(f"{wanted.folder} points outside its root folder")
        destination_rules.root_of(context.settings, folder)
        destination_rules.parts_of(wanted.pattern, dict.fromkeys(("target", "set", "project"), "x"))
        options = TargetOptions.model_validate(wanted.options)
        options.of(preset)
        if options.copy_to is not None:
            destination_rules.check_copy(context.settings, options.copy_to)
    except (SieveError, ValidationError) as error:
        why = error.message if isinstance(error, SieveError) else "its overrides are invalid"
        report.skipped.append(f"{title}: {why}")
        return
    kept = StoredDestination(preset.id, folder, wanted.pattern, wanted.options)
    destinations.put(connection, project_id, kept)
    report.added.append(title)
