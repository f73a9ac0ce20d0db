"""Carry deliveries out in a worker: stage every part, put all in place, note it, clear up.

A delivery is fenced by its attempt: whoever was given up (its database lock was lost) and goes on
all the same changes nothing in the database any more.
"""

from __future__ import annotations

import logging
import threading
import time
from collections.abc import Callable
from functools import partial
from typing import TypeVar

from copper_sieve.core.errors import (
    CancelledError,
    DatabaseAwayError,
    PartlyPlacedError,
    SieveError,
)
from copper_sieve.core.export.deliver import Staged, stage
from copper_sieve.core.export.export_plan import ExportPlan
from copper_sieve.core.export.placing import Place, clear_left_behind, in_place
from copper_sieve.core.export.planning import plan_export
from copper_sieve.core.image.raster import Picture
from copper_sieve.core.models.texture_set import SetDefinition
from copper_sieve.core.targets.target_preset import TargetPreset
from copper_sieve.services.context import Context
from copper_sieve.store import deliveries
from copper_sieve.store.database import HeldLock
from copper_sieve.store.deliveries import KeptDelivery, KeptPart, State
from copper_sieve.store.sources import source_sizes

_log = logging.getLogger(__name__)
T = TypeVar("T")
_MOST_ATTEMPTS = 3
_REPORT_EVERY = 0.2  # seconds
_PATIENCE = 120.0  # seconds that a delivery under way waits for the database to come back
_TRY_EVERY = 0.5


def run(
    context: Context, delivery_id: int, is_stopping: Callable[[], bool] = lambda: False
) -> None:
    """Carry a delivery out.

    An advisory lock is held throughout, so that no second worker takes it up and everybody can see
    at once when this process dies. A worker that is told to stop puts the delivery back in the
    queue, and so does one whose lock was lost with the database: that is no failure of the
    delivery, and no attempt of it.
    """
    with context.database.held_lock(delivery_id) as lock:
        if not lock:
            return
        with context.database.transaction() as connection:
            if (attempt := deliveries.begin(connection, delivery_id)) is None:
                return
            delivery = deliveries.get_delivery(connection, delivery_id)
        _Run(context, delivery, attempt, lock, is_stopping).carry_out()


class _Run:
    """One attempt at one delivery."""

    def __init__(
        self,
        context: Context,
        delivery: KeptDelivery,
        attempt: int,
        lock: HeldLock,
        is_stopping: Callable[[], bool],
    ) -> None:
        self._context, self._delivery, self._attempt = context, delivery, attempt
        self._lock, self._is_stopping = lock, is_stopping
        self._reporter = _Reporter(context, delivery.id, attempt, len(delivery.parts))

    def carry_out(self) -> None:
        """To the end, whichever it is, and have it noted."""
        state: State = "done"
        error = None
        try:
            self._deliver()
        except CancelledError:
            state = "cancelled" if self._reporter.cancelled else "queued"
        except DatabaseAwayError:
            state = "queued"
        except PartlyPlacedError as problem:
            state, error = "failed", problem.message
        except SieveError as problem:
            state, error = "failed", _with_comfort(problem.message)
        except MemoryError:
            text = "not enough memory for this size: deliver it smaller"
            state, error = "failed", _with_comfort(text)
        except Exception as problem:
            _log.exception("delivery %s failed", self._delivery.id)
            state, error = "failed", _with_comfort(f"unexpected error: {problem}")
        if state != "done":
            self._note_end(state, error)

    def _deliver(self) -> None:
        staged: list[Staged] = []
        try:
            for part in self._delivery.parts:
                staged.append(self._stage(part))
            self._reporter.report(len(staged) - 1, "putting the folders in place", always=True)
            self._lock.check()
            with in_place(
                [one.place for one in staged],
                is_cancelled=self._is_cancelled,
                undecided=(DatabaseAwayError,),
            ):
                self._note_parts(staged)
        finally:
            for one in staged:
                one.place.discard()
        self._note_end("done", None)

    def _stage(self, part: KeptPart) -> Staged:
        export, sizes = self._patiently(lambda: packing_of(self._context, part))

        def load(sha256: str) -> Picture:
            return self._patiently(lambda: self._context.load_source(sha256))

        name = f"{part.set_name}, {part.target_id}"
        return stage(
            export,
            part.folder,
            sizes=sizes,
            load_source=load,
            token=str(part.delivery_id),
            cache=self._context.cache,
            on_progress=lambda share, step: self._reporter.report(
                part.n + share, f"{name}: {step}"
            ),
            is_cancelled=self._is_cancelled,
        )

    def _note_parts(self, staged: list[Staged]) -> None:
        """The parts are delivered from here on: all of them, in one transaction."""
        with self._context.database.transaction() as connection:
            for part, one in zip(self._delivery.parts, staged, strict=True):
                noted = deliveries.finish_part(
                    connection,
                    part.delivery_id,
                    part.n,
                    attempt=self._attempt,
                    manifest=one.delivered.manifest.model_dump(mode="json"),
                    assay=one.delivered.assay.model_dump(mode="json"),
                )
                if not noted:  # somebody gave us up, or it was cancelled
                    raise CancelledError

    def _note_end(self, state: State, error: str | None) -> None:
        def note() -> None:
            with self._context.database.transaction() as connection:
                if state == "queued":
                    deliveries.requeue(connection, self._delivery.id, self._attempt, counts=False)
                    self._context.enqueue(connection, self._delivery.id)
                else:
                    deliveries.finish(connection, self._delivery.id, state, error, self._attempt)

        try:
            self._patiently(note)
        except DatabaseAwayError:
            _log.warning("delivery %s could not be noted as %s", self._delivery.id, state)

    def _is_cancelled(self) -> bool:
        return self._reporter.cancelled or self._is_stopping()

    def _patiently(self, ask: Callable[[], T]) -> T:
        """Ask the database again until it is back, for a while."""
        end = time.monotonic() + _PATIENCE
        while True:
            try:
                return ask()
            except DatabaseAwayError:
                if time.monotonic() > end or self._is_cancelled():
                    raise
                time.sleep(_TRY_EVERY)


