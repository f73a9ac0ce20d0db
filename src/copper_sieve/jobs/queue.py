"""The PostgreSQL task queue: its one task, how to fill it, and the worker that empties it."""

from __future__ import annotations

import asyncio
import contextlib
import logging
import os
import threading
from collections.abc import Callable
from pathlib import Path

import procrastinate
from procrastinate.exceptions import AlreadyEnqueued

from copper_sieve.core.errors import DatabaseAwayError
from copper_sieve.services import delivering, recovering
from copper_sieve.services.context import Context
from copper_sieve.services.resting import Rest
from copper_sieve.settings import Settings
from copper_sieve.store import delivery_parts
from copper_sieve.store.database import Database, Transaction
from copper_sieve.store.migrating import migrate

_log = logging.getLogger(__name__)
_RECOVER_EVERY = 3.0  # seconds
_MOST_JOBS = 16
PARENT_PIPE = "SIEVE_PARENT_PIPE"  # the environment's name for the pipe to the process above


def migrate_all(database: Database) -> list[str]:
    """Our tables and the queue's, as this version expects them. Raises SetupError."""
    manager = procrastinate.schema.SchemaManager
    folder = Path(manager.get_migrations_path())
    own = {path.name: path.read_text("utf-8") for path in sorted(folder.glob("*.sql"))}
    return migrate(database, manager.get_schema(), own)


def enqueuer() -> Callable[[Transaction, int], None]:
    """A function that queues a delivery: a job for each of its parts that wait, up to 16.

    A job says only that there is work: whoever takes one up carries out parts until none is left.
    It queues in the caller's transaction: a delivery and its jobs are there together or not at all.
    """
    # It is never opened: every job goes in over a connection of the caller's.
    app = procrastinate.App(connector=procrastinate.SyncPsycopgConnector())

    def enqueue(connection: Transaction, delivery_id: int) -> None:
        waits = delivery_parts.waiting(connection, delivery_id)
        for n in range(min(waits, _MOST_JOBS)):
            with contextlib.suppress(AlreadyEnqueued), connection.transaction():
                app.configure_task(
                    "deliver",
                    queue="deliveries",
                    queueing_lock=f"delivery-{delivery_id}-{n}",
                    connection=connection,
                ).defer(delivery_id=delivery_id)

    return enqueue


def work(settings: Settings, dsn: str, on_stop: Callable[[Callable[[], None]], None]) -> None:
    """Run a worker until it is told to stop or its parent dies.

    on_stop : takes what is to be called when we are to stop
    A part under way when the stop comes goes back to the queue and leaves nothing behind.
    """
    stopping = threading.Event()
    on_stop(stopping.set)
    _stop_without_parent(stopping)
    database = Database(dsn, size=4)
    context = Context(settings, database, enqueuer())
    rest = Rest(context.memory)
    rest.start()
    app = procrastinate.App(connector=procrastinate.PsycopgConnector(conninfo=dsn))

    @app.task(name="deliver", queue="deliveries")
    def deliver(delivery_id: int) -> None:
        try:
            _log.debug("called for delivery %s", delivery_id)
            delivering.run(context, None, stopping.is_set)
        finally:
            rest.disturb()

    async def main() -> None:
        async with app.open_async():
            worker = asyncio.create_task(
                app.run_worker_async(
                    concurrency=1,
                    install_signal_handlers=False,
                    fetch_job_polling_interval=2.0,
                    delete_jobs="successful",
                )
            )
            watcher = asyncio.create_task(_watch(context, stopping))
            await asyncio.wait({worker, watcher}, return_when=asyncio.FIRST_COMPLETED)
            stopping.set()
            worker.cancel()
            with contextlib.suppress(asyncio.CancelledError):
                await worker

    try:
        asyncio.run(main())
    finally:
        rest.stop()
        context.close()
        database.close()


def _stop_without_parent(stopping: threading.Event) -> None:
    """The pipe that the process above us holds ends with it, however and whenever it dies."""
    number = os.environ.pop(PARENT_PIPE, "")
    if not number:
        return

    def read() -> None:
        with contextlib.suppress(OSError):
            while os.read(int(number), 1):
                pass
        stopping.set()

    threading.Thread(target=read, name="parent", daemon=True).start()


async def _watch(context: Context, stopping: threading.Event) -> None:
    """Queue again what dead workers left, until we are to stop."""
    since = _RECOVER_EVERY
    while not stopping.is_set():
        if since >= _RECOVER_EVERY:
            since = 0.0
            try:
                if again := await asyncio.to_thread(recovering.recover, context):
                    _log.warning("deliveries queued again: %s", again)
            except DatabaseAwayError:  # the next round tries again
                _log.warning("the database is away; looking again soon")
            except Exception:
                _log.exception("looking for lost deliveries failed")
        await asyncio.sleep(0.2)
        since += 0.2
