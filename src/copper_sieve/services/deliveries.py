"""Deliveries: say what will be written, ask for it, watch it, stop it."""

from __future__ import annotations

from collections.abc import Iterable
from dataclasses import dataclass
from pathlib import Path

from copper_sieve.core.errors import ConflictError, DeliveryError, NotFoundError, SieveError
from copper_sieve.core.export.deliver import replaced_files
from copper_sieve.core.export.export_plan import ExportPlan
from copper_sieve.core.export.planning import plan_export
from copper_sieve.core.models.texture_set import SetDefinition
from copper_sieve.core.targets.target_preset import TargetPreset
from copper_sieve.services.context import Context
from copper_sieve.services.targets import find_target
from copper_sieve.store import deliveries, texture_sets
from copper_sieve.store.deliveries import KeptDelivery, NewPart
from copper_sieve.store.projects import get_project
from copper_sieve.store.sources import source_sizes


@dataclass(frozen=True, slots=True)
class DryRunPart:
    """What one set for one target would write, and the state of each name in its folder."""

    set_id: int
    export: ExportPlan | None
    preset: TargetPreset
    set_name: str
    folder: Path
    states: dict[str, str]
    error: str | None

    @property
    def target_id(self) -> str:
        """The id of its target."""
        return self.preset.id


def dry_run(
    context: Context,
    project_slug: str,
    set_ids: Iterable[int],
    target_ids: Iterable[str],
    longer_side: int | None = None,
) -> list[DryRunPart]:
    """Every file that a delivery would write, before anything is computed or written.

    What cannot be delivered has an `error` instead of a export. Raises NotFoundError.
    """
    parts = []
    with context.database.transaction() as connection:
        presets = [find_target(connection, target_id) for target_id in dict.fromkeys(target_ids)]
        project = get_project(connection, project_slug)
        for set_id in dict.fromkeys(set_ids):
            kept = texture_sets.get_set(connection, set_id)
            if kept.project_id != project.id:
                raise NotFoundError(f"there is no texture set {set_id} in {project_slug}")
            texture_set = kept.definition()
            sizes = source_sizes(connection, texture_set.sources())
            for preset in presets:
                folder = context.settings.delivery_root / project_slug / preset.id / kept.name
                number = 1 + deliveries.asked_before(connection, set_id, preset.id)
                parts.append(
                    _dry_part(set_id, texture_set, preset, sizes, folder, project_slug,
                              longer_side, number)
                )  # fmt: skip
    return parts


def _dry_part(  # noqa: PLR0917
    set_id: int,
    texture_set: SetDefinition,
    preset: TargetPreset,
    sizes: dict[str, tuple[int, int]],
    folder: Path,
    project_slug: str,
    longer_side: int | None,
    number: int,
) -> DryRunPart:
    export, states, error = None, {}, None
    try:
        export = plan_export(
            preset, texture_set, sizes, longer_side=longer_side, project=project_slug,
            delivery=number,
        )  # fmt: skip
        states = replaced_files(folder, export)
        if foreign := [name for name, state in states.items() if state == "foreign"]:
            error = (
                f"{foreign[0]} is already in {folder} and was not written by a delivery: "
                "move it away"
            )
    except SieveError as problem:
        error = problem.message
    return DryRunPart(set_id, export, preset, texture_set.name, folder, states, error)


def ask(
    context: Context,
    project_slug: str,
    set_ids: Iterable[int],
    target_ids: Iterable[str],
    longer_side: int | None = None,
) -> KeptDelivery:
    """Ask for a delivery of sets x targets as they are now; it waits in the queue.

    Raises DeliveryError when any part cannot be delivered; then nothing is asked for.
    """
    planned = dry_run(context, project_slug, set_ids, target_ids, longer_side)
    if not planned:
        raise DeliveryError("nothing to deliver: choose at least one set and one target")
    for part in planned:
        if part.error:
            raise DeliveryError(f"{part.set_name} for {part.target_id}: {part.error}")
    with context.database.transaction() as connection:
        project = get_project(connection, project_slug)
        definitions = {
            part.set_id: texture_sets.get_set(connection, part.set_id).stored for part in planned
        }
        delivery_id = deliveries.add_delivery(
            connection,
            project.id,
            [
                NewPart(
                    part.set_id,
                    part.target_id,
                    definitions[part.set_id],
                    part.preset.model_dump(mode="json"),
                    longer_side,
                    part.folder,
                )
                for part in planned
            ],
        )
        context.enqueue(connection, delivery_id)
    return get(context, delivery_id)


def get(context: Context, delivery_id: int) -> KeptDelivery:
    """One delivery with its parts. Raises NotFoundError."""
    with context.database.transaction() as connection:
        return deliveries.get_delivery(connection, delivery_id)


def list_all(context: Context, project_slug: str) -> list[KeptDelivery]:
    """The deliveries of a project, newest first."""
    with context.database.transaction() as connection:
        project = get_project(connection, project_slug)
        return deliveries.list_deliveries(connection, project.id)


def cancel(context: Context, delivery_id: int) -> KeptDelivery:
    """Ask a delivery to stop. Raises ConflictError when it has ended already."""
    with context.database.transaction() as connection:
        state = deliveries.ask_cancel(connection, delivery_id)
        delivery = deliveries.get_delivery(connection, delivery_id)
        if state == "queued":
            deliveries.finish(
                connection, delivery_id, "cancelled", None, delivery.attempts, was="queued"
            )
            delivery = deliveries.get_delivery(connection, delivery_id)
    if state is None:
        raise ConflictError(f"delivery {delivery_id} has ended already: {delivery.state}")
    return delivery
