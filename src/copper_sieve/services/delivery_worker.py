"""Carry out deliveries in a worker, part by part: write to a hidden folder, verify, swap, record.

Any number of workers on any number of machines share a delivery: each takes the next waiting part
that fits in its machine's memory. A failed part leaves its folder unchanged.
"""

from __future__ import annotations

import logging
import threading
import time
from collections.abc import Callable
from typing import TypeVar

from copper_sieve.core.errors import (
    CancelledError,
    ConflictError,
    DatabaseUnavailableError,
    PartialDeliveryError,
    SieveError,
)
from copper_sieve.core.export.atomic_swap import swapped_in
from copper_sieve.core.export.deliver import stage
from copper_sieve.core.export.export_plan import ExportPlan
from copper_sieve.core.export.planning import plan_export
from copper_sieve.core.export.stager import DeliveryOptions, Staged
from copper_sieve.core.graph.geometry import Size
from copper_sieve.core.image.raster import Picture
from copper_sieve.core.mesh.mesh import Mesh
from copper_sieve.core.models.assay import FileCheck
from copper_sieve.core.models.texture_set import SetDefinition
from copper_sieve.core.targets.target_preset import TargetPreset
from copper_sieve.services import destinations, shared_storage
from copper_sieve.services.context import Context
from copper_sieve.services.file_signatures import checksums_of, signatures_of
from copper_sieve.services.islands import coverage_of, known_models
from copper_sieve.services.machine import this_machine
from copper_sieve.store import deliveries, delivery_parts
from copper_sieve.store.copies import copy_to
from copper_sieve.store.database import HeldLock, Transaction
from copper_sieve.store.delivery_parts import Attempt
from copper_sieve.store.delivery_rows import Stamps, StoredPart
from copper_sieve.store.sources import source_sizes

_log = logging.getLogger(__name__)
T = TypeVar("T")
_REPORT_EVERY = 0.2  # seconds
_PATIENCE = 120.0  # seconds that a part under way waits for the database to come back
_TRY_EVERY = 0.5
_LOOK_AGAIN = 0.2  # seconds, for a part that does not fit into the memory that is left


def run(
    context: Context,
    delivery_id: int | None = None,
    is_stopping: Callable[[], bool] = lambda: False,
) -> int:
    """Carry out waiting parts of one or all deliveries; returns their number.

    An advisory lock is held for each part, so that no other worker takes it and a crash is visible
    immediately. If the worker is stopped or loses the lock with the database, the part returns to
    the queue without counting as an attempt. Raises DatabaseUnavailableError.
    """
    machine = this_machine(context.settings)
    taken: set[int] = set()  # by somebody else in this moment, or given back by us
    last_set: int | None = None
    done = 0
    with context.database.locks() as locks:
        while True:
            with context.database.transaction() as connection:
                number = delivery_parts.next_part(connection, machine, taken, delivery_id, last_set)
                waits = 0 if number else delivery_parts.waiting(connection, delivery_id, taken)
            if number is None:
                if not waits or is_stopping():
                    return done
                time.sleep(_LOOK_AGAIN)
                continue
            with locks.hold(number) as lock:
                attempt = None
                if lock:
                    with context.database.transaction() as connection:
                        attempt = delivery_parts.begin(connection, number, machine)
                if attempt is None:
                    taken.add(number)
                    continue
                _Run(context, attempt, lock, is_stopping).carry_out()
            done, last_set = done + 1, attempt.set_id
            if is_stopping():
                return done
            taken = {number}  # not again at once, where it was put back