def _with_comfort(error: str) -> str:
    """All was staged only, or taken back: say so, once."""
    comfort = "nothing was replaced"
    return error if comfort in error else f"{error.rstrip('.')}; {comfort}"


class _Reporter:
    """Stores the progress now and then and learns in return if a cancel was asked for."""

    def __init__(self, context: Context, delivery_id: int, attempt: int, parts: int) -> None:
        self._context, self._id, self._attempt, self._parts = context, delivery_id, attempt, parts
        self._last = 0.0
        self._lock = threading.Lock()
        self.cancelled = False

    def report(self, done: float, step: str, *, always: bool = False) -> None:
        """So many parts are done (with a share of the next), and this is under way."""
        with self._lock:
            now = time.monotonic()
            if now - self._last < _REPORT_EVERY and not always:
                return
            self._last = now
            try:
                with self._context.database.transaction() as connection:
                    self.cancelled = deliveries.report(
                        connection, self._id, self._attempt, done / self._parts, step
                    )
            except DatabaseAwayError:  # the work goes on without a word of it
                self._last = time.monotonic()


def packing_of(context: Context, part: KeptPart) -> tuple[ExportPlan, dict[str, tuple[int, int]]]:
    """What a part of a delivery writes, of the set and by the preset as they were when it was asked
    for; and the sizes of the set's sources."""
    texture_set = SetDefinition.model_validate(part.definition)
    with context.database.transaction() as connection:
        sizes = source_sizes(connection, texture_set.sources())
        earlier = deliveries.asked_before(connection, part.set_id, part.target_id, part.delivery_id)
    export = plan_export(
        TargetPreset.model_validate(part.preset),
        texture_set,
        sizes,
        longer_side=part.longer_side,
        project=part.folder.parent.parent.name,
        delivery=1 + earlier,
    )
    return export, sizes


def recover(context: Context) -> list[int]:
    """Find deliveries whose worker died and those whose job was lost, and queue them again.

    What the dead worker had put in place is kept if all of it was, and taken back if not; what it
    left half-written is removed. After three attempts a delivery is reported failed. Safe to call
    at any time from any worker. Returns the deliveries queued again.
    """
    with context.database.transaction() as connection:
        unfinished = deliveries.unfinished(connection)
    queued = []
    for one in unfinished:
        if one.state == "queued" and one.has_job:
            continue
        with context.database.held_lock(one.id) as held:
            if held and _recover_one(context, one.id):
                queued.append(one.id)
    return queued


def _recover_one(context: Context, delivery_id: int) -> bool:
    with context.database.transaction() as connection:
        delivery = deliveries.get_delivery(connection, delivery_id)
    if delivery.state not in ("queued", "running"):
        return False
    places = [Place(part.folder, str(delivery_id)) for part in delivery.parts]
    is_done = all(part.manifest for part in delivery.parts)
    stuck = clear_left_behind(places, done=is_done)
    if stuck is None:  # it only lost its lock with the database, and gives itself up
        return False
    with context.database.transaction() as connection:
        attempt, was = delivery.attempts, delivery.state
        finish = partial(deliveries.finish, connection, delivery_id, attempt=attempt, was=was)
        if was == "running":
            deliveries.close_dead_jobs(connection, delivery_id)
        if is_done:
            finish("done", None)
        elif delivery.cancel_requested:
            finish("cancelled", None)
        elif stuck or (was == "running" and attempt >= _MOST_ATTEMPTS):
            finish("failed", _why(attempt, stuck))
        else:
            deliveries.requeue(connection, delivery_id, attempt, counts=True)
            context.enqueue(connection, delivery_id)
            return True
    return False


def _why(attempts: int, stuck: list[str]) -> str:
    times = "once" if attempts == 1 else f"{attempts} times"
    text = f"the worker died {times} while delivering"
    if stuck:
        return f"{text}; what could not be taken back: {'; '.join(stuck)}"
    return f"{text}; nothing was replaced"
