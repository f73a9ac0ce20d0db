"""A lane of a worker: a process that carries out the tasks of one queue, one after the other."""

from __future__ import annotations

import asyncio
import contextlib
import logging
import os
import threading
import time
from collections.abc import Callable, Iterator
from dataclasses import dataclass

import procrastinate
from procrastinate import App

from copper_sieve.core.errors import DatabaseUnavailableError
from copper_sieve.jobs.queue import DELIVERIES, add_tasks, connect_queue
from copper_sieve.jobs.watchdog import watchdog
from copper_sieve.services import delivery_worker, recovery
from copper_sieve.services.context import Context
from copper_sieve.services.idle import IdleThread
from copper_sieve.services.jobs.execution import carry_out
from copper_sieve.services.jobs.requests import ask_for_missing
from copper_sieve.settings import Settings
from copper_sieve.store.database import Database

_log = logging.getLogger(__name__)
_RECOVER_EVERY = 3.0  # seconds
_HEARTBEAT = 2.0  # seconds between heartbeats of a worker
# A worker without a heartbeat for this time counts as dead. Computations may block the interpreter
# for a second or two, so a shorter time would take jobs from living workers.
_DEAD_AFTER = 8.0
_LAST_TASK = 100.0  # seconds for a task to return to the queue when the lane stops
_GOODBYE = 5.0  # seconds until the process exits after that


@dataclass(frozen=True, slots=True)
class _Lane:
    """Context of the tasks of a lane."""

    name: str
    context: Context
    rest: IdleThread
    stopping: threading.Event
    idle: threading.Event

    def deliver(self, delivery_id: int) -> None:
        """Carry out waiting parts of deliveries until there are none."""
        _log.debug("called for delivery %s", delivery_id)
        with self._awake():
            delivery_worker.run(self.context, None, self.stopping.is_set)

    def carry_out(self, job_id: int) -> None:
        """Carry out one job within the limits of this process."""
        with self._awake():
            carry_out(
                self.context, job_id, self.stopping.is_set,
                lambda running: watchdog(self.context, running),
            )  # fmt: skip

    @contextlib.contextmanager
    def _awake(self) -> Iterator[None]:
        self.idle.clear()
        try:
            yield
        finally:
            self.idle.set()
            self.rest.disturb()

    def leave_in_time(self) -> None:
        """Exit the process some time after its last task on a stop request, because closing
        connections to an unreachable database may take long.
        """
        self.stopping.wait()
        self.idle.wait(_LAST_TASK)
        time.sleep(_GOODBYE)
        os._exit(0)


def run_lane(
    name: str, settings: Settings, dsn: str, on_stop: Callable[[Callable[[], None]], None]
) -> None:
    """Carry out the tasks of a lane until it is stopped.

    name : of the queue
    on_stop : registers a function to be called on a stop request
    Unfinished tasks return to the queue and leave no partial output.
    """
    stopping = threading.Event()
    on_stop(stopping.set)
    database = Database(dsn, size=4)
    context = Context(settings, database, lambda *_: None)
    context.clear_left_behind()  # of a lane that was killed
    connect_queue(context)
    rest = IdleThread(context.memory, also=context.models.forget)
    rest.start()
    lane = _Lane(name, context, rest, stopping, threading.Event())
    lane.idle.set()
    threading.Thread(target=lane.leave_in_time, name="leave", daemon=True).start()
    try:
        asyncio.run(_run(lane, dsn))
    finally:
        rest.stop()
        context.close()
        database.close()


async def _run(lane: _Lane, dsn: str) -> None:
    app = App(connector=procrastinate.PsycopgConnector(conninfo=dsn, min_size=1, max_size=4))
    add_tasks(app, lane.deliver, lane.carry_out)
    async with app.open_async():
        worker = asyncio.create_task(
            app.run_worker_async(
                queues=[lane.name],
                name=f"{lane.name} {os.getpid()}",
                concurrency=1,
                install_signal_handlers=False,
                fetch_job_polling_interval=2.0,
                delete_jobs="successful",
                update_heartbeat_interval=_HEARTBEAT,
                stalled_worker_timeout=_DEAD_AFTER,
            )
        )
        watcher = asyncio.create_task(_recover_again_and_again(lane, app))
        await asyncio.wait({worker, watcher}, return_when=asyncio.FIRST_COMPLETED)
        lane.stopping.set()
        watcher.cancel()
        worker.cancel()
        with contextlib.suppress(asyncio.CancelledError):
            await worker


async def _recover_again_and_again(lane: _Lane, app: App) -> None:
    """Queue the tasks of dead workers again, until this process is stopped."""
    last = 0.0
    while not lane.stopping.is_set():
        if time.monotonic() - last >= _RECOVER_EVERY:
            last = time.monotonic()
            try:
                await _recover(lane, app)
            except DatabaseUnavailableError:  # retried in the next round
                _log.warning("database unavailable; retrying")
            except Exception:
                _log.exception("couldn't check for abandoned work")
        await asyncio.sleep(0.1)


async def _recover(lane: _Lane, app: App) -> None:
    if lane.name == DELIVERIES:
        if again := await asyncio.to_thread(recovery.recover, lane.context):
            _log.warning("deliveries queued again: %s", again)
        return
    stalled = await app.job_manager.get_stalled_jobs(
        queue=lane.name, seconds_since_heartbeat=_DEAD_AFTER
    )
    for task in stalled:
        _log.warning("job queued again: %s", task.task_kwargs)
        with contextlib.suppress(procrastinate.exceptions.ConnectorException):  # by another worker
            await app.job_manager.retry_job(task)
    if lane.name == "files":
        await asyncio.to_thread(ask_for_missing, lane.context)