class _Run:
    """An attempt at one part."""

    def __init__(
        self, context: Context, attempt: Attempt, lock: HeldLock, is_stopping: Callable[[], bool]
    ) -> None:
        self._context, self._attempt = context, attempt
        self._lock, self._is_stopping = lock, is_stopping
        self._reporter = _Reporter(context, attempt)

    def carry_out(self) -> None:
        """Run the part and record how it ended."""
        error = None
        try:
            self._deliver()
        except CancelledError:
            self._note_end(None)
        except DatabaseUnavailableError:
            self._note_end(None)
        except PartialDeliveryError as problem:
            error = problem.message
        except SieveError as problem:
            error = _with_comfort(problem.message)
        except MemoryError:
            error = _with_comfort("not enough memory for this size. Deliver a smaller size")
        except Exception as problem:
            _log.exception(
                "delivery %s, part %s failed", self._attempt.delivery_id, self._attempt.n
            )
            error = _with_comfort(f"unexpected error: {problem}")
        if error is not None:
            self._note_end(error)

    def _deliver(self) -> None:
        part, export, sizes, proven = self._patiently(self._prepared)

        def load(sha256: str) -> Picture:
            return self._patiently(lambda: self._context.load_source(sha256))

        def load_model(sha256: str) -> Mesh:
            return self._patiently(lambda: self._context.load_model(sha256))

        shared_storage.fetch(self._context, part.folder, part.manifest_name)
        staged = stage(
            export,
            part.folder,
            sizes=sizes,
            load_source=load,
            token=str(self._attempt.number),
            cache=self._context.cache if part.small else self._context.batch_cache,
            options=DeliveryOptions(proven, part.rewrite, part.delete_obsolete, part.manifest_name),
            on_progress=self._reporter.report,
            is_cancelled=self._is_cancelled,
            stock=self._context.stock,
            load_model=load_model,
            root=destinations.root_of(self._context.settings, part.folder),
        )
        try:
            self._share(part, staged)
            self._copy(part, staged)
            self._lock.check()
            with swapped_in(
                [] if staged.is_same else [staged.place],
                is_cancelled=self._is_cancelled,
                undecided=(DatabaseUnavailableError,),
            ):
                self._note_done(staged)
        finally:
            staged.place.discard()
            staged.place.close()
        done = staged.delivered
        self._note_end(None, signatures_of(part.folder, done.manifest))
        checks = {one.name: one for one in done.assay.files}
        self._context.stock.keep(part.folder, part.manifest_name, done.manifest, checks)

    def _share(self, part: StoredPart, staged: Staged) -> None:
        """Upload the staged files to the shared storage, if one is set, for other machines."""
        folder = part.folder if staged.is_same else staged.place.working
        shared_storage.send(
            self._context, part.folder, folder, part.manifest_name, self._is_cancelled
        )

    def _copy(self, part: StoredPart, staged: Staged) -> None:
        """Upload the copy before the local swap, so that a failure leaves this folder unchanged."""
        place = self._patiently(lambda: self._copy_place(part))
        if place is not None:
            self._reporter.report(0.96, f"copying to {place}")
            folder = part.folder if staged.is_same else staged.place.working
            copy_to(place, folder, part.manifest_name, is_cancelled=self._is_cancelled)

    def _copy_place(self, part: StoredPart) -> str | None:
        with self._context.database.transaction() as connection:
            project_id = deliveries.project_of(connection, part.delivery_id)
            found = destinations.of_project(
                self._context.settings, connection, project_id, part.project
            )
        chosen = found.get(part.target_id)
        if chosen is None or chosen.options.copy_to is None:
            return None
        destinations.check_copy(self._context.settings, chosen.options.copy_to)
        return chosen.copy_place(part.project, part.set_name)

    def _prepared(self) -> tuple[StoredPart, ExportPlan, dict[str, Size], dict[str, FileCheck]]:
        with self._context.database.transaction() as connection:
            part = deliveries.get_part(connection, self._attempt.delivery_id, self._attempt.n)
            proven = deliveries.verified_in_folder(connection, part.folder, part.manifest_name)
            export, sizes = _packing_of(self._context, connection, part)
        return part, export, sizes, checksums_of(part.folder, proven)

    def _note_done(self, staged: Staged) -> None:
        """Record that the part is delivered."""
        with self._context.database.transaction() as connection:
            noted = delivery_parts.finish_part(
                connection,
                self._attempt,
                manifest=staged.delivered.manifest.model_dump(mode="json"),
                assay=staged.delivered.assay.model_dump(mode="json"),
                written=staged.written,
                kept=staged.kept,
                clearing=not staged.is_same,
            )
        if not noted:  # somebody gave us up, or it was cancelled
            raise CancelledError

    def _note_end(self, error: str | None, stamps: Stamps | None = None) -> None:
        """Record a failure, or that nothing is left to clean up.

        In the second case, an attempt that was stopped without a cancel waits again.
        """

        def note() -> None:
            with self._context.database.transaction() as connection:
                if error is not None:
                    delivery_parts.fail(connection, self._attempt, error)
                elif delivery_parts.requeue(connection, self._attempt, counts=False):
                    self._context.enqueue(connection, self._attempt.delivery_id)
                delivery_parts.clear_results(connection, self._attempt, stamps)

        try:
            self._patiently(note)
        except DatabaseUnavailableError:
            _log.warning("couldn't record the end of part %s", self._attempt)

    def _is_cancelled(self) -> bool:
        return self._reporter.cancelled or self._is_stopping()

    def _patiently(self, ask: Callable[[], T]) -> T:
        """Repeat a database access for some time until the database is available."""
        end = time.monotonic() + _PATIENCE
        while True:
            try:
                return ask()
            except DatabaseUnavailableError:
                if time.monotonic() > end or self._is_cancelled():
                    raise
                time.sleep(_TRY_EVERY)


def _with_comfort(error: str) -> str:
    """Append that nothing was changed, if all changes were staged only or reverted."""
    comfort = "nothing was changed"
    return error if comfort in error else f"{error.rstrip('.')}; {comfort}"


class _Reporter:
    """Stores the progress at intervals and detects cancel requests."""

    def __init__(self, context: Context, attempt: Attempt) -> None:
        self._context, self._attempt = context, attempt
        self._last = 0.0
        self._lock = threading.Lock()
        self.cancelled = False

    def report(self, share: float, step: str) -> None:
        """Report the completed share and the current step. Raises CancelledError."""
        with self._lock:
            now = time.monotonic()
            if now - self._last < _REPORT_EVERY:
                return
            self._last = now
            try:
                with self._context.database.transaction() as connection:
                    self.cancelled = delivery_parts.report(connection, self._attempt, share, step)
            except DatabaseUnavailableError:  # a missing progress report doesn't stop the work
                self._last = time.monotonic()


def packing_of(context: Context, part: StoredPart) -> tuple[ExportPlan, dict[str, Size]]:
    """Return the export plan of a part, from its stored set and target, and the source sizes."""
    with context.database.transaction() as connection:
        return _packing_of(context, connection, part)


def _packing_of(
    context: Context, connection: Transaction, part: StoredPart
) -> tuple[ExportPlan, dict[str, Size]]:
    texture_set = SetDefinition.model_validate(part.definition)
    sizes = source_sizes(connection, texture_set.sources())
    if texture_set.sources() - set(sizes):
        raise ConflictError(
            f"An original of {part.set_name} was deleted with the Trash. Deliver the current "
            "version of the set instead"
        )
    earlier = deliveries.find_by_idempotency_key(
        connection, part.set_id, part.target_id, part.delivery_id
    )
    export = plan_export(
        TargetPreset.model_validate(part.preset),
        texture_set,
        sizes,
        longer_side=part.longer_side,
        project=part.project,
        delivery=1 + earlier,
        coverage=coverage_of(context, texture_set, known_models(connection, [texture_set])),
    )
    return export, sizes
