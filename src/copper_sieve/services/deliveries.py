"""Deliveries: create, list, cancel and retry."""

from __future__ import annotations

import time
from collections.abc import Callable, Iterable, Mapping, Sequence
from contextlib import suppress
from dataclasses import dataclass

from copper_sieve.core.errors import (
    ConflictError,
    DeliveryError,
    SieveError,
)
from copper_sieve.core.export.deliver import unchanged_delivery
from copper_sieve.core.export.stager import DeliveryOptions
from copper_sieve.services.context import Context
from copper_sieve.services.delivery_preview import Cell, DryRunPart, preview_files
from copper_sieve.services.file_signatures import checksums_of, signatures_of
from copper_sieve.store import deliveries, delivery_parts, texture_sets, webhooks
from copper_sieve.store.delivery_rows import ActiveDelivery, ExistingPart, NewPart, StoredDelivery
from copper_sieve.store.projects import get_project
from copper_sieve.store.texture_sets import StoredSet


@dataclass(frozen=True, slots=True)
class Skipped:
    """A set and target that a delivery leaves out, with the reason."""

    set_id: int
    set_name: str
    target_id: str
    reason: str


@dataclass(frozen=True, slots=True)
class DeliveryRequest:
    """Options of a delivery.

    longer_side : texels, overrides the target's size
    delete_obsolete : delete files of earlier deliveries that this one no longer contains
    rewrite : write every file, even if unchanged
    """

    longer_side: int | None = None
    delete_obsolete: bool = False
    rewrite: bool = False


USUAL = DeliveryRequest()


def create_delivery(
    context: Context,
    project_slug: str,
    cells: Iterable[Cell],
    options: DeliveryRequest = USUAL,
    on_skip: Callable[[Skipped], None] | None = None,
) -> StoredDelivery:
    """Create a delivery of the current sets, which waits in the queue.

    Parameters
    ----------
    context : Context
    project_slug : str
    cells : iterable of (set id, target id)
    options : DeliveryRequest
    on_skip : callable, optional
        Called with each set and target that can't be delivered. Default: none may be skipped.

    Raises
    ------
    DeliveryError
        All of them, or one that may not be skipped, can't be delivered; no delivery is created.
    """
    every = preview_files(context, project_slug, cells, options.longer_side)
    skipped = [
        Skipped(part.set_id, part.set_name, part.target_id, part.error)
        for part in every
        if part.error
    ]
    planned = [part for part in every if part.error is None]
    _check_possible(planned, skipped, may_skip=on_skip is not None)
    ids = list({part.set_id for part in planned})
    existing = _existing_parts(context, planned, options)
    with context.database.transaction() as connection:
        project = get_project(connection, project_slug)
        kept = {one.id: one for one in texture_sets.list_sets(connection, project.id, ids)}
        if set(ids) - set(kept):
            raise ConflictError("a set was deleted in the meantime. Reload the page")
        delivery_id = deliveries.add_delivery(
            connection,
            project.id,
            [_new_part(part, kept[part.set_id], options, existing) for part in planned],
        )
        context.enqueue(connection, delivery_id)
    if on_skip:
        for one in skipped:
            on_skip(one)
    return get(context, delivery_id)


def _new_part(
    part: DryRunPart,
    kept: StoredSet,
    options: DeliveryRequest,
    existing: Mapping[Cell, ExistingPart],
) -> NewPart:
    return NewPart(
        part.set_id,
        part.target_id,
        kept.stored,
        part.preset.model_dump(mode="json"),
        options.longer_side,
        part.folder,
        part.manifest_name,
        part.export.memory if part.export else 0,
        options.delete_obsolete,
        options.rewrite,
        existing.get((part.set_id, part.target_id)),
    )


def _check_possible(
    planned: Sequence[DryRunPart], skipped: Sequence[Skipped], *, may_skip: bool
) -> None:
    if planned and (may_skip or not skipped):
        return
    if not skipped:
        raise DeliveryError("Nothing to deliver. Select at least one set and one target")
    first = skipped[0]
    more = f" ({len(skipped) - 1} more can't be delivered either)" if skipped[1:] else ""
    raise DeliveryError(f"{first.set_name} for {first.target_id}: {first.reason}{more}")


_LOOKS_FOR = 3.0  # seconds; workers look at the rest


def _existing_parts(
    context: Context, planned: list[DryRunPart], options: DeliveryRequest
) -> dict[Cell, ExistingPart]:
    """Return the existing files that would be unchanged."""
    folders = [part.folder for part in planned if part.folder.is_dir()]
    if options.rewrite or not folders:
        return {}
    with context.database.transaction() as connection:
        proven = deliveries.verified_in_folders(connection, folders)
    found = {}
    end = time.monotonic() + _LOOKS_FOR
    for part in planned:
        known = proven.get((part.folder, part.manifest_name))
        if part.export is None or known is None or part.copies:  # a worker looks at the copy
            continue
        checks = checksums_of(part.folder, known)
        with suppress(SieveError):
            writing = DeliveryOptions(
                checks, delete_obsolete=options.delete_obsolete, manifest_name=part.manifest_name
            )
            if same := unchanged_delivery(
                part.export, part.folder, sizes=part.sizes, options=writing
            ):
                held = same.delivered
                found[part.set_id, part.target_id] = ExistingPart(
                    held.manifest.model_dump(mode="json"),
                    held.assay.model_dump(mode="json"),
                    same.kept,
                    signatures_of(part.folder, held.manifest),
                )
        if time.monotonic() > end:
            break
    return found


def get(context: Context, delivery_id: int) -> StoredDelivery:
    """Return a delivery with its parts. Raises NotFoundError."""
    with context.database.transaction() as connection:
        return deliveries.get_delivery(connection, delivery_id)


def under_way(context: Context, project_slug: str) -> list[ActiveDelivery]:
    """Return the deliveries of a project that wait or run, newest first, without their parts."""
    with context.database.transaction() as connection:
        project = get_project(connection, project_slug)
        return deliveries.under_way(connection, project.id)


def cancel(context: Context, delivery_id: int) -> StoredDelivery:
    """Cancel the waiting and running parts of a delivery; delivered parts stay.

    Raises ConflictError if it has ended already.
    """
    with context.database.transaction() as connection:
        given_up = delivery_parts.cancel(connection, delivery_id)
        delivery = deliveries.get_delivery(connection, delivery_id)
    if not given_up:
        raise ConflictError(f"delivery {delivery_id} has already ended: {delivery.state}")
    return delivery


def retry(context: Context, delivery_id: int) -> StoredDelivery:
    """Let failed and cancelled parts of a delivery wait again.

    Raises NotFoundError, ConflictError if there are none.
    """
    with context.database.transaction() as connection:
        deliveries.get_delivery(connection, delivery_id)
        if not delivery_parts.retry(connection, delivery_id):
            raise ConflictError(f"no part of delivery {delivery_id} failed")
        webhooks.set_reported(connection, delivery_id, reported=False)
        context.enqueue(connection, delivery_id)
        return deliveries.get_delivery(connection, delivery_id)
